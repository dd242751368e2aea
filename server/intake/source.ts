import type { Knex } from "knex"
import { z } from "zod"
import { parsed } from "../audit/index.ts"
import type { OrderSourceRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { type Mapping, mapping } from "../formats/mapping.ts"

export const sourceKinds = ["upload", "folder", "api", "pull", "typed"] as const
export type SourceKind = (typeof sourceKinds)[number]

/** Where orders come from: a name of its own, how it writes, and which of its own states mean what. */
export interface Source {
  readonly id: number
  readonly code: string
  readonly name: string
  readonly kind: SourceKind
  readonly active: boolean
  /** The source's own states that mean "to be shipped", in lower case; empty: every state does. */
  readonly shipStates: readonly string[]
  readonly cancelledStates: readonly string[]
  /** Address of the source's own record, with `{number}` in it. */
  readonly recordUrl: string | null
  readonly mapping: Mapping | null
  /** Its orders go to the warehouse that they came to, or to the nearest one that has all of an order. */
  readonly routing: "own" | "nearest"
  readonly version: number
}

const states = z.array(z.string())

export const sourceFromRow = (row: OrderSourceRow): Source => ({
  id: row.id,
  code: row.code,
  name: row.name,
  kind: row.kind,
  active: !!row.active,
  shipStates: states.parse(parsed(row.ship_states)),
  cancelledStates: states.parse(parsed(row.cancelled_states)),
  recordUrl: row.record_url,
  mapping: row.mapping === null ? null : mapping.parse(parsed(row.mapping)),
  routing: row.routing,
  version: row.version,
})

/** What a source wants of an order by the state that it gives it. */
export type Wish = "ship" | "wait" | "cancel"

/**
 * What the source's own state of an order asks for. A state that the setup does not name waits once states that ship
 * are named; without a state an order ships.
 */
export function wishOf(source: Pick<Source, "shipStates" | "cancelledStates">, state: string): Wish {
  const status = state.trim().toLowerCase()
  if (status !== "" && source.cancelledStates.includes(status)) return "cancel"
  return status === "" || source.shipStates.length === 0 || source.shipStates.includes(status) ? "ship" : "wait"
}

/** Where the source shows its own record of an order, or null when neither order nor source say. */
export const recordOf = (source: Pick<Source, "recordUrl">, number: string, own: string): string | null =>
  own || (source.recordUrl ? source.recordUrl.replaceAll("{number}", encodeURIComponent(number)) : null)

/** Sources by name. */
export const sourceNames = (db: Knex): Promise<{ code: string; name: string }[]> =>
  db("order_source").orderBy("name").select("code", "name")

export const sourceById = async (db: Knex, id: number): Promise<Source> =>
  sourceFromRow(there(await db("order_source").where({ id }).first()))
