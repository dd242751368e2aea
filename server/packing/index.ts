import { randomUUID } from "node:crypto"
import { sscc } from "core/barcodes/index.ts"
import type { LineId, OrderId, ShippingRunId, WarehouseId } from "core/ids/index.ts"
import { buildPallets } from "core/packing/index.ts"
import { preferred } from "core/preferences/index.ts"
import { settledWishes } from "core/rating/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { lengthIn, type Mass, massIn, type Size, showMass, showSize } from "core/units/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { leadOf, membersOf } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { handled, keepingOpen, type Shipment, shipmentOf } from "../packages/shipment.ts"
import { returnPackaging, takePackaging } from "../packages/used.ts"
import { packagingTypes } from "../packaging/catalog.ts"
import { settledOf } from "../rules/settleOrder.ts"
import { preferencesAt, worksAt } from "../setup/preferences.ts"
import { change, isGone, newPackage, openPackage, resizePallet } from "./change.ts"
import { writeLots } from "./lots.ts"

/** Opens the shipment of an order whose goods are picked; the same one when it is there already. */
export async function openShipment(context: Context, ofOrder: number): Promise<Outcome<Shipment>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  // looked up before the transaction: what it reads must be what stands there once the lock is its own
  const orderId = await leadOf(db, ofOrder)
  return inTransaction(db, async (trx) => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id", "settings", "cancelled_at")
    if (!order) return refused(reason("order.unknown"))
    if (order.cancelled_at) return refused(reason("order.is-cancelled"))
    const members = await membersOf(trx, ofOrder)
    if (members[0] !== orderId) return refused(reason("order.changed-meanwhile"))
    if (await trx("order_stop").whereIn("order_id", members).first("id")) return refused(reason("pick.order-stopped"))
    const there = await shipmentOf(trx, orderId)
    if (there) return accepted(there)
    if (await labelsAskedFor(trx, orderId)) return refused(reason("pack.outside"))
    const usual = preferred(await preferencesAt(trx, worksAt(context)), "options")
    await trx("shipment").insert({
      order_id: orderId,
      warehouse_id: actor.warehouseId,
      wishes: JSON.stringify(settledWishes(settledOf(order), usual)),
    })
    return accepted((await shipmentOf(trx, orderId)) as Shipment)
  })
}

/** Takes a new carton from the catalog. With `fill`, everything not packed yet goes into it. A key counts once. */
export const addPackage = (
  context: Context,
  orderId: OrderId,
  packagingCode: string,
  fill = false,
  key: string = randomUUID(),
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    { action: "pack.added", detail: { code: packagingCode }, once: { key, text: packagingCode } },
    async (trx, shipment) => {
      const type = await trx("packaging").where({ code: packagingCode }).first()
      if (!type) return [reason("pack.no-such-packaging", { code: packagingCode })]
      const id = await newPackage(trx, shipment, type)
      if (!fill) return []
      for (const line of shipment.lines) {
        const left = line.picked - line.packed
        if (left > 0)
          await trx("package_content").insert({
            package_id: id,
            order_line_id: line.id,
            quantity: left,
            unverified: left,
          })
      }
      const { number } = there(await trx("package").where({ id }).first("number"))
      await resizePallet(trx, shipment, number)
      return []
    },
  )

/** Empties and takes away an open package; its number is not used again. Safe to repeat. */
export const removePackage = (context: Context, orderId: OrderId, number: number): Promise<Outcome<Shipment>> =>
  change(context, orderId, { action: "pack.removed", detail: { number } }, async (trx, shipment) => {
    if (await isGone(trx, shipment, number)) return "before"
    const one = openPackage(shipment, number)
    if (Array.isArray(one)) return one
    await trx("package_content").where({ package_id: one.id }).delete()
    await trx("package").where({ parent_id: one.id }).update({ parent_id: null })
    await trx("package").where({ id: one.id }).update({ state: "void", parent_id: null })
    await resizePallet(trx, shipment, one.on)
    return []
  })

/** Sets the cartons that stand on no pallet on new ones, as many as they need; sizes are then to be measured. */
export const palletise = (context: Context, orderId: OrderId, packagingCode: string): Promise<Outcome<Shipment>> =>
  change(context, orderId, { action: "pack.palletised", detail: { code: packagingCode } }, async (trx, shipment) => {
    const type = (await packagingTypes(trx)).find((one) => one.code === packagingCode && one.kind === "pallet")
    if (!type) return [reason("pack.no-such-packaging", { code: packagingCode })]
    const loose = handled(shipment.packages).filter((one) => one.kind !== "pallet")
    if (loose.length === 0) return [reason("pallet.nothing-loose")]
    const built = buildPallets(
      type,
      loose.map((one) => ({ number: one.number, size: one.outer, weight: one.actual })),
    )
    if (!built.ok) return built.reasons
    const row = there(await trx("packaging").where({ id: type.id }).first())
    for (const pallet of built.value) {
      const id = await newPackage(trx, shipment, row)
      await trx("package")
        .where({ id })
        .update({ height_mm: pallet.outer.height.toFixed(6) })
      await trx("package")
        .where({ shipment_id: shipment.id })
        .whereIn(
          "number",
          pallet.places.map((place) => place.number),
        )
        .update({ parent_id: id })
    }
    return []
  })

/** Sets a carton on a pallet of its shipment, or takes it off with null. */
export const standOn = (
  context: Context,
  orderId: OrderId,
  number: number,
  pallet: number | null,
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    { action: pallet === null ? "pack.taken-off" : "pack.set-on", detail: { number, pallet: pallet ?? "" } },
    async (trx, shipment) => {
      const one = openPackage(shipment, number)
      if (Array.isArray(one)) return one
      if (one.kind === "pallet") return [reason("pallet.on-pallet", { number })]
      const under = pallet === null ? null : openPackage(shipment, pallet)
      if (Array.isArray(under)) return under
      if (under && under.kind !== "pallet") return [reason("pallet.no-pallet", { number: under.number })]
      await trx("package")
        .where({ id: one.id })
        .update({ parent_id: under?.id ?? null })
      await resizePallet(trx, shipment, one.on)
      await resizePallet(trx, shipment, pallet)
      return []
    },
  )

/** Takes a pallet apart: its cartons stand by themselves again, the pallet is gone. */
export const takeApart = (context: Context, orderId: OrderId): Promise<Outcome<Shipment>> =>
  change(context, orderId, { action: "pack.taken-apart" }, async (trx, shipment) => {
    for (const one of shipment.packages.filter((pack) => pack.kind === "pallet" && pack.contents.length === 0)) {
      await trx("package").where({ parent_id: one.id }).update({ parent_id: null })
      await trx("package").where({ id: one.id }).update({ state: "void" })
    }
    await trx("package").where({ shipment_id: shipment.id, state: "closed" }).update({ state: "open" })
    return []
  })

export interface PutIn {
  readonly package: number
  readonly lineId: LineId
  /** Pieces to put in, or to take out when negative. */
  readonly quantity: number
  /** Confirmed by a scan of the item, not by hand. */
  readonly scanned: boolean
  /** A scan of the same id counts once. */
  readonly scanId: string
}

/** Puts picked pieces of a line into an open package, or takes them out again. */
export const putIn = (context: Context, orderId: OrderId, put: PutIn): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    {
      action: put.scanned ? null : "pack.put-by-hand",
      detail: { number: put.package, line: put.lineId, quantity: put.quantity },
      once: { key: put.scanId, text: `${put.quantity} of line ${put.lineId} into ${put.package}` },
    },
    async (trx, shipment) => {
      const one = openPackage(shipment, put.package)
      if (Array.isArray(one)) return one
      const line = shipment.lines.find((candidate) => candidate.id === put.lineId)
      if (!line) return [reason("pack.no-such-line")]
      if (!Number.isInteger(put.quantity) || put.quantity === 0)
        return [reason("pick.quantity", { quantity: put.quantity })]
      const left = line.picked - line.packed
      if (put.quantity > left)
        return [reason("pack.too-many", { line: line.letter, sku: line.sku, quantity: put.quantity, left })]
      const row = await trx("package_content").where({ package_id: one.id, order_line_id: line.id }).first()
      const inside = (row?.quantity ?? 0) + put.quantity
      if (inside < 0)
        return [reason("pack.not-inside", { line: line.letter, quantity: -put.quantity, inside: row?.quantity ?? 0 })]
      const unverified = Math.min(inside, Math.max(0, (row?.unverified ?? 0) + (put.scanned ? 0 : put.quantity)))
      const at = { package_id: one.id, order_line_id: line.id }
      if (inside === 0) await trx("package_content").where(at).delete()
      else
        await trx("package_content")
          .insert({ ...at, quantity: inside, unverified })
          .onConflict(["package_id", "order_line_id"])
          .merge()
      await resizePallet(trx, shipment, one.number)
      return []
    },
  )

/** Pieces of lines that go into packages in one go, by hand. */
export interface Put {
  readonly package: number
  readonly lineId: LineId
  readonly quantity: number
}

/** Puts picked pieces of several lines into several open packages, all or nothing; unverified. A key counts once. */
export const putSeveral = (
  context: Context,
  orderId: OrderId,
  puts: readonly Put[],
  key: string,
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    { action: "pack.put-several", detail: { pieces: sumOf(puts) }, once: { key, text: `put ${puts.length}` } },
    async (trx, shipment) => {
      const left = new Map(shipment.lines.map((line) => [line.id, line.picked - line.packed]))
      for (const put of puts) {
        const one = openPackage(shipment, put.package)
        if (Array.isArray(one)) return one
        const line = shipment.lines.find((candidate) => candidate.id === put.lineId)
        if (!line) return [reason("pack.no-such-line")]
        const { quantity } = put
        if (!Number.isInteger(quantity) || quantity <= 0) return [reason("pick.quantity", { quantity })]
        const still = left.get(line.id) ?? 0
        if (quantity > still)
          return [reason("pack.too-many", { line: line.letter, sku: line.sku, quantity, left: still })]
        left.set(line.id, still - quantity)
        await trx("package_content")
          .insert({ package_id: one.id, order_line_id: line.id, quantity, unverified: quantity })
          .onConflict(["package_id", "order_line_id"])
          .merge({
            quantity: trx.raw("quantity + ?", [quantity]),
            unverified: trx.raw("unverified + ?", [quantity]),
          })
      }
      for (const number of new Set(puts.map((put) => put.package))) await resizePallet(trx, shipment, number)
      return []
    },
  )
const sumOf = (puts: readonly Put[]): number => puts.reduce((sum, put) => sum + put.quantity, 0)

/** Takes a measured weight for a package, or goes back to the calculated one with null. */
export const weigh = (
  context: Context,
  orderId: OrderId,
  number: number,
  measured: Mass | null,
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    measured
      ? { action: "pack.weighed", detail: { number, weight: showMass(measured, "lb") } }
      : { action: "pack.weight-calculated", detail: { number } },
    async (trx, shipment) => {
      const one = shipment.packages.find((candidate) => candidate.number === number)
      if (!one) return [reason("pack.no-such-package", { number })]
      if (measured && (measured.lte(0) || massIn(measured, "lb").gt(5000)))
        return [reason("pack.weight-out-of-range", { limit: "5000 lb" })]
      await trx("package")
        .where({ id: one.id })
        .update({ measured_kg: measured ? measured.toFixed(12) : null })
      return []
    },
  )

/** Gives one package another outer size for this shipment only; the catalog stays as it is. */
export const resize = (context: Context, orderId: OrderId, number: number, outer: Size): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    { action: "pack.resized", detail: { number, size: showSize(outer, "in") } },
    async (trx, shipment) => {
      const one = shipment.packages.find((candidate) => candidate.number === number)
      if (!one) return [reason("pack.no-such-package", { number })]
      const edges = [outer.length, outer.width, outer.height]
      if (edges.some((edge) => edge.lte(0) || lengthIn(edge, "in").gt(200)))
        return [reason("pack.size-out-of-range", { limit: "200 in" })]
      await trx("package")
        .where({ id: one.id })
        .update({
          length_mm: outer.length.toFixed(6),
          width_mm: outer.width.toFixed(6),
          height_mm: outer.height.toFixed(6),
          size_by_hand: true,
        })
      await resizePallet(trx, shipment, one.on)
      return []
    },
  )

/** Closes all packages when everything picked is packed and nothing is flawed; each gets its SSCC, once for ever. */
export const closePackages = (context: Context, orderId: OrderId): Promise<Outcome<Shipment>> =>
  change(context, orderId, { action: null }, async (trx, shipment) => {
    const closed = await closeIn(trx, context, shipment)
    return closed.ok ? [] : closed.reasons
  })

/**
 * Closes what is open of a shipment in the caller's transaction, which holds its lock and counts its version up; answers
 * the shipment with its packages closed.
 *
 * @param run where a shipping run closes it: the run, and SSCCs that were drawn for it beforehand, each used up; where
 * they do not suffice, others are drawn
 */
export async function closeIn(
  trx: Knex,
  context: Context,
  shipment: Shipment,
  run?: { readonly id: ShippingRunId; readonly numbers: string[] },
): Promise<Outcome<Shipment>> {
  const reasons: Reason[] = []
  if (shipment.packages.length === 0) reasons.push(reason("pack.no-packages"))
  for (const line of shipment.lines) {
    if (line.packed < line.ordered)
      reasons.push(reason("pack.line-open", { line: line.letter, left: line.ordered - line.packed }))
  }
  reasons.push(...keepingOpen(shipment))
  if (reasons.length > 0) return refused(...reasons)
  const given = new Map<number, string>()
  for (const one of shipment.packages.filter((candidate) => candidate.state === "open")) {
    const own = one.sscc ?? run?.numbers.shift()
    const code = own ? accepted([own]) : await drawSsccs(trx, shipment.warehouseId, 1)
    if (!code.ok) return code
    const [number = ""] = code.value
    given.set(one.id, number)
    await trx("package")
      .where({ id: one.id })
      .update({ state: "closed", sscc: number, seen_at: context.now, seen_where: "bench" })
  }
  await writeLots(trx, shipment)
  await takePackaging(trx, shipment)
  await trx("tote")
    .whereIn(
      "order_id",
      shipment.members.map((one) => one.id),
    )
    .update({ order_id: null, run_id: null })
  await record(trx, context.actor, context.now, {
    action: "pack.closed",
    orderId: shipment.orderId,
    detail: { packages: shipment.packages.length, ...(run && { run: run.id }) },
  })
  return accepted({
    ...shipment,
    packages: shipment.packages.map((one) => {
      const number = given.get(one.id)
      return number === undefined ? one : { ...one, state: "closed", sscc: number }
    }),
  })
}

/** Opens the packages again to change them; their SSCCs stay theirs. */
export const reopenPackages = (context: Context, orderId: OrderId): Promise<Outcome<Shipment>> =>
  change(context, orderId, { action: "pack.reopened" }, async (trx, shipment) => {
    await returnPackaging(trx, shipment)
    await trx("package").where({ shipment_id: shipment.id, state: "closed" }).update({ state: "open" })
    return []
  })

/** Draws so many SSCCs of a warehouse, each given once; one that is drawn and not used is a gap, which does no harm. */
export async function drawSsccs(trx: Knex, warehouseId: WarehouseId, n: number): Promise<Outcome<string[]>> {
  const row = there(
    await trx("warehouse").where({ id: warehouseId }).forUpdate().first("sscc_serial", "sscc_extension", "gs1_prefix"),
  )
  const from = BigInt(row.sscc_serial)
  await trx("warehouse")
    .where({ id: warehouseId })
    .update({ sscc_serial: (from + BigInt(n)).toString() })
  const numbers: string[] = []
  for (let at = 1n; at <= BigInt(n); at += 1n) {
    const code = sscc(row.sscc_extension, row.gs1_prefix, from + at)
    if (!code.ok) return code
    numbers.push(code.value)
  }
  return accepted(numbers)
}
