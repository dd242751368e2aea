import { Input } from "@chakra-ui/react"
import { type KeyboardEvent, type ReactNode, useState } from "react"
import { NavLink, useNavigate } from "react-router"
import { type MessageKey, say } from "words/index.ts"

/** The pages of setup that somebody may see. */
export interface SetUpRights {
  readonly stock: boolean
  readonly sources: boolean
  readonly customers: boolean
  readonly screening: boolean
  readonly rules: boolean
  readonly tariffs: boolean
  readonly charging: boolean
  readonly warehouse: boolean
  readonly printers: boolean
  readonly defaults: boolean
  readonly users: boolean
  readonly tokens: boolean
  readonly audit: boolean
}

interface SetUpPage {
  readonly to: string
  /** `setup.` and this is its name, `setup.words.` and this what is set there, for the search. */
  readonly page:
    | "items"
    | "stock"
    | "packaging"
    | "floor-plan"
    | "addresses"
    | "sources"
    | "customers"
    | "messages"
    | "screening"
    | "rules"
    | "patterns"
    | "carriers"
    | "charging"
    | "handover"
    | "tracking"
    | "shifts"
    | "border"
    | "outside"
    | "printers"
    | "defaults"
    | "users"
    | "api"
    | "changes"
  readonly right: keyof SetUpRights | null
}

/** The pages of setup in their groups. */
const groups: readonly {
  readonly group: "goods" | "orders" | "shipping" | "people"
  readonly pages: readonly SetUpPage[]
}[] = [
  {
    group: "goods",
    pages: [
      { to: "/set-up/items", page: "items", right: null },
      { to: "/set-up/stock", page: "stock", right: "stock" },
      { to: "/set-up/packaging", page: "packaging", right: "stock" },
      { to: "/set-up/floor-plan", page: "floor-plan", right: "warehouse" },
    ],
  },
  {
    group: "orders",
    pages: [
      { to: "/set-up/sources", page: "sources", right: "sources" },
      { to: "/set-up/customers", page: "customers", right: "customers" },
      { to: "/set-up/addresses", page: "addresses", right: null },
      { to: "/set-up/messages", page: "messages", right: "customers" },
      { to: "/set-up/screening", page: "screening", right: "screening" },
    ],
  },
  {
    group: "shipping",
    pages: [
      { to: "/set-up/carriers", page: "carriers", right: "tariffs" },
      { to: "/set-up/handover", page: "handover", right: "warehouse" },
      { to: "/set-up/tracking", page: "tracking", right: "tariffs" },
      { to: "/set-up/charging", page: "charging", right: "charging" },
      { to: "/set-up/rules", page: "rules", right: "rules" },
      { to: "/set-up/patterns", page: "patterns", right: "rules" },
      { to: "/set-up/border", page: "border", right: "warehouse" },
      { to: "/set-up/printers", page: "printers", right: "printers" },
      { to: "/set-up/defaults", page: "defaults", right: "defaults" },
      { to: "/set-up/outside", page: "outside", right: "warehouse" },
    ],
  },
  {
    group: "people",
    pages: [
      { to: "/set-up/shifts", page: "shifts", right: "warehouse" },
      { to: "/set-up/users", page: "users", right: "users" },
      { to: "/set-up/api", page: "api", right: "tokens" },
      { to: "/set-up/changes", page: "changes", right: "audit" },
    ],
  },
]

/** The head of every page of setup: its name, a search, and the other pages in their groups. */
export function SetUpHead({ name, rights, children }: { name: MessageKey; rights: SetUpRights; children?: ReactNode }) {
  const [text, setText] = useState("")
  const navigate = useNavigate()
  const wanted = text.toLowerCase().split(/\s+/).filter(Boolean)
  const fits = ({ page }: SetUpPage) => {
    const about = `${say(`setup.${page}`)} ${say(`setup.words.${page}`)}`.toLowerCase()
    return wanted.every((word) => about.includes(word))
  }
  const shown = groups
    .map(({ group, pages }) => ({
      group,
      pages: pages.filter((one) => (one.right === null || rights[one.right]) && fits(one)),
    }))
    .filter(({ pages }) => pages.length > 0)
  const first = shown[0]?.pages[0]
  const enter = (event: KeyboardEvent) => {
    if (event.key === "Escape") setText("")
    if (event.key !== "Enter") return
    event.preventDefault()
    if (first && wanted.length > 0) void navigate(first.to)
  }
  return (
    <div className="place-head set-up-head">
      <h1>{say(name)}</h1>
      <div className="set-up-find">
        <label htmlFor="set-up-find">{say("setup.find")}</label>
        <Input
          id="set-up-find"
          size="sm"
          width="200px"
          maxLength={40}
          autoComplete="off"
          value={text}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={enter}
        />
      </div>
      {children}
      <nav className="set-up-groups" aria-label={say("place.setup")}>
        {shown.map(({ group, pages }) => (
          <div key={group}>
            <span>{say(`setup.group.${group}`)}</span>
            <p>
              {pages.map((page) => (
                <NavLink key={page.to} to={page.to}>
                  {say(`setup.${page.page}`)}
                </NavLink>
              ))}
            </p>
          </div>
        ))}
        {shown.length === 0 ? <p role="status">{say("setup.find-none", { text })}</p> : null}
      </nav>
    </div>
  )
}
