import { isLocalDate, localDate } from "core/calendar/index.ts"
import { identifier, ownCode } from "core/identifier/index.ts"
import type { LotId, StockId } from "core/ids/index.ts"
import { type LotState, lotStates } from "core/picking/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { likeInAnyCase } from "../db/words.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { binOf, moveStock, stockRow } from "../stock/move.ts"
import { askForDeal } from "../stock/waiting.ts"
import { recheckWhere } from "./again.ts"
import { askForCount } from "./count.ts"

export interface StockRow {
  readonly id: number
  readonly bin: string
  readonly zone: string
  readonly blockedWhy: string | null
  readonly sku: string
  readonly description: string
  readonly lot: string | null
  readonly lotId: LotId | null
  readonly lotState: LotState | null
  readonly receivedOn: string | null
  readonly expiresOn: string | null
  readonly onHand: number
  readonly allocated: number
  readonly toCount: boolean
}

/** What lies where, by bin: places that hold every word in bin, SKU, description or lot; empty ones only when asked. */
export async function findStock(
  { db, actor }: Context,
  find: { readonly words: string; readonly empty: boolean },
  most = 200,
): Promise<{ rows: StockRow[]; more: boolean }> {
  authorise(actor, "packing.see")
  const query = db("stock as s")
    .join("bin as b", "b.id", "s.bin_id")
    .join("item as i", "i.id", "s.item_id")
    .leftJoin("lot as l", "l.id", "s.lot_id")
    .where("s.warehouse_id", actor.warehouseId)
  if (!find.empty) query.where("s.on_hand", ">", 0)
  for (const word of find.words.trim().split(/\s+/).filter(Boolean).slice(0, 6)) {
    const like = `%${word.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`
    query.where((any) => {
      for (const column of ["b.code", "i.sku", "i.description", "l.code", "b.zone"])
        any.orWhere(likeInAnyCase(db, column, like))
    })
  }
  const rows = await query
    .orderBy("b.walk_order")
    .orderBy("b.code")
    .orderBy("i.sku")
    .limit(most + 1)
    .select(
      "s.id",
      "b.code as bin",
      "b.zone",
      "b.blocked_why as blockedWhy",
      "i.sku",
      "i.description",
      "l.code as lot",
      "l.id as lotId",
      "l.state as lotState",
      "l.received_on as receivedOn",
      "l.expires_on as expiresOn",
      "s.on_hand as onHand",
      "s.allocated",
      "s.to_count",
    )
  return {
    rows: rows.slice(0, most).map(({ to_count, ...row }) => ({ ...row, toCount: !!to_count })),
    more: rows.length > most,
  }
}

const day = z.string().refine((text): boolean => text === "" || isLocalDate(text), { error: "stock.day" })
export const receiptForm = z.object({
  key: z.uuid(),
  bin: z.string().trim().min(1, { error: "stock.bin-wanted" }).max(16),
  sku: z
    .string()
    .transform(ownCode)
    .pipe(z.string().min(1, { error: "stock.sku-wanted" }).max(24)),
  lot: z.string().transform(identifier).pipe(z.string().max(24)).default(""),
  expires: day.default(""),
  quantity: z.coerce.number().int().min(1, { error: "stock.quantity" }).max(1_000_000, { error: "stock.quantity" }),
  released: z.literal("on").optional(),
})

/**
 * Receives goods into a bin. A lot that is not known is made with its expiry; one that is known must have the same. What
 * is received may have to be released first. Safe to repeat with the same key.
 */
export async function receive(
  context: Context,
  form: z.infer<typeof receiptForm>,
): Promise<Outcome<{ bin: string; sku: string }>> {
  const { db, actor, now } = context
  authorise(actor, "stock.move")
  return inTransaction(db, async (trx): Promise<Outcome<{ bin: string; sku: string }>> => {
    const bin = await binOf(trx, actor.warehouseId, form.bin)
    if (!bin) return refused(reason("stock.no-bin", { bin: form.bin }))
    if (bin.purpose) return refused(reason("stock.for-returns", { bin: bin.code }))
    const item = await trx("item").where({ sku: form.sku }).first("id", "sku")
    if (!item) return refused(reason("stock.no-item", { sku: form.sku }))
    let lotId: LotId | null = null
    if (form.lot) {
      const expires_on = isLocalDate(form.expires) ? form.expires : null
      await trx("lot")
        .insert({
          item_id: item.id,
          code: form.lot,
          received_on: localDate(now, (await warehouseById(trx, actor.warehouseId)).zone),
          expires_on,
          state: form.released === "on" ? "released" : "unreleased",
        })
        .onConflict(["item_id", "code"])
        .ignore()
      const lot = there(
        await trx("lot").where({ item_id: item.id, code: form.lot }).forUpdate().first("id", "expires_on"),
      )
      if (form.expires && lot.expires_on !== expires_on)
        return refused(reason("stock.other-expiry", { lot: form.lot, expires: lot.expires_on ?? "–" }))
      lotId = lot.id
    } else if (form.expires) return refused(reason("stock.expiry-without-lot"))
    const stockId = await stockRow(trx, { warehouseId: actor.warehouseId, binId: bin.id, itemId: item.id, lotId })
    const moved = await moveStock(trx, context, { stockId, quantity: form.quantity, cause: "receipt", key: form.key })
    if (moved === "before") return accepted({ bin: bin.code, sku: item.sku })
    await record(trx, actor, now, {
      action: "stock.received",
      warehouseId: actor.warehouseId,
      detail: { sku: item.sku, bin: bin.code, lot: form.lot, quantity: form.quantity },
    })
    await askForDeal(trx, actor.warehouseId, [item.id])
    return accepted({ bin: bin.code, sku: item.sku })
  })
}

export const transferForm = z.object({
  key: z.uuid(),
  stockId: z.coerce.number().int().positive(),
  to: z.string().trim().min(1, { error: "stock.bin-wanted" }).max(16),
  quantity: z.coerce.number().int().min(1, { error: "stock.quantity" }).max(1_000_000, { error: "stock.quantity" }),
})

/** Moves free pieces from one bin to another of the same warehouse. Safe to repeat with the same key. */
export async function transfer(context: Context, form: z.infer<typeof transferForm>): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "stock.move")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const from = await trx("stock as s")
      .join("bin as b", "b.id", "s.bin_id")
      .join("item as i", "i.id", "s.item_id")
      .where({ "s.id": form.stockId, "s.warehouse_id": actor.warehouseId })
      .first("s.*", "b.code as bin", "b.purpose", "i.sku")
    if (!from) return refused(reason("stock.unknown"))
    const bin = await binOf(trx, actor.warehouseId, form.to)
    if (!bin) return refused(reason("stock.no-bin", { bin: form.to }))
    // what came back is moved on where it is known what it is
    const special = bin.purpose ? bin.code : from.purpose ? from.bin : null
    if (special) return refused(reason("stock.for-returns", { bin: special }))
    if (bin.id === from.bin_id) return refused(reason("stock.same-bin", { bin: bin.code }))
    const to = await stockRow(trx, {
      warehouseId: actor.warehouseId,
      binId: bin.id,
      itemId: from.item_id,
      lotId: from.lot_id,
    })
    const move = { cause: "transfer" as const, key: form.key, note: `${from.bin} → ${bin.code}` }
    const moved = await moveStock(trx, context, { ...move, stockId: from.id, quantity: -form.quantity })
    if (moved === "before") return accepted(null)
    if (!moved) return refused(reason("stock.not-free", { bin: from.bin, free: from.on_hand - from.allocated }))
    await moveStock(trx, context, { ...move, stockId: to, quantity: form.quantity })
    await record(trx, actor, now, {
      action: "stock.moved",
      warehouseId: actor.warehouseId,
      detail: { sku: from.sku, from: from.bin, to: bin.code, quantity: form.quantity },
    })
    await askForDeal(trx, actor.warehouseId, [from.item_id])
    return accepted(null)
  })
}

/** Asks for a count of a place, such as when somebody doubts what is known of it. Safe to repeat. */
export async function doubtStock(context: Context, stockId: StockId): Promise<Outcome<null>> {
  const { db, actor } = context
  authorise(actor, "stock.move")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const stock = await trx("stock").where({ id: stockId, warehouse_id: actor.warehouseId }).forUpdate().first("id")
    if (!stock) return refused(reason("stock.unknown"))
    await askForCount(trx, context, stockId, "asked", null)
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

/** Open orders that hold something of a place and are not begun are checked again. */
const lookAgain = (context: Context, place: (query: Knex.QueryBuilder) => Knex.QueryBuilder): Promise<number> =>
  recheckWhere(context, (query) =>
    query
      .whereNull("o.left_line_at")
      .whereExists(
        place(
          context
            .db("order_line as l")
            .join("allocation as a", "a.order_line_id", "l.id")
            .join("stock as s", "s.id", "a.stock_id")
            .whereRaw("l.order_id = o.id AND a.quantity > a.picked"),
        ),
      ),
  )

/**
 * Blocks a bin with a reason, or lets it be used again with null. Orders that were to be picked from it and are not begun
 * are given other stock, or are stopped.
 */
export async function blockBin(context: Context, code: string, why: string | null): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "stock.adjust")
  if (why !== null && !why.trim()) return refused(reason("stock.why-wanted"))
  const bin = await binOf(db, actor.warehouseId, code)
  if (!bin) return refused(reason("stock.no-bin", { bin: code }))
  if (bin.purpose && why === null) return refused(reason("stock.for-returns", { bin: bin.code }))
  const changed = await inTransaction(db, async (trx) => {
    const row = there(await trx("bin").where({ id: bin.id }).forUpdate().first("blocked_why"))
    if ((row.blocked_why ?? null) === (why?.trim().slice(0, 80) ?? null)) return false
    await trx("bin")
      .where({ id: bin.id })
      .update({ blocked_why: why?.trim().slice(0, 80) ?? null })
    const action = why === null ? "stock.bin-free" : "stock.bin-blocked"
    await record(trx, actor, now, { action, warehouseId: actor.warehouseId, detail: { bin: bin.code, why: why ?? "" } })
    const items = await trx("stock").where({ bin_id: bin.id }).distinct("item_id").pluck("item_id")
    if (why === null) await askForDeal(trx, actor.warehouseId, items)
    return true
  })
  if (changed && why !== null) await lookAgain(context, (query) => query.where("s.bin_id", bin.id))
  return accepted(null)
}

/** Releases a lot, or takes it out of use; orders that hold it and are not begun are given other stock, or stop. */
export async function setLotState(context: Context, lotId: LotId, state: string): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "stock.adjust")
  const to = lotStates.find((one) => one === state)
  if (!to) return refused(reason("stock.lot-state"))
  const changed = await inTransaction(db, async (trx) => {
    const lot = await trx("lot").where({ id: lotId }).forUpdate().first("id", "code", "state", "item_id")
    if (!lot) return null
    if (lot.state === state) return "same"
    await trx("lot").where({ id: lotId }).update({ state: to })
    const detail = { lot: lot.code, state }
    await record(trx, actor, now, { action: "stock.lot-state", warehouseId: actor.warehouseId, detail })
    if (state === "released")
      for (const at of await trx("stock").where({ lot_id: lotId }).distinct("warehouse_id").pluck("warehouse_id"))
        await askForDeal(trx, at, [lot.item_id])
    return "changed"
  })
  if (changed === null) return refused(reason("stock.no-lot"))
  if (changed === "changed" && state !== "released") await lookAgain(context, (query) => query.where("s.lot_id", lotId))
  return accepted(null)
}

export interface MovementRow {
  readonly at: Date
  readonly quantity: number
  readonly cause: string
  readonly who: string | null
  readonly order: string | null
  readonly note: string
}

/** The latest movements of a place, newest first. */
export async function movementsOf({ db, actor }: Context, stockId: StockId, most = 40): Promise<MovementRow[]> {
  authorise(actor, "packing.see")
  return db("stock_movement as m")
    .join("stock as s", "s.id", "m.stock_id")
    .leftJoin("user as u", "u.id", "m.user_id")
    .leftJoin("sales_order as o", "o.id", "m.order_id")
    .where({ "m.stock_id": stockId, "s.warehouse_id": actor.warehouseId })
    .orderBy("m.id", "desc")
    .limit(most)
    .select("m.at", "m.quantity", "m.cause", "u.name as who", "o.order_number as order", "m.note")
}
