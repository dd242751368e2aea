import type { Knex } from "knex"
import { createContext } from "react-router"
import type { Context } from "../accounts/index.ts"
import type { Warehouse } from "../setup/warehouse.ts"

/** What the server process gives each request before anybody is known. */
export interface RequestFrame {
  readonly db: Knex
  readonly nonce: string
  readonly requestId: string
  readonly address: string
  /** The password of all accounts, in demo mode only; the sign-in page then offers them. */
  readonly demoPassword: string | null
  readonly secure: boolean
}

/** Who works where: set by the shell's middleware for every route behind the sign-in. */
export interface Work extends Context {
  readonly warehouse: Warehouse
}

export const frameContext = createContext<RequestFrame>()
export const workContext = createContext<Work>()
