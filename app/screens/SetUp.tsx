import type { ReactNode } from "react"
import { NavLink } from "react-router"
import { say } from "../messages/index.ts"

/** The pages of set-up that somebody may see. */
export interface SetUpRights {
  readonly stock: boolean
  readonly sources: boolean
  readonly customers: boolean
  readonly screening: boolean
  readonly rules: boolean
  readonly tariffs: boolean
  readonly charging: boolean
  readonly work: boolean
  readonly users: boolean
  readonly tokens: boolean
  readonly audit: boolean
}

/** The head of every page of set-up: its name, and the other pages. */
export function SetUpHead({ name, rights, children }: { name: string; rights: SetUpRights; children?: ReactNode }) {
  const pages = [
    { to: "/set-up/items", name: "set-up.items", shown: true },
    { to: "/set-up/stock", name: "set-up.stock", shown: rights.stock },
    { to: "/set-up/packaging", name: "set-up.packaging", shown: rights.stock },
    { to: "/set-up/floor", name: "set-up.floor", shown: rights.work },
    { to: "/set-up/addresses", name: "set-up.addresses", shown: true },
    { to: "/set-up/sources", name: "set-up.sources", shown: rights.sources },
    { to: "/set-up/customers", name: "set-up.customers", shown: rights.customers },
    { to: "/set-up/screening", name: "set-up.screening", shown: rights.screening },
    { to: "/set-up/rules", name: "set-up.rules", shown: rights.rules },
    { to: "/set-up/patterns", name: "set-up.patterns", shown: rights.rules },
    { to: "/set-up/carriers", name: "set-up.carriers", shown: rights.tariffs },
    { to: "/set-up/charging", name: "set-up.charging", shown: rights.charging },
    { to: "/set-up/work", name: "set-up.work", shown: rights.work },
    { to: "/set-up/outside", name: "set-up.outside", shown: rights.work },
    { to: "/set-up/users", name: "set-up.users", shown: rights.users },
    { to: "/set-up/api", name: "set-up.api", shown: rights.tokens },
    { to: "/set-up/changes", name: "set-up.changes", shown: rights.audit },
  ]
  return (
    <div className="place-head">
      <h1>{say(name)}</h1>
      <nav className="set-up-pages" aria-label={say("place.set-up")}>
        {pages
          .filter((page) => page.shown)
          .map((page) => (
            <NavLink key={page.to} to={page.to}>
              {say(page.name)}
            </NavLink>
          ))}
      </nav>
      {children}
    </div>
  )
}
