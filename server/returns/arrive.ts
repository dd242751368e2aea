import { localDate } from "core/calendar/index.ts"
import { identifier, ownCode } from "core/identifier/index.ts"
import type { GoodsReturnId, OrderId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { isLate } from "core/returns/index.ts"
import { readings } from "core/scanning/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { GoodsReturnRow } from "../db/tables.ts"
import { newId, there } from "../db/there.ts"
import { membersOf } from "../orders/joined.ts"
import { byCode, packageByCode } from "../papers/byCode.ts"
import { reportReturn } from "../reports/index.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { tellAll } from "../telling/tell.ts"
import { followAll } from "../tracking/follow.ts"
import { tellCameBack } from "../tracking/own.ts"
import { expectBack, nextReturnNumber, sentOf, writeReturn } from "./expect.ts"

/** What a code that is scanned where goods come in stands for. */
export type ReturnCode =
  /** A package that is awaited, or was. */
  | { readonly kind: "package"; readonly packageId: number }
  /** One that went out, and that nobody waits for. */
  | { readonly kind: "sent"; readonly orderId: OrderId; readonly unitId: number }
  | { readonly kind: "return"; readonly name: string }
  | { readonly kind: "order"; readonly orderNumber: string }
  | null

/** Looks a code up among the returns of a warehouse: a tracking number, a name of a package, of a return, or of an order. */
export async function returnCode(db: Knex, warehouseId: WarehouseId, text: string): Promise<ReturnCode> {
  const code = identifier(text)
  const own = ownCode(text)
  if (code === "" || code.length > 60) return null
  const named = /^(\d{5,10}-R\d{1,3}|U\d{1,7})(?:\.(\d{1,3}))?$/.exec(own)
  if (named?.[1]) {
    const found = await db("goods_return").where({ warehouse_id: warehouseId, name: named[1] }).first("id", "name")
    if (!found) return null
    const piece = named[2]
      ? await db("goods_return_package")
          .where({ goods_return_id: found.id, piece: Number(named[2]) })
          .first("id")
      : undefined
    return piece ? { kind: "package", packageId: piece.id } : { kind: "return", name: found.name }
  }
  const awaited = await db("goods_return_package as p")
    .join("goods_return as g", "g.id", "p.goods_return_id")
    .where({ "p.tracking": code, "g.warehouse_id": warehouseId })
    .orderByRaw("p.arrived_at IS NULL DESC, p.id DESC")
    .first("p.id")
  if (awaited) return { kind: "package", packageId: awaited.id }
  for (const reading of readings(text)) {
    if (reading.kind === "order") {
      const order = await db("sales_order")
        .where({ warehouse_id: warehouseId, order_number: reading.orderNumber })
        .first("order_number")
      if (order) return { kind: "order", orderNumber: order.order_number }
    }
    if (reading.kind === "sscc" || reading.kind === "package") {
      const found = await packageByCode(db, warehouseId, reading)
      if (found) return sentPackage(db, warehouseId, found.orderNumber, found.number)
    }
  }
  const elsewhere = await db("tracked_unit")
    .where({ warehouse_id: warehouseId, tracking: code, kind: "elsewhere" })
    .whereNull("void_at")
    .first("id", "order_id")
  if (elsewhere) return codeOfUnit(db, elsewhere.id, elsewhere.order_id)
  const found = await byCode(db, warehouseId, text)
  if (found?.kind === "package") return sentPackage(db, warehouseId, found.orderNumber, found.number)
  return found?.kind === "order" ? found : null
}

async function sentPackage(db: Knex, warehouseId: WarehouseId, orderNumber: string, number: number) {
  const unit = await db("tracked_unit as u")
    .join("package as p", "p.id", "u.package_id")
    .join("sales_order as o", "o.id", "u.order_id")
    .where({ "u.warehouse_id": warehouseId, "o.order_number": orderNumber, "p.number": number, "p.state": "gone" })
    .whereNull("u.void_at")
    .orderBy("u.id", "desc")
    .first("u.id", "u.order_id")
  return unit ? codeOfUnit(db, unit.id, unit.order_id) : null
}

async function codeOfUnit(db: Knex, unitId: number, orderId: OrderId): Promise<ReturnCode> {
  const awaited = await db("goods_return_package").where({ unit_id: unitId }).first("id")
  return awaited ? { kind: "package", packageId: awaited.id } : { kind: "sent", orderId, unitId }
}

export interface Arrived {
  readonly name: string
  readonly piece: number
  /** Packages of the return, and how many of them are here. */
  readonly of: number
  readonly here: number
  readonly late: boolean
  /** It had been taken in before. */
  readonly again: boolean
}

/** Notes that a package is here that went out and that nobody waited for, such as one that the carrier could not deliver. */
export async function arriveSent(
  context: Context,
  sent: { readonly orderId: OrderId; readonly unitId: number },
): Promise<Outcome<Arrived>> {
  const { db, actor } = context
  authorise(actor, "dock.work")
  const own = await db("tracked_unit").where({ id: sent.unitId, warehouse_id: actor.warehouseId }).first("order_id")
  if (own?.order_id !== sent.orderId) return refused(reason("goods-back.unknown"))
  await expectBack(db, sent.orderId, [sent.unitId])
  const { id } = there(
    await db("goods_return_package").where({ unit_id: sent.unitId }).orderBy("id", "desc").first("id"),
  )
  return arrive(context, id)
}

/** Notes that a package that comes back is here. Of another warehouse it is unknown. Again it changes nothing. */
export async function arrive(context: Context, packageId: number): Promise<Outcome<Arrived>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  const at = await db("goods_return_package as p")
    .join("goods_return as g", "g.id", "p.goods_return_id")
    .where({ "p.id": packageId, "g.warehouse_id": actor.warehouseId })
    .first("g.id", "g.order_id", "p.unit_id")
  if (!at) return refused(reason("goods-back.unknown"))
  const { zone } = await warehouseById(db, actor.warehouseId)
  const outcome = await inTransaction(db, async (trx): Promise<Outcome<Arrived>> => {
    if (at.order_id) await trx("sales_order").where({ id: at.order_id }).forUpdate().first("id")
    const came = there(await trx("goods_return").where({ id: at.id }).forUpdate().first())
    if (came.state === "declined") return refused(reason("goods-back.declined", { name: came.name }))
    const packages = await trx("goods_return_package").where({ goods_return_id: came.id }).orderBy("piece")
    const own = there(packages.find((one) => one.id === packageId))
    const late = isLate(localDate(now, zone), came.valid_until)
    const facts = { name: came.name, piece: own.piece, of: packages.length }
    const before = packages.filter((one) => one.arrived_at !== null).length
    if (own.arrived_at) return accepted({ ...facts, here: before, late: !!came.is_late, again: true })
    await trx("goods_return_package").where({ id: packageId }).update({ arrived_at: now, told_by: actor.name })
    await cameIn(trx, context, came, late)
    if (own.unit_id) await tellCameBack(trx, [own.unit_id], now, now)
    await record(trx, actor, now, {
      action: late ? "goods-back.arrived-late" : "goods-back.arrived",
      ...(came.order_id ? { orderId: came.order_id } : { warehouseId: actor.warehouseId }),
      detail: { package: packages.length > 1 ? `${came.name}.${own.piece}` : came.name, until: came.valid_until ?? "" },
    })
    return accepted({ ...facts, here: before + 1, late, again: false })
  })
  if (outcome.ok && at.unit_id) await followAll(db, [at.unit_id], now)
  return outcome
}

/** A return is here, wholly or in part: it is looked through, again where it had been, and both sides are told the first time. */
async function cameIn(trx: Knex, { now, actor }: Context, came: GoodsReturnRow, late: boolean): Promise<void> {
  await trx("goods_return")
    .where({ id: came.id })
    .update({
      state: "arrived",
      arrived_at: came.arrived_at ?? now,
      ...(came.arrived_at ? {} : { is_late: late }),
      told_by: actor.name,
    })
  if (!came.arrived_at && came.order_id) await tellArrived(trx, came, came.order_id, late, now)
}

async function tellArrived(
  trx: Knex,
  came: Pick<GoodsReturnRow, "id" | "name" | "kind">,
  orderId: OrderId,
  late: boolean,
  now: Date,
): Promise<void> {
  const tracking: string[] = await trx("goods_return_package").where({ goods_return_id: came.id }).pluck("tracking")
  for (const member of await membersOf(trx, orderId))
    await reportReturn(
      trx,
      member,
      {
        topic: "order.return-arrived",
        name: came.name,
        kind: came.kind,
        onceOf: "",
        late,
        tracking: tracking.filter(Boolean),
      },
      now,
    )
  await tellAll(trx, orderId, "return-arrived", now, { of: came.name, told: { return_name: came.name } })
}

export const withoutLabelForm = z.object({
  /** What is on it; of one with no code at all, nothing. */
  code: z.string().transform(identifier).pipe(z.string().max(60)).default(""),
  note: z.string().trim().max(200).default(""),
  order: z.string().trim().max(20).default(""),
  packages: z.coerce.number().int().min(1).max(200).catch(1).default(1),
})

/**
 * Notes packages that nobody announced: of an order, where somebody says of which, else as unknown until somebody finds
 * out. Safe to repeat with the same key.
 */
export async function arriveWithoutLabel(
  context: Context,
  said: z.infer<typeof withoutLabelForm>,
  key: string,
): Promise<Outcome<{ readonly name: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  const pressKey = `came ${key}`.slice(0, 80)
  const known = await db("goods_return").where({ press_key: pressKey, warehouse_id: actor.warehouseId }).first("name")
  if (known) return accepted(known)
  if (said.order === "" && said.code === "" && said.note === "")
    return refused(reason("goods-back.say-what", { field: "note" }))
  const order = said.order === "" ? null : await orderNamed(db, actor.warehouseId, said.order)
  if (said.order !== "" && !order) return refused(reason("goods-back.no-order", { order: said.order, field: "order" }))
  if (order && !order.gone) return refused(reason("goods-back.not-sent", { order: order.order_number, field: "order" }))
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly name: string }>> => {
    // whoever else takes one in at this moment waits here
    if (order) await trx("sales_order").where({ id: order.id }).forUpdate().first("id")
    else await trx("warehouse").where({ id: actor.warehouseId }).forUpdate().first("id")
    const again = await trx("goods_return").where({ press_key: pressKey }).forUpdate().first("name")
    if (again) return accepted(again)
    let id: GoodsReturnId
    if (order) {
      const number = await nextReturnNumber(trx, order.id)
      const packages = Array.from({ length: said.packages }, () => ({ unitId: null, tracking: said.code }))
      id = await writeReturn(
        trx,
        {
          warehouseId: actor.warehouseId,
          orderId: order.id,
          number,
          kind: "unannounced",
          packages,
          goods: new Map(),
        },
        now,
      )
    } else {
      const last = await trx("goods_return")
        .where({ warehouse_id: actor.warehouseId, kind: "unknown" })
        .max({ most: "number" })
        .first()
      const number = Number(last?.most ?? 0) + 1
      id = newId(
        await trx("goods_return").insert({
          warehouse_id: actor.warehouseId,
          name: `U${number}`,
          number,
          kind: "unknown",
          made_at: now,
        }),
      )
      await trx("goods_return_package").insert(
        Array.from({ length: said.packages }, (_, index) => ({
          goods_return_id: id,
          piece: index + 1,
          tracking: said.code,
        })),
      )
    }
    await trx("goods_return").where({ id }).update({ note: said.note, press_key: pressKey })
    await trx("goods_return_package").where({ goods_return_id: id }).update({ arrived_at: now, told_by: actor.name })
    const came = there(await trx("goods_return").where({ id }).first())
    await cameIn(trx, context, came, false)
    await record(trx, actor, now, {
      action: order ? "goods-back.unannounced" : "goods-back.unknown-came",
      ...(order ? { orderId: order.id } : { warehouseId: actor.warehouseId }),
      detail: { name: came.name, code: said.code },
    })
    return accepted({ name: came.name })
  })
}

/** The order, by our number, its source's or its customer's, that leads its shipment; `gone`, whether anything of it ever left. */
async function orderNamed(db: Knex, warehouseId: WarehouseId, text: string) {
  const found = await byCode(db, warehouseId, text)
  const code = found?.kind === "order" ? found.orderNumber : identifier(text)
  const order = await db("sales_order")
    .where({ warehouse_id: warehouseId, order_number: code })
    .first("id", "joined_to_id")
  if (!order) return null
  // of orders that went together all comes back under the leading one
  const lead = order.joined_to_id ?? order.id
  const own = there(await db("sales_order").where({ id: lead }).first("id", "order_number"))
  return { ...own, gone: (await sentOf(db, lead)).length > 0 }
}

/** Says of which order unknown goods are. Refused once they are settled; again it changes nothing. */
export async function matchReturn(
  context: Context,
  name: string,
  ofOrder: string,
): Promise<Outcome<{ readonly name: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const order = await orderNamed(db, actor.warehouseId, ofOrder)
  if (!order) return refused(reason("goods-back.no-order", { order: ofOrder, field: "order" }))
  if (!order.gone) return refused(reason("goods-back.not-sent", { order: order.order_number, field: "order" }))
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly name: string }>> => {
    await trx("sales_order").where({ id: order.id }).forUpdate().first("id")
    const came = await trx("goods_return").where({ warehouse_id: actor.warehouseId, name }).forUpdate().first()
    if (!came) return refused(reason("goods-back.gone", { name }))
    if (came.kind !== "unknown" || came.state === "closed" || came.state === "declined")
      return refused(reason("goods-back.is-settled", { name }))
    const number = await nextReturnNumber(trx, order.id)
    const known = `${order.order_number}-R${number}`
    await trx("goods_return")
      .where({ id: came.id })
      .update({ order_id: order.id, kind: "unannounced", number, name: known })
    await tellArrived(trx, { id: came.id, name: known, kind: "unannounced" }, order.id, false, now)
    await record(trx, actor, now, { action: "goods-back.matched", orderId: order.id, detail: { name, to: known } })
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted({ name: known })
  })
}
