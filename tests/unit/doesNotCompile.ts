import type { LocalDate } from "core/calendar/index.ts"
import type { OrderId, StockId } from "core/ids/index.ts"
import { moneyText } from "core/money/index.ts"
import { reason } from "core/refusal/index.ts"
import { length, massIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { there } from "server/db/there.ts"
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
  const stocked = await db("stock").first("id").then(there)
  // @ts-expect-error the id of another table
  await db("order_line").update({ order_id: stocked.id })
  // @ts-expect-error any text is no day
  await db("shipment").update({ ship_date: "tomorrow" })
  const order = await db("sales_order").first()
  // @ts-expect-error there may be no such row
  order.id
  // @ts-expect-error a column that the table does not have
  order?.bench_number
}

/** The same for what looks alike and is not: ids of two tables, days, times of day, instants, masses and lengths, money. */
export function wrongKinds(order: OrderId, stock: StockId, text: string, instant: Date) {
  const shipped = (_: OrderId) => undefined
  const onDay = (_: LocalDate) => undefined
  // @ts-expect-error the id of another table
  shipped(stock)
  // @ts-expect-error any text is no day
  onDay(text)
  // @ts-expect-error an instant is no day: in which zone?
  onDay(instant)
  // @ts-expect-error a time of day is no day
  onDay("14:15")
  // @ts-expect-error a length is no mass
  massIn(length("3", "in"), "lb")
  // @ts-expect-error an amount is no money: in which currency?
  moneyText("4.20")
  shipped(order)
  onDay("2026-11-24")
}
