import type { LineId, OrderId } from "core/ids/index.ts"
import { type Outcome, reason } from "core/refusal/index.ts"
import { length, lengthIn, type Mass, massIn, type Size } from "core/units/index.ts"
import type { Knex } from "knex"
import { type Context, may } from "../actors/index.ts"
import { there } from "../db/there.ts"
import { flawKey, type Shipment, type ShipmentPackage } from "../packages/shipment.ts"
import { type Changed, change, isGone, mostPackages, newPackage, openPackage, resizePallet } from "./change.ts"

/** Copies made at once, at most. */
export const mostCopies = 99

const inside = (one: ShipmentPackage, lineId: LineId): number =>
  one.contents.reduce((sum, content, index) => sum + (one.lineIds[index] === lineId ? content.quantity : 0), 0)

/** Moves pieces between packages as the rows are now; scanned pieces stay scanned as far as they go. */
async function carry(trx: Knex, from: number, to: number, lineId: LineId, quantity: number): Promise<void> {
  const row = there(await trx("package_content").where({ package_id: from, order_line_id: lineId }).first())
  const unverified = Math.min(row.unverified, quantity)
  if (row.quantity === quantity)
    await trx("package_content").where({ package_id: from, order_line_id: lineId }).delete()
  else
    await trx("package_content")
      .where({ package_id: from, order_line_id: lineId })
      .update({
        quantity: row.quantity - quantity,
        unverified: Math.min(row.unverified - unverified, row.quantity - quantity),
      })
  await trx("package_content")
    .insert({ package_id: to, order_line_id: lineId, quantity, unverified })
    .onConflict(["package_id", "order_line_id"])
    .merge({ quantity: trx.raw("quantity + ?", [quantity]), unverified: trx.raw("unverified + ?", [unverified]) })
}

export interface Move {
  readonly from: number
  readonly to: number
  readonly lineId: LineId
  readonly quantity: number
  /** Made by the client; the same one again moves nothing more. */
  readonly key: string
}

/** Moves pieces of a line from one open package to another. */
export const movePieces = (context: Context, orderId: OrderId, move: Move): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    {
      action: "pack.moved",
      detail: { from: move.from, to: move.to, line: move.lineId, quantity: move.quantity },
      once: { key: move.key, text: `${move.from} → ${move.to}` },
    },
    async (trx, shipment) => {
      const from = openPackage(shipment, move.from)
      if (Array.isArray(from)) return from
      const to = openPackage(shipment, move.to)
      if (Array.isArray(to)) return to
      const line = shipment.lines.find((one) => one.id === move.lineId)
      if (!line) return [reason("pack.no-such-line")]
      if (from.id === to.id) return "before"
      const there = inside(from, move.lineId)
      if (!Number.isInteger(move.quantity) || move.quantity < 1)
        return [reason("pick.quantity", { quantity: move.quantity })]
      if (move.quantity > there)
        return [reason("pack.not-inside", { line: line.letter, quantity: move.quantity, inside: there })]
      await carry(trx, from.id, to.id, move.lineId, move.quantity)
      await resizePallet(trx, shipment, from.number)
      await resizePallet(trx, shipment, to.number)
      return []
    },
  )

/** Packs so many more packages like one, of what is picked and in no package yet. */
export const copyPackage = (
  context: Context,
  orderId: OrderId,
  number: number,
  times: number,
  key: string,
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    { action: "pack.copied", detail: { number, times }, once: { key, text: `${times} like ${number}` } },
    async (trx, shipment) => {
      const one = openPackage(shipment, number)
      if (Array.isArray(one)) return one
      if (!Number.isInteger(times) || times < 1 || times > mostCopies)
        return [reason("pack.copies", { times, most: mostCopies })]
      if (one.contents.length === 0) return [reason("pack.copy-empty", { number })]
      const lacking = shipment.lines.find((line) => inside(one, line.id) * times > line.picked - line.packed)
      if (lacking)
        return [
          reason("pack.copy-not-enough", {
            line: lacking.letter,
            needed: inside(one, lacking.id) * times,
            left: lacking.picked - lacking.packed,
          }),
        ]
      for (let made = 0; made < times; made += 1) {
        const id = await like(trx, shipment, one)
        for (const lineId of one.lineIds)
          await trx("package_content").insert({
            package_id: id,
            order_line_id: lineId,
            quantity: inside(one, lineId),
            unverified: inside(one, lineId),
          })
        await sizeOfPallet(trx, shipment, id)
      }
      return []
    },
  )

const sizeOfPallet = async (trx: Knex, shipment: Shipment, id: number): Promise<void> =>
  resizePallet(trx, shipment, there(await trx("package").where({ id }).first("number")).number)

/** An empty package of the same kind, size and tare. */
async function like(trx: Knex, shipment: Shipment, one: ShipmentPackage): Promise<number> {
  const row = there(await trx("package").where({ id: one.id }).first())
  const id = await newPackage(trx, shipment, {
    id: row.packaging_id,
    outer_length_mm: row.length_mm,
    outer_width_mm: row.width_mm,
    outer_height_mm: row.height_mm,
    tare_kg: row.tare_kg,
  })
  await trx("package")
    .where({ id })
    .update({ origin: row.origin, size_by_hand: row.size_by_hand, max_load_kg: row.max_load_kg })
  return id
}

/** Empties one open package into another; the emptied one is gone. */
export const mergePackages = (
  context: Context,
  orderId: OrderId,
  number: number,
  into: number,
): Promise<Outcome<Shipment>> =>
  change(context, orderId, { action: "pack.merged", detail: { number, into } }, async (trx, shipment) => {
    if (await isGone(trx, shipment, number)) return "before"
    const from = openPackage(shipment, number)
    if (Array.isArray(from)) return from
    const to = openPackage(shipment, into)
    if (Array.isArray(to)) return to
    if (from.id === to.id) return [reason("pack.same-package", { number })]
    if (from.kind === "pallet" && to.kind !== "pallet" && shipment.packages.some((one) => one.on === number))
      return [reason("pack.pallet-into-carton", { number })]
    for (const lineId of from.lineIds) await carry(trx, from.id, to.id, lineId, inside(from, lineId))
    await trx("package")
      .where({ parent_id: from.id })
      .update({ parent_id: to.kind === "pallet" ? to.id : null })
    await trx("package").where({ id: from.id }).update({ state: "void", parent_id: null })
    await resizePallet(trx, shipment, from.on)
    await resizePallet(trx, shipment, to.number)
    return []
  })

/** Takes half of every line of a package over into a new one of the same kind; of a line with one piece nothing. */
export const splitPackage = (
  context: Context,
  orderId: OrderId,
  number: number,
  key: string,
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    { action: "pack.split", detail: { number }, once: { key, text: `split ${number}` } },
    async (trx, shipment) => {
      const one = openPackage(shipment, number)
      if (Array.isArray(one)) return one
      const pieces = one.contents.reduce((sum, content) => sum + content.quantity, 0)
      if (pieces < 2) return [reason("pack.nothing-to-split", { number })]
      const id = await like(trx, shipment, one)
      let moved = 0
      for (const lineId of one.lineIds) {
        const half = Math.floor(inside(one, lineId) / 2)
        if (half > 0) await carry(trx, one.id, id, lineId, half)
        moved += half
      }
      // single pieces of several lines: every other line goes
      if (moved === 0)
        for (const lineId of one.lineIds.filter((_, index) => index % 2 === 1)) await carry(trx, one.id, id, lineId, 1)
      await resizePallet(trx, shipment, number)
      await sizeOfPallet(trx, shipment, id)
      return []
    },
  )

/** Takes everything out of an open package; what was in it is to be packed again. Safe to repeat. */
export const emptyPackage = (context: Context, orderId: OrderId, number: number): Promise<Outcome<Shipment>> =>
  change(context, orderId, { action: "pack.emptied", detail: { number } }, async (trx, shipment) => {
    const one = openPackage(shipment, number)
    if (Array.isArray(one)) return one
    if (one.contents.length === 0) return "before"
    await trx("package_content").where({ package_id: one.id }).delete()
    await resizePallet(trx, shipment, one.number)
    return []
  })

export interface OneOff {
  readonly outer: Size
  readonly tare: Mass
}

/** Adds a package of a size that is not in the catalog. */
export const addOneOff = (
  context: Context,
  orderId: OrderId,
  { outer, tare }: OneOff,
  key: string,
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    { action: "pack.one-off", detail: {}, once: { key, text: "one-off" } },
    async (trx, shipment) => {
      const edges = [outer.length, outer.width, outer.height]
      if (edges.some((edge) => edge.lte(0) || lengthIn(edge, "in").gt(200)))
        return [reason("pack.size-out-of-range", { limit: "200 in" })]
      if (massIn(tare, "lb").gt(500)) return [reason("pack.weight-out-of-range", { limit: "500 lb" })]
      const id = await newPackage(trx, shipment, {
        id: null,
        outer_length_mm: outer.length.toFixed(6),
        outer_width_mm: outer.width.toFixed(6),
        outer_height_mm: outer.height.toFixed(6),
        tare_kg: tare.toFixed(12),
      })
      await trx("package").where({ id }).update({ origin: "one-off", size_by_hand: true })
      return []
    },
  )

/** Makes each picked and unpacked piece of a line, or of a whole case, a package in the carton that it comes in. */
export const packInOwnCartons = (
  context: Context,
  orderId: OrderId,
  lineId: LineId,
  key: string,
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    { action: "pack.own-cartons", detail: { line: lineId }, once: { key, text: `own ${lineId}` } },
    async (trx, shipment) => {
      const line = shipment.lines.find((one) => one.id === lineId)
      if (!line) return [reason("pack.no-such-line")]
      const left = line.picked - line.packed
      if (left < 1) return [reason("pack.nothing-left", { line: line.letter })]
      const levels = await trx("item_level as v")
        .join("order_line as l", "l.item_id", "v.item_id")
        .where("l.id", lineId)
        .whereNotNull("v.length_mm")
        .where("v.quantity", ">", 1)
        .orderBy("v.quantity", "desc")
        .select("v.quantity", "v.length_mm", "v.width_mm", "v.height_mm", "v.weight_kg")
      const own: { pieces: number; outer: Size; tare: string }[] = []
      let rest = left
      for (const level of levels)
        for (; rest >= level.quantity; rest -= level.quantity) {
          const goods = line.piece.item.unitWeight.mul(level.quantity)
          const tare = level.weight_kg === null ? "0" : goods.neg().add(level.weight_kg)
          own.push({
            pieces: level.quantity,
            outer: {
              length: length(level.length_mm, "mm"),
              width: length(level.width_mm, "mm"),
              height: length(level.height_mm, "mm"),
            },
            tare: typeof tare === "string" ? tare : tare.isNegative() ? "0" : tare.toFixed(12),
          })
        }
      for (; rest > 0 && own.length <= mostPackages; rest -= 1)
        own.push({ pieces: 1, outer: line.piece.item.unitSize, tare: "0" })
      if (own.length + shipment.packages.length > mostPackages)
        return [reason("pack.too-many-packages", { most: mostPackages })]
      for (const one of own) {
        const id = await newPackage(trx, shipment, {
          id: null,
          outer_length_mm: one.outer.length.toFixed(6),
          outer_width_mm: one.outer.width.toFixed(6),
          outer_height_mm: one.outer.height.toFixed(6),
          tare_kg: one.tare,
        })
        await trx("package").where({ id }).update({ origin: "own" })
        await trx("package_content").insert({
          package_id: id,
          order_line_id: lineId,
          quantity: one.pieces,
          unverified: one.pieces,
        })
      }
      return []
    },
  )

/** Lets a flaw of a package pass, with a reason (the lead). A flaw whose figures change is another one. Safe to repeat. */
export const overrideFlaw = (
  context: Context,
  orderId: OrderId,
  number: number,
  key: string,
  why: string,
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    { action: "pack.overridden", detail: { number, why } },
    async (trx, shipment): Promise<Changed> => {
      if (!may(context.actor, "orders.override")) return [reason("pack.lead-overrides")]
      if (!why.trim()) return [reason("pack.override-why")]
      const one = shipment.packages.find((each) => each.number === number)
      if (!one) return [reason("pack.no-such-package", { number })]
      if (one.overridden.some((each) => each.key === key)) return "before"
      const flaw = one.flaws.find((each) => flawKey(each) === key)
      if (!flaw) return [reason("pack.flaw-gone")]
      if (flaw.code === "flaw.empty") return [reason("flaw.empty", { package: number })]
      const overrides = [...one.overridden, { key, flaw, why: why.trim().slice(0, 120), actor: context.actor.name }]
      await trx("package")
        .where({ id: one.id })
        .update({ overrides: JSON.stringify(overrides) })
      return []
    },
  )
