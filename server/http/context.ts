import type { WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { createContext } from "react-router"
import type { Context } from "../actors/index.ts"
import type { BodyRefusal } from "../bodies/limitBody.ts"
import type { DatabaseFault } from "../db/faults.ts"
import type { Warehouse } from "../setup/warehouse.ts"

/** What the server process gives each request before anybody is known. */
export interface RequestFrame {
  readonly db: Knex
  readonly nonce: string
  readonly requestId: string
  readonly address: string
  /** In demo mode only: accounts that the sign-in page offers, and their password. */
  readonly demo: { readonly password: string; readonly accounts: readonly string[] } | null
  readonly secure: boolean
  /** A body that was over a limit and not taken: the route does not run, the page says why. */
  readonly bodyRefusal: BodyRefusal | null
  /** Notes what a loader or an action threw: in the log, and for the answer's status. */
  readonly note: (error: unknown) => void
  /** What was noted, where it is the database's: it is away, or was given a bad value. */
  readonly fault: () => DatabaseFault | null
}

/** Who works where: set by the shell's middleware for every route behind the sign-in. */
export interface Work extends Context {
  readonly warehouse: Warehouse
  /** Warehouses where the actor may work, where that is known already. */
  readonly places?: readonly WarehouseId[]
}

export const frameContext = createContext<RequestFrame>()
export const workContext = createContext<Work>()
