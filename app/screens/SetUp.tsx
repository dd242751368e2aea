import type { ReactNode } from "react"
import { NavLink } from "react-router"
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
  readonly users: boolean
  readonly tokens: boolean
  readonly audit: boolean
}

/** The head of every page of setup: its name, and the other pages. */
export function SetUpHead({ name, rights, children }: { name: MessageKey; rights: SetUpRights; children?: ReactNode }) {
  const pages: { to: string; name: MessageKey; shown: boolean }[] = [
    { to: "/set-up/items", name: "setup.items", shown: true },
    { to: "/set-up/stock", name: "setup.stock", shown: rights.stock },
    { to: "/set-up/packaging", name: "setup.packaging", shown: rights.stock },
    { to: "/set-up/floor-plan", name: "setup.floor-plan", shown: rights.warehouse },
    { to: "/set-up/addresses", name: "setup.addresses", shown: true },
    { to: "/set-up/sources", name: "setup.sources", shown: rights.sources },
    { to: "/set-up/customers", name: "setup.customers", shown: rights.customers },
    { to: "/set-up/screening", name: "setup.screening", shown: rights.screening },
    { to: "/set-up/rules", name: "setup.rules", shown: rights.rules },
    { to: "/set-up/patterns", name: "setup.patterns", shown: rights.rules },
    { to: "/set-up/carriers", name: "setup.carriers", shown: rights.tariffs },
    { to: "/set-up/charging", name: "setup.charging", shown: rights.charging },
    { to: "/set-up/shifts", name: "setup.shifts", shown: rights.warehouse },
    { to: "/set-up/outside", name: "setup.outside", shown: rights.warehouse },
    { to: "/set-up/users", name: "setup.users", shown: rights.users },
    { to: "/set-up/api", name: "setup.api", shown: rights.tokens },
    { to: "/set-up/changes", name: "setup.changes", shown: rights.audit },
  ]
  return (
    <div className="place-head">
      <h1>{say(name)}</h1>
      <nav className="set-up-pages" aria-label={say("place.setup")}>
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
