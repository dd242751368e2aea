import { reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { translation } from "words/catalogue.ts"
import { say } from "words/index.ts"

/**
 * Never run: the type checker reads it, and `@ts-expect-error` is itself an error where the line below it is right. So
 * the check fails when a wrong key, or a placeholder too many or too few, would compile.
 */
export function wrongWords() {
  // @ts-expect-error an unknown key
  say("day.no-such-words")
  // @ts-expect-error a figure is missing
  say("day.packed", { labelled: 3 })
  // @ts-expect-error a figure too many
  say("day.packed", { labelled: 3, togo: 4, gone: 5 })
  // @ts-expect-error what is counted is a number
  say("day.hands-set", { n: "three" })
  // @ts-expect-error words that need nothing
  say("day.title", { n: 1 })
  // @ts-expect-error a reason without words
  reason("stop.no-such-reason")
  // @ts-expect-error a reason without what its words name
  reason("stop.size-missing")
  translation({
    // @ts-expect-error a placeholder that English does not have
    "day.packed": "{labelled} etikettiert, {offen} offen",
    // @ts-expect-error a key that English does not have
    "day.no-such-words": "nichts",
  })
}

/** The same for the columns of tables: `server/db/tables.ts` has their types from the schema. */
export async function wrongColumns(db: Knex) {
  // @ts-expect-error a column that the table does not have
  await db("sales_order").where({ order_numbr: "48211" })
  // @ts-expect-error a number where the column is text
  await db("sales_order").where({ order_number: 48211 })
  // @ts-expect-error a column that must be given is missing
  await db("tote").insert({ code: "T1" })
  // @ts-expect-error a word that the column does not know
  await db("shipment").update({ state: "sold" })
  const order = await db("sales_order").first()
  // @ts-expect-error there may be no such row
  order.id
  // @ts-expect-error a column that the table does not have
  order?.bench_number
}
