import { gtin14 } from "core/barcodes/index.ts"
import { ownCode } from "core/identifier/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { touchShipment } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { reportLines } from "../reports/index.ts"
import { freeUnpicked } from "../stock/allocation.ts"
import { type PutBack, putBack, putBackText } from "./cancel.ts"
import { recheck } from "./recheck.ts"

/** What the lead wants an order to hold: pieces of its lines by their ids, 0 for none, and an item more. */
export const linesChange = z.object({
  version: z.coerce.number().int().min(0),
  why: z.string().trim().min(1, { error: "lines.why-needed" }).max(200, { error: "lines.why-long" }),
  pieces: z
    .array(z.tuple([z.number().int().positive(), z.number().int().min(0).max(999_999)], { error: "lines.pieces" }))
    .max(500),
  added: z
    .object({
      sku: z.string().trim().max(24),
      pieces: z.number({ error: "lines.pieces" }).int().min(1, { error: "lines.pieces" }).max(999_999),
    })
    .nullable(),
})
export type LinesChange = z.infer<typeof linesChange>

/** Most lines of an order. */
const mostLines = 500

interface Edited {
  readonly id: number
  readonly sku: string
  readonly from: number
  readonly to: number
}

/**
 * Changes what an accepted order holds (the lead): the pieces of its lines, none of a line, an item more. Of what is
 * packed nothing is taken; picked pieces that are too many are answered, to be carried back. It is written on the order's
 * story with its reason, and its source is told. Refused once labels are asked for, and where nothing would be left.
 * Asked for twice with one version, it is done once.
 */
export async function changeLines(
  context: Context,
  orderId: OrderId,
  wanted: LinesChange,
): Promise<Outcome<{ changed: number; back: readonly PutBack[] }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.override")
  return inTransaction(db, async (trx): Promise<Outcome<{ changed: number; back: readonly PutBack[] }>> => {
    const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!order) return refused(reason("order.unknown"))
    if (order.cancelled_at) return refused(reason("order.is-cancelled"))
    if (await labelsAskedFor(trx, orderId)) return refused(reason("order.labels-asked-for"))
    const lines = await linesOf(trx, orderId)
    const edits: Edited[] = []
    for (const [id, to] of wanted.pieces) {
      const line = lines.find((one) => one.id === id)
      if (!line) return refused(reason("order.changed-meanwhile"))
      if (to !== line.ordered) edits.push({ id, sku: line.sku, from: line.ordered, to })
    }
    const added = wanted.added ? await itemFor(trx, wanted.added) : null
    if (added && !added.ok) return added
    if (edits.length === 0 && !added) return accepted({ changed: 0, back: [] })
    // what was seen is old; asked for again after it was done, there is nothing left to do and it ended above
    if (order.version !== wanted.version) return refused(reason("order.changed-meanwhile"))
    const below = edits.flatMap((edit): Reason[] => {
      const packed = lines.find((one) => one.id === edit.id)?.packed ?? 0
      return edit.to < packed ? [reason("lines.packed", { sku: edit.sku, pieces: edit.to, packed })] : []
    })
    if (below.length > 0) return refused(...below)
    const left = lines.filter((line) => (edits.find((edit) => edit.id === line.id)?.to ?? line.ordered) > 0)
    if (left.length === 0 && !added) return refused(reason("lines.nothing-left"))
    if (added && lines.length >= mostLines) return refused(reason("lines.too-many", { most: mostLines }))
    const back: PutBack[] = []
    for (const edit of edits) back.push(...(await edited(trx, context, orderId, edit)))
    const told_: Omit<Edited, "id">[] = [...edits]
    if (added) {
      const { id, sku } = added.value
      const pieces = wanted.added?.pieces ?? 0
      await trx("order_line").insert({
        order_id: orderId,
        line_number: Math.max(0, ...lines.map((line) => line.lineNumber)) + 1,
        item_id: id,
        ordered: pieces,
        unit: "each",
        unit_price: null,
      })
      told_.push({ sku, from: 0, to: pieces })
    }
    await trx("sales_order")
      .where({ id: orderId })
      .update({ version: order.version + 1, lines_changed_at: now })
    await touchShipment(trx, orderId)
    const changes = told_.map((one) => ({ field: "lines", of: one.sku, from: String(one.from), to: String(one.to) }))
    await record(trx, actor, now, {
      action: "order.lines-changed",
      orderId,
      detail: { why: wanted.why, changes, back: putBackText(back) },
    })
    await recheck(trx, orderId, actor, now)
    await reportLines(trx, orderId, now, { why: wanted.why, by: actor.name, lines: told_ })
    return accepted({ changed: told_.length, back })
  })
}

/** One line at its new figure: what it holds too much is free, what is picked too much goes back. */
async function edited(trx: Knex, { actor, now }: Context, orderId: OrderId, edit: Edited): Promise<PutBack[]> {
  await freeUnpicked(trx, edit.id)
  const sum = await trx("allocation").where({ order_line_id: edit.id }).sum({ picked: "picked" }).first()
  const tooMany = Number(sum?.picked ?? 0) - edit.to
  const back = tooMany > 0 ? await putBack(trx, orderId, { lineId: edit.id, most: tooMany }, actor, now) : []
  if (edit.to === 0) await trx("order_line").where({ id: edit.id }).delete()
  else await trx("order_line").where({ id: edit.id }).update({ ordered: edit.to })
  return back
}

async function linesOf(trx: Knex, orderId: OrderId) {
  const rows = await trx("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where("l.order_id", orderId)
    .orderBy("l.line_number")
    .select(
      "l.id",
      "l.line_number",
      "l.ordered",
      "i.sku",
      trx.raw(
        `(SELECT COALESCE(SUM(c.quantity), 0) FROM package_content c JOIN package p ON p.id = c.package_id
          WHERE c.order_line_id = l.id AND p.state <> 'void') AS packed`,
      ),
    )
  return rows.map((row) => ({
    id: row.id as number,
    lineNumber: row.line_number as number,
    ordered: row.ordered as number,
    sku: row.sku as string,
    packed: Number(row.packed),
  }))
}

/** The item that is added, by its SKU or a GTIN of one piece. */
async function itemFor(
  trx: Knex,
  added: NonNullable<LinesChange["added"]>,
): Promise<Outcome<{ id: number; sku: string }>> {
  const gtin = gtin14(added.sku)
  const item =
    (await trx("item")
      .where({ sku: ownCode(added.sku) })
      .first("id", "sku")) ??
    (gtin
      ? await trx("item_level as v")
          .join("item as i", "i.id", "v.item_id")
          .where({ "v.gtin": gtin, "v.quantity": 1 })
          .first("i.id", "i.sku")
      : undefined)
  return item ? accepted(item) : refused(reason("lines.no-such-item", { sku: added.sku }))
}
