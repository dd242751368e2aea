import type { LocalDate } from "core/calendar/index.ts"
import type { GoodsReturnId, ItemId, LotId, OrderId, ReturnId, WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId, there } from "../db/there.ts"
import { leadOf } from "../orders/joined.ts"

/** The next number of a return of an order, whose row the caller holds. */
export async function nextReturnNumber(trx: Knex, orderId: OrderId): Promise<number> {
  const labels = (await trx("return_intent").where({ order_id: orderId }).max({ most: "number" }).first())?.most
  const others = (await trx("goods_return").where({ order_id: orderId }).max({ most: "number" }).first())?.most
  return Math.max(Number(labels ?? 0), Number(others ?? 0)) + 1
}

interface Expected {
  readonly warehouseId: WarehouseId
  readonly orderId: OrderId
  readonly number: number
  readonly kind: "label" | "undelivered" | "unannounced"
  readonly returnId?: ReturnId
  readonly validUntil?: LocalDate
  readonly packages: readonly { readonly unitId: number | null; readonly tracking: string }[]
  readonly goods: ReadonlyMap<ItemId, number>
}

/** Writes down that goods of an order are awaited. */
export async function writeReturn(trx: Knex, of: Expected, now: Date): Promise<GoodsReturnId> {
  const order = there(await trx("sales_order").where({ id: of.orderId }).first("order_number"))
  const id = newId(
    await trx("goods_return").insert({
      warehouse_id: of.warehouseId,
      name: `${order.order_number}-R${of.number}`,
      order_id: of.orderId,
      number: of.number,
      kind: of.kind,
      return_intent_id: of.returnId ?? null,
      valid_until: of.validUntil ?? null,
      made_at: now,
    }),
  )
  if (of.packages.length > 0)
    await trx("goods_return_package").insert(
      of.packages.map((one, index) => ({
        goods_return_id: id,
        piece: index + 1,
        unit_id: one.unitId,
        tracking: one.tracking,
      })),
    )
  if (of.goods.size > 0)
    await trx("goods_return_line").insert(
      [...of.goods].map(([item_id, announced]) => ({ goods_return_id: id, item_id, announced })),
    )
  return id
}

/** Waits for what a label for the way back is to bring, in the transaction in which it was booked. */
export async function expectByLabel(
  trx: Knex,
  intent: {
    readonly id: ReturnId
    readonly warehouse_id: WarehouseId
    readonly order_id: OrderId
    readonly number: number
    readonly valid_until: LocalDate
  },
  goods: readonly { readonly sku: string; readonly pieces: number }[],
  now: Date,
): Promise<void> {
  const units = await trx("tracked_unit").where({ return_id: intent.id }).orderBy("piece").select("id", "tracking")
  const items = await trx("item")
    .whereIn(
      "sku",
      goods.map((one) => one.sku),
    )
    .select("id", "sku")
  const pieces = new Map<ItemId, number>()
  for (const { id, sku } of items) {
    const n = goods.filter((one) => one.sku === sku).reduce((sum, one) => sum + one.pieces, 0)
    if (n > 0) pieces.set(id, n)
  }
  await writeReturn(
    trx,
    {
      warehouseId: intent.warehouse_id,
      orderId: intent.order_id,
      number: intent.number,
      kind: "label",
      returnId: intent.id,
      validUntil: intent.valid_until,
      packages: units.map((one) => ({ unitId: one.id, tracking: one.tracking })),
      goods: pieces,
    },
    now,
  )
}

/** Waits no longer for what a label that is void was to bring. */
export const expectNoLonger = (trx: Knex, returnId: ReturnId) =>
  trx("goods_return").where({ return_intent_id: returnId, state: "awaited" }).update({ state: "void" })

/** What a package holds, with what stands on it. */
export async function heldBy(trx: Knex, packageIds: readonly number[]): Promise<Map<ItemId, number>> {
  const rows: { item_id: ItemId; pieces: unknown }[] = await trx("package_content as c")
    .join("package as p", "p.id", "c.package_id")
    .join("order_line as l", "l.id", "c.order_line_id")
    .where((either) => either.whereIn("p.id", [...packageIds]).orWhereIn("p.parent_id", [...packageIds]))
    .groupBy("l.item_id")
    .select("l.item_id")
    .sum({ pieces: "c.quantity" })
  return new Map(rows.map((row) => [row.item_id, Number(row.pieces)]))
}

/** For so many days a package that nobody waits for is looked for after it was seen last. */
const lookedForDays = 60

/** Packages on their way back to us, seen of late, that nobody here waits for yet. */
export const comingBack = (db: Knex, now: Date) =>
  db("tracked_unit as u")
    .where("u.seen_at", ">", new Date(now.getTime() - lookedForDays * 86_400_000))
    .whereIn("u.kind", ["package", "elsewhere"])
    .whereIn("u.state", ["returning", "returned"])
    .whereNull("u.void_at")
    .whereNotExists(db("goods_return_package as p").whereRaw("p.unit_id = u.id").select("p.id"))

/** Orders of which packages on their way back are looked for in one go, at most. */
const mostAtOnce = 200

/** Waits for packages that carriers bring back to us: those of one order together, however often this is asked. */
export async function expectUndelivered(db: Knex): Promise<void> {
  const orders: number[] = await comingBack(db, await businessNow(db))
    .distinct("u.order_id")
    .limit(mostAtOnce)
    .pluck("u.order_id")
  for (const orderId of orders) await expectBack(db, orderId)
}

/** Waits for what comes back of an order undelivered; what is awaited of it already takes further packages in. */
export async function expectBack(db: Knex, orderId: OrderId, unitIds?: readonly number[]): Promise<void> {
  const now = await businessNow(db)
  await inTransaction(db, async (trx) => {
    const order = there(await trx("sales_order").where({ id: orderId }).forUpdate().first("id", "warehouse_id"))
    const query = unitIds
      ? trx("tracked_unit as u")
          .whereIn("u.id", [...unitIds])
          .whereNotExists(trx("goods_return_package as p").whereRaw("p.unit_id = u.id").select("p.id"))
      : comingBack(trx, now)
    const units = await query.where("u.order_id", orderId).orderBy("u.id").select("u.id", "u.tracking", "u.package_id")
    if (units.length === 0) return
    const goods = await heldBy(
      trx,
      units.flatMap((one) => one.package_id ?? []),
    )
    const packages = units.map((one) => ({ unitId: one.id, tracking: one.tracking }))
    const open = await trx("goods_return")
      .where({ order_id: orderId, kind: "undelivered" })
      .whereIn("state", ["awaited", "arrived"])
      .forUpdate()
      .first("id")
    if (!open) {
      const number = await nextReturnNumber(trx, orderId)
      await writeReturn(
        trx,
        { warehouseId: order.warehouse_id, orderId, number, kind: "undelivered", packages, goods },
        now,
      )
      return
    }
    const last = (await trx("goods_return_package").where({ goods_return_id: open.id }).max({ most: "piece" }).first())
      ?.most
    await trx("goods_return_package").insert(
      packages.map((one, index) => ({
        goods_return_id: open.id,
        piece: Number(last ?? 0) + index + 1,
        unit_id: one.unitId,
        tracking: one.tracking,
      })),
    )
    for (const [item_id, announced] of goods)
      await trx("goods_return_line")
        .insert({ goods_return_id: open.id, item_id, announced })
        .onConflict(["goods_return_id", "item_id"])
        .merge({ announced: trx.raw("announced + ?", [announced]) })
  })
}

export interface SentItem {
  readonly itemId: ItemId
  readonly lotId: LotId | null
  readonly lot: string | null
  readonly pieces: number
}

/** What went out of an order's shipment, by item and lot; of an order that others shipped, its lines. None: nothing has. */
export async function sentOf(db: Knex, ofOrder: OrderId): Promise<SentItem[]> {
  const lead = await leadOf(db, ofOrder)
  const packed: { item_id: ItemId; pieces: unknown }[] = await db("package_content as c")
    .join("package as p", "p.id", "c.package_id")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("order_line as l", "l.id", "c.order_line_id")
    .where("h.order_id", lead)
    .whereNot("h.state", "void")
    .where({ "p.state": "gone" })
    .groupBy("l.item_id")
    .select("l.item_id")
    .sum({ pieces: "c.quantity" })
  if (packed.length === 0) {
    const others = await db("tracked_unit").where({ order_id: ofOrder, kind: "elsewhere" }).first("id")
    if (!others) return []
    const lines = await db("order_line")
      .where({ order_id: ofOrder })
      .orderBy("line_number")
      .select("item_id", "ordered")
    const all = new Map<ItemId, number>()
    for (const line of lines) all.set(line.item_id, (all.get(line.item_id) ?? 0) + line.ordered)
    return [...all].map(([itemId, pieces]) => ({ itemId, lotId: null, lot: null, pieces }))
  }
  const lots: { item_id: ItemId; id: LotId; code: string; pieces: unknown }[] = await db("package_lot as c")
    .join("package as p", "p.id", "c.package_id")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("lot as t", "t.id", "c.lot_id")
    .where("h.order_id", lead)
    .whereNot("h.state", "void")
    .where({ "p.state": "gone" })
    .groupBy("t.item_id", "t.id", "t.code")
    .orderBy("t.code")
    .select("t.item_id", "t.id", "t.code")
    .sum({ pieces: "c.quantity" })
  return packed.flatMap((row): SentItem[] => {
    const own = lots.filter((one) => one.item_id === row.item_id)
    const pieces = Number(row.pieces)
    const byLot = own.map((one) => ({
      itemId: row.item_id,
      lotId: one.id,
      lot: one.code,
      pieces: Number(one.pieces),
    }))
    const rest = pieces - byLot.reduce((sum, one) => sum + one.pieces, 0)
    return rest > 0 || byLot.length === 0
      ? [...byLot, { itemId: row.item_id, lotId: null, lot: null, pieces: rest }]
      : byLot
  })
}
