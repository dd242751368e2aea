import type { OrderId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
import type { Knex } from "knex"
import { wordsOf } from "../addresses/words.ts"
import { inTransaction } from "../db/connection.ts"

/** Counts up when orders are to be found by more than before; the worker then writes their words again. */
const edition = 1

/**
 * Writes down the words by which an order is found: its numbers, parties and place, what was noted, references, items,
 * the lots it holds, tags. Called in the transaction of every change of these.
 */
export const putWords = (trx: Knex, orderId: OrderId): Promise<void> => putWordsOf(trx, [orderId])

/** The same of many orders; `fresh` where they have no words yet. */
export async function putWordsOf(trx: Knex, orderIds: readonly OrderId[], fresh = false): Promise<void> {
  const ids = [...orderIds]
  const texts = await textsOf(trx, ids)
  const rows = fresh ? [] : await trx("order_word").whereIn("order_id", ids).select("order_id", "word")
  const known = grouped(rows, (row) => row.order_id)
  const come: { order_id: number; word: string }[] = []
  for (const id of ids) {
    const wanted = new Set((texts.get(id) ?? []).flatMap(wordsOf))
    const had = new Set(known.get(id)?.map((row) => row.word))
    const gone = [...had].filter((word) => !wanted.has(word))
    if (gone.length > 0) await trx("order_word").where({ order_id: id }).whereIn("word", gone).delete()
    come.push(...[...wanted].filter((word) => !had.has(word)).map((word) => ({ order_id: id, word })))
  }
  await insertWords(trx, come)
  await trx("sales_order").whereIn("id", ids).whereNot({ words_of: edition }).update({ words_of: edition })
}

async function insertWords(trx: Knex, rows: readonly { order_id: number; word: string }[]): Promise<void> {
  for (let at = 0; at < rows.length; at += 2_000)
    await trx("order_word")
      .insert(rows.slice(at, at + 2_000))
      .onConflict(["word", "order_id"])
      .ignore()
}

async function textsOf(trx: Knex, ids: readonly number[]): Promise<Map<number, string[]>> {
  const lines = () => trx("order_line as l").whereIn("l.order_id", [...ids])
  const own = (table: string, column: string) =>
    trx(table)
      .whereIn("order_id", [...ids])
      .select("order_id as id", `${column} as text`)
  const rows: { id: number; text: string }[] = await trx("sales_order")
    .whereIn("id", [...ids])
    .select<{ id: number; text: string }[]>(
      "id",
      trx.raw(
        `CONCAT_WS(' ', order_number, source_number, po_number, customer_name, company, attention, street, street2,
          city, state, postal_code, country, notes) AS text`,
      ),
    )
    .unionAll([
      own("order_reference", "value"),
      own("order_tag", "tag"),
      own("order_note", "text").whereNull("dropped_at"),
      lines()
        .join("item as i", "i.id", "l.item_id")
        .select("l.order_id as id", trx.raw("CONCAT(i.sku, ' ', i.description) AS text")),
      lines()
        .join("allocation as a", "a.order_line_id", "l.id")
        .join("stock as s", "s.id", "a.stock_id")
        .join("lot", "lot.id", "s.lot_id")
        .select("l.order_id as id", "lot.code as text"),
    ])
  const texts = new Map<number, string[]>(ids.map((id) => [id, []]))
  for (const row of rows) texts.get(row.id)?.push(row.text)
  return texts
}

/** Whether orders were made before there were words, such as by an earlier release. */
export const wordsAreMissing = async (db: Knex): Promise<boolean> =>
  (await db("sales_order").where("words_of", "<", edition).first("id")) !== undefined

/** Orders whose words are written in one go. */
const part = 500

/**
 * Writes the words of orders that were made before there were words, the newest first, until `until` (real time).
 * Answers whether more is to do.
 */
export async function putMissingWords(db: Knex, until: number): Promise<boolean> {
  for (;;) {
    const done = await inTransaction(db, async (trx) => {
      const ids: number[] = await trx("sales_order")
        .where("words_of", "<", edition)
        .orderBy("words_of")
        .orderBy("id", "desc")
        .limit(part)
        .forUpdate()
        .pluck("id")
      if (ids.length === 0) return true
      const texts = await textsOf(trx, ids)
      const rows = ids.flatMap((id) =>
        [...new Set((texts.get(id) ?? []).flatMap(wordsOf))].map((word) => ({ order_id: id, word })),
      )
      await insertWords(trx, rows)
      await trx("sales_order").whereIn("id", ids).update({ words_of: edition })
      return false
    })
    if (done) return false
    if (Date.now() >= until) return true
  }
}
