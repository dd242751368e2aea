import { identifier, ownCode } from "core/identifier/index.ts"
import type { FindingId, GoodsReturnId, ItemId, LotId, OrderId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { conditions, difference, waits } from "core/returns/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { GoodsReturnFindingRow, GoodsReturnRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { membersOf } from "../orders/joined.ts"
import { reportReturn } from "../reports/index.ts"
import { moveStock, stockRow } from "../stock/move.ts"
import { tellAll } from "../telling/tell.ts"
import { sentOf } from "./expect.ts"

/** Findings that are recorded at once, at most. */
export const mostFindings = 400

const finding = z.object({
  /** The item as the return or its order has it … */
  itemId: z.number().int().min(1).nullable().default(null),
  lotId: z.number().int().min(1).nullable().default(null),
  /** … or as somebody typed it, for goods that are not of the order. */
  sku: z.string().transform(ownCode).pipe(z.string().max(24)).default(""),
  lot: z.string().transform(identifier).pipe(z.string().max(24)).default(""),
  /** What it is, where it is no item of ours. */
  goods: z.string().trim().max(120).default(""),
  state: z.enum(conditions),
  quantity: z.number().int().min(1).max(1_000_000),
  note: z.string().trim().max(200).default(""),
})
export const findingsForm = z.array(finding).max(mostFindings)
export type Finding = z.infer<typeof finding>

/** The return by its name, with its order held; changed only in the transaction that this is called in. */
async function held(trx: Knex, { actor }: Context, name: string, orderId: OrderId | null) {
  if (orderId) await trx("sales_order").where({ id: orderId }).forUpdate().first("id")
  return trx("goods_return").where({ warehouse_id: actor.warehouseId, name }).forUpdate().first()
}

export const orderOfReturn = async ({ db, actor }: Context, name: string): Promise<OrderId | null> =>
  (await db("goods_return").where({ warehouse_id: actor.warehouseId, name }).first("order_id"))?.order_id ?? null

/** The bin of a warehouse for goods that came back. */
export const binFor = (db: Knex, warehouseId: number, purpose: "inspection" | "repair") =>
  db("bin").where({ warehouse_id: warehouseId, purpose }).orderBy("id").first("id", "code")

/**
 * Records what was found in a return. Items of ours go into the inspection bin; nothing is picked from there. More than
 * ever went out is refused until somebody says that it is so. Safe to repeat with the same key.
 */
export async function recordFindings(
  context: Context,
  name: string,
  found: readonly Finding[],
  { key, surplus }: { readonly key: string; readonly surplus: boolean },
): Promise<Outcome<{ readonly pieces: number; readonly bin: string }>> {
  const { db, actor, now } = context
  authorise(actor, "stock.move")
  if (found.length === 0) return refused(reason("goods-back.nothing-found"))
  const pressKey = (index: number) => `${key.slice(0, 60)}:${index}`
  const orderId = await orderOfReturn(context, name)
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly pieces: number; readonly bin: string }>> => {
    const came = await held(trx, context, name, orderId)
    if (!came) return refused(reason("goods-back.gone", { name }))
    const pieces = found.reduce((sum, one) => sum + one.quantity, 0)
    const bin = await binFor(trx, actor.warehouseId, "inspection")
    if (
      await trx("goods_return_finding")
        .where({ press_key: pressKey(0) })
        .first("id")
    )
      return accepted({ pieces, bin: bin?.code ?? "" })
    if (came.state !== "arrived") return refused(reason("goods-back.not-open", { name }))
    if (!bin) return refused(reason("goods-back.no-bin"))
    const read = await asItems(trx, came, found)
    if (!read.ok) return read
    const over = await surplusOf(trx, came, read.value)
    if (over.length > 0 && !surplus) return refused(...aFew(over))
    for (const [index, one] of read.value.entries()) {
      const stockId =
        one.itemId === null
          ? null
          : await stockRow(trx, {
              warehouseId: actor.warehouseId,
              binId: bin.id,
              itemId: one.itemId,
              lotId: one.lotId,
            })
      if (stockId)
        await moveStock(trx, context, {
          stockId,
          quantity: one.quantity,
          cause: "return",
          orderId: came.order_id,
          note: came.name,
        })
      await trx("goods_return_finding").insert({
        goods_return_id: came.id,
        item_id: one.itemId,
        lot_id: one.lotId,
        goods: one.goods,
        state: one.state,
        quantity: one.quantity,
        note: one.note,
        in_inspection: stockId ? one.quantity : 0,
        inspection_stock_id: stockId,
        press_key: pressKey(index),
        at: now,
        told_by: actor.name,
      })
    }
    await record(trx, actor, now, {
      action: "goods-back.found",
      ...of(came),
      detail: { name, pieces, bin: bin.code },
    })
    return accepted({ pieces, bin: bin.code })
  })
}

const of = (came: GoodsReturnRow) => (came.order_id ? { orderId: came.order_id } : { warehouseId: came.warehouse_id })

/** The first of many reasons, and how many more there are: a line of words is read, three hundred are not. */
const aFew = (reasons: readonly Reason[], most = 3): Reason[] =>
  reasons.length <= most
    ? [...reasons]
    : [...reasons.slice(0, most), reason("goods-back.and-more", { n: reasons.length - most })]

type Read = Omit<Finding, "sku" | "lot">

/** What was found as items and lots of ours. Sound and damaged goods must be of the order; others may be anything. */
async function asItems(trx: Knex, came: GoodsReturnRow, found: readonly Finding[]): Promise<Outcome<readonly Read[]>> {
  const sent = came.order_id ? await sentOf(trx, came.order_id) : []
  const announced: number[] = await trx("goods_return_line").where({ goods_return_id: came.id }).pluck("item_id")
  const own = new Set([...sent.map((one) => one.itemId as number), ...announced])
  const items = await trx("item")
    .where((named) =>
      named
        .whereIn(
          "id",
          found.flatMap((one) => one.itemId ?? []),
        )
        .orWhereIn(
          "sku",
          found.flatMap((one) => (one.itemId === null && one.sku !== "" ? [one.sku] : [])),
        ),
    )
    .select("id", "sku")
  const byId = new Map(items.map((item) => [item.id as number, item]))
  const bySku = new Map(items.map((item) => [item.sku, item]))
  const lotsOf = grouped(
    await trx("lot")
      .whereIn("item_id", [...byId.keys()])
      .select("id", "code", "item_id"),
    (lot) => lot.item_id as number,
  )
  const reasons: Reason[] = []
  const read: Read[] = []
  for (const { sku, lot, ...one } of found) {
    if (one.itemId === null && sku === "") {
      if (one.goods === "") reasons.push(reason("goods-back.say-what", { field: "goods" }))
      else if (one.state === "other") read.push({ ...one, lotId: null })
      else reasons.push(reason("goods-back.not-of-order", { sku: one.goods }))
      continue
    }
    const item = one.itemId === null ? bySku.get(sku) : byId.get(one.itemId)
    if (!item) {
      reasons.push(reason("stock.no-item", { sku, field: "sku" }))
      continue
    }
    if (one.state !== "other" && !own.has(item.id)) {
      reasons.push(reason("goods-back.not-of-order", { sku: item.sku }))
      continue
    }
    const lots = lotsOf.get(item.id) ?? []
    const named = lot === "" ? lots.find((each) => each.id === one.lotId) : lots.find((each) => each.code === lot)
    if (!named && (lot !== "" || one.lotId !== null)) {
      reasons.push(reason("stock.no-lot", { field: "lot" }))
      continue
    }
    // goods that are kept by lot lie in no bin without theirs
    if (!named && lots.length > 0) {
      reasons.push(reason("goods-back.which-lot", { sku: item.sku, field: "lot" }))
      continue
    }
    read.push({ ...one, itemId: item.id, lotId: (named?.id ?? null) as LotId | null })
  }
  return reasons.length > 0 ? refused(...aFew(reasons)) : accepted(read)
}

/** What of findings is more than can come back, with all that came before it. */
async function surplusOf(trx: Knex, came: GoodsReturnRow, found: readonly Read[]): Promise<Reason[]> {
  if (!came.order_id) return []
  const items = await itemsOf(trx, came)
  const more = new Map<number, number>()
  for (const one of found)
    if (one.itemId !== null && one.state !== "other") more.set(one.itemId, (more.get(one.itemId) ?? 0) + one.quantity)
  return items.flatMap((item) => {
    const now = difference({ ...item, sound: item.sound + (more.get(item.itemId) ?? 0) })
    return more.has(item.itemId) && now.surplus > item.surplus
      ? [
          reason("goods-back.too-many", {
            sku: item.sku,
            found: item.before + item.sound + item.damaged + (more.get(item.itemId) ?? 0),
            sent: item.sent,
            field: "surplus",
          }),
        ]
      : []
  })
}

/** An item of a return: what was announced, sent and found. */
export interface ItemBack {
  readonly itemId: ItemId
  readonly sku: string
  readonly description: string
  readonly announced: number
  readonly sent: number
  readonly before: number
  readonly sound: number
  readonly damaged: number
  readonly missing: number
  readonly surplus: number
}

/** The items of a return: those that were announced, those that went out, and what was found of each. */
export async function itemsOf(db: Knex, came: Pick<GoodsReturnRow, "id" | "order_id">): Promise<ItemBack[]> {
  const sent = came.order_id ? await sentOf(db, came.order_id) : []
  const announced = await db("goods_return_line").where({ goods_return_id: came.id }).select("item_id", "announced")
  const found = await findingsOf(db, came.id)
  const before: { item_id: number; pieces: unknown }[] = came.order_id
    ? await db("goods_return_finding as f")
        .join("goods_return as g", "g.id", "f.goods_return_id")
        .where("g.order_id", came.order_id)
        .whereNot("g.id", came.id)
        .whereIn("f.state", ["sound", "damaged"])
        .whereNull("f.undone_at")
        .groupBy("f.item_id")
        .select("f.item_id")
        .sum({ pieces: "f.quantity" })
    : []
  const ids = [
    ...new Set([
      ...sent.map((one) => one.itemId as number),
      ...announced.map((one) => one.item_id as number),
      ...found.flatMap((one) => (one.item_id !== null && one.state !== "other" ? [one.item_id as number] : [])),
    ]),
  ]
  const items = new Map(
    (await db("item").whereIn("id", ids).select("id", "sku", "description")).map((one) => [one.id as number, one]),
  )
  const sum = (pieces: readonly number[]) => pieces.reduce((all, one) => all + one, 0)
  const tally = new Map(ids.map((id) => [id, { announced: 0, sent: 0, before: 0, sound: 0, damaged: 0 }]))
  for (const one of sent) there(tally.get(one.itemId)).sent += one.pieces
  for (const one of announced) there(tally.get(one.item_id)).announced = one.announced
  for (const one of before) {
    const own = tally.get(one.item_id)
    if (own) own.before = sum([own.before, Number(one.pieces)])
  }
  for (const one of found)
    if (one.item_id !== null && one.state !== "other") there(tally.get(one.item_id))[one.state] += one.quantity
  return ids.map((id) => {
    const own = there(tally.get(id))
    const item = there(items.get(id))
    return { itemId: id, sku: item.sku, description: item.description, ...own, ...difference(own) }
  })
}

export const findingsOf = (db: Knex, id: GoodsReturnId): Promise<GoodsReturnFindingRow[]> =>
  db("goods_return_finding").where({ goods_return_id: id }).whereNull("undone_at").orderBy("id")

/** Takes back a finding that was recorded by mistake. Refused once something of it has gone on, or the return is settled. */
export async function undoFinding(context: Context, name: string, findingId: FindingId): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "stock.move")
  const orderId = await orderOfReturn(context, name)
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const came = await held(trx, context, name, orderId)
    if (!came) return refused(reason("goods-back.gone", { name }))
    const own = await trx("goods_return_finding").where({ id: findingId, goods_return_id: came.id }).forUpdate().first()
    if (!own) return refused(reason("goods-back.gone", { name }))
    if (own.undone_at) return accepted(null)
    if (came.state !== "arrived") return refused(reason("goods-back.not-open", { name }))
    if (own.inspection_stock_id) {
      if (own.in_inspection !== own.quantity) return refused(reason("goods-back.moved-on"))
      const moved = await moveStock(trx, context, {
        stockId: own.inspection_stock_id,
        quantity: -own.quantity,
        cause: "return",
        orderId: came.order_id,
        note: came.name,
      })
      if (!moved) return refused(reason("goods-back.not-there"))
    }
    await trx("goods_return_finding").where({ id: own.id }).update({ undone_at: now, in_inspection: 0 })
    await record(trx, actor, now, { action: "goods-back.undone", ...of(came), detail: { name, pieces: own.quantity } })
    return accepted(null)
  })
}

/**
 * Says that a return is looked through: what is missing is known from then on, and both sides are told. Refused where
 * nothing was found, unless somebody says that nothing was in it. Again it changes nothing.
 */
export async function finishReturn(
  context: Context,
  name: string,
  { empty }: { readonly empty: boolean },
): Promise<Outcome<{ readonly missing: number }>> {
  const { db, actor, now } = context
  authorise(actor, "stock.move")
  const orderId = await orderOfReturn(context, name)
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly missing: number }>> => {
    const came = await held(trx, context, name, orderId)
    if (!came) return refused(reason("goods-back.gone", { name }))
    const items = await itemsOf(trx, came)
    const missing = items.reduce((sum, one) => sum + one.missing, 0)
    if (came.state === "inspected" || came.state === "done") return accepted({ missing })
    if (came.state !== "arrived") return refused(reason("goods-back.not-open", { name }))
    if (came.kind === "unknown") return refused(reason("goods-back.of-no-order", { name }))
    const found = await findingsOf(trx, came.id)
    if (found.length === 0 && !empty) return refused(reason("goods-back.is-empty", { field: "empty" }))
    const finishes = came.finishes + 1
    await trx("goods_return")
      .where({ id: came.id })
      .update({
        state: found.some(stillHere) ? "inspected" : "done",
        inspected_at: now,
        finishes,
        told_by: actor.name,
      })
    const count = (state: string) =>
      found.filter((one) => one.state === state).reduce((sum, one) => sum + one.quantity, 0)
    const counts = { sound: count("sound"), damaged: count("damaged"), other: count("other"), missing }
    await record(trx, actor, now, { action: "goods-back.inspected", ...of(came), detail: { name, ...counts } })
    if (came.order_id) await tellInspected(trx, came, came.order_id, items, found, finishes, now)
    return accepted({ missing })
  })
}

export const stillHere = (one: GoodsReturnFindingRow): boolean =>
  waits({
    inInspection: one.in_inspection,
    inRepair: one.in_repair,
    putBack: one.put_back,
    thrownAway: one.thrown_away,
  })

async function tellInspected(
  trx: Knex,
  came: GoodsReturnRow,
  orderId: OrderId,
  items: readonly ItemBack[],
  found: readonly GoodsReturnFindingRow[],
  finishes: number,
  now: Date,
): Promise<void> {
  const tracking: string[] = await trx("goods_return_package")
    .where({ goods_return_id: came.id })
    .whereNotNull("arrived_at")
    .pluck("tracking")
  const others = found.filter((one) => one.state === "other")
  const skus = new Map(
    (
      await trx("item")
        .whereIn(
          "id",
          others.flatMap((one) => one.item_id ?? []),
        )
        .select("id", "sku")
    ).map((one) => [one.id as number, one.sku]),
  )
  for (const member of await membersOf(trx, orderId)) {
    const own: number[] = await trx("order_line").where({ order_id: member }).pluck("item_id")
    await reportReturn(
      trx,
      member,
      {
        topic: "order.returned",
        name: came.name,
        kind: came.kind,
        onceOf: String(finishes),
        tracking: tracking.filter(Boolean),
        late: !!came.is_late,
        goods: items
          .filter((one) => own.includes(one.itemId) && one.announced + one.sound + one.damaged > 0)
          .map(({ sku, announced, sound, damaged, missing, surplus }) => ({
            sku,
            announced,
            sound,
            damaged,
            missing,
            surplus,
          })),
        others: others.map((one) => ({
          goods: one.item_id === null ? one.goods : (skus.get(one.item_id) ?? ""),
          quantity: one.quantity,
        })),
      },
      now,
    )
  }
  await tellAll(trx, orderId, "return-inspected", now, {
    of: `${came.name} ${finishes}`,
    told: {
      return_name: came.name,
      returned: items
        .filter((one) => one.announced + one.sound + one.damaged > 0)
        .slice(0, 100)
        .map(({ description, sound, damaged, missing }) => ({ description, sound, damaged, missing })),
    },
  })
}

export const declineForm = z.object({ why: z.string().trim().max(200).default("") })

/**
 * Does not take goods that are here, such as those that came too late: they stay the receiver's, and both sides are told
 * why. Refused once something of them is in our stock.
 */
export async function declineReturn(context: Context, name: string, why: string): Promise<Outcome<null>> {
  const { actor } = context
  authorise(actor, "stock.adjust")
  return end(context, name, why, "declined")
}

/** Waits no longer for goods, or puts aside unknown ones, with a reason. */
export async function closeReturn(context: Context, name: string, why: string): Promise<Outcome<null>> {
  authorise(context.actor, "orders.work")
  return end(context, name, why, "closed")
}

async function end(context: Context, name: string, why: string, to: "declined" | "closed"): Promise<Outcome<null>> {
  const { db, actor, now } = context
  const note = why.trim().slice(0, 200)
  if (note === "") return refused(reason("goods-back.no-reason", { field: "why" }))
  const orderId = await orderOfReturn(context, name)
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const came = await held(trx, context, name, orderId)
    if (!came) return refused(reason("goods-back.gone", { name }))
    if (came.state === to) return accepted(null)
    const may = to === "declined" ? came.state === "arrived" : came.state === "awaited" || came.kind === "unknown"
    if (!may || came.state === "declined" || came.state === "closed")
      return refused(reason("goods-back.not-open", { name }))
    const found = await findingsOf(trx, came.id)
    // what nobody knows whose it was may have gone on: it is closed once nothing of it waits
    if (to === "closed" && found.some(stillHere)) return refused(reason("goods-back.still-here", { name }))
    if (to === "declined" && found.some((one) => one.inspection_stock_id !== null))
      return refused(reason("goods-back.in-stock", { name }))
    await trx("goods_return").where({ id: came.id }).update({ state: to, note, told_by: actor.name })
    await record(trx, actor, now, { action: `goods-back.${to}`, ...of(came), detail: { name, why: note } })
    if (to !== "declined" || !came.order_id) return accepted(null)
    const tracking: string[] = await trx("goods_return_package").where({ goods_return_id: came.id }).pluck("tracking")
    for (const member of await membersOf(trx, came.order_id))
      await reportReturn(
        trx,
        member,
        {
          topic: "order.return-declined",
          name: came.name,
          kind: came.kind,
          onceOf: "",
          tracking: tracking.filter(Boolean),
          late: !!came.is_late,
          why: note,
        },
        now,
      )
    return accepted(null)
  })
}
