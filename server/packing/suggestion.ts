import type { LineId, OrderId } from "core/ids/index.ts"
import {
  checkPacked,
  type FixedPackage,
  type FreightInput,
  goesAsFreight,
  type KeepTogether,
  lineOfKey,
  type PackLoad,
  type PlacedPiece,
  piecesOfKey,
  type SuggestionInput,
} from "core/packing/index.ts"
import { sharedClass } from "core/rating/index.ts"
import { type Outcome, reason } from "core/refusal/index.ts"
import { settingOf } from "core/rules/index.ts"
import { type Mass, mass, noMass, sumMass, timesMass } from "core/units/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import type { Context } from "../actors/index.ts"
import { businessNow } from "../clock/index.ts"
import { sendingOf } from "../packages/goods.ts"
import type { Shipment, ShipmentLine } from "../packages/shipment.ts"
import { boxOf, edgesOf, loadsOfLine, usableCartons } from "../packaging/boxes.ts"
import { type CataloguePackaging, packagingTypes, palletType } from "../packaging/catalog.ts"
import { packingAsked, plainInput } from "../plan/suggested.ts"
import { type RatingGround, ratingGround } from "../rating/offers.ts"
import { freightWays } from "../rating/parcelWays.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { type Changed, change, mostPackages, newPackage } from "./change.ts"

/**
 * Pieces of lines as the packing computation sees them, such as those that are picked and in no package, with what the
 * carrier is told that each is worth.
 */
export function loadsOf(
  shipment: Pick<Shipment, "lines" | "wishes">,
  quantityOf: (line: Shipment["lines"][number]) => number,
  together: KeepTogether = "no",
): PackLoad[] {
  const told = declaredEach(shipment)
  return shipment.lines
    .filter((line) => quantityOf(line) > 0)
    .flatMap((line) =>
      together === "lots" ? loadsByLot(line, quantityOf(line)) : loadsOfLine(line, quantityOf(line), together),
    )
    .map((load) => {
      const each = told.get(lineOfKey(load.key)) ?? 0
      return told.size > 0 ? { ...load, declared: each * piecesOfKey(load.key) } : load
    })
}

/** Pieces of a line, those of each lot by themselves; what is left of a line is of the lots that expire last. */
function loadsByLot(line: ShipmentLine, quantity: number): PackLoad[] {
  const loads: PackLoad[] = []
  let left = quantity
  for (const { lot, quantity: picked } of line.lotsPicked.toReversed()) {
    const some = Math.min(left, picked)
    if (some > 0) loads.push(...loadsOfLine(line, some).map((one) => ({ ...one, together: `${line.id} ${lot.code}` })))
    left -= some
  }
  return left > 0 ? [...loads, ...loadsOfLine(line, left, "lots")] : loads
}

/** What can be in a suggestion of a shipment, by its key: pieces of each line, and its whole cases. */
export const packableOf = (shipment: Shipment): Map<string, PackLoad> =>
  new Map(
    // a case and a piece more of each line
    loadsOf(shipment, (line) => (line.piece.item.whole?.pieces ?? 0) + 1).map((one) => [one.key, one]),
  )

/** Pieces of a line that open packages are still to be given by their plans. */
export const plannedStill = (shipment: Pick<Shipment, "packages">, lineId: LineId): number =>
  shipment.packages
    .filter((one) => one.state === "open")
    .reduce((sum, one) => sum + Math.max(0, (one.planned[lineId] ?? 0) - insideOf(one, lineId)), 0)

const insideOf = (one: Shipment["packages"][number], lineId: LineId): number =>
  one.contents.reduce((sum, content, index) => sum + (one.lineIds[index] === lineId ? content.quantity : 0), 0)

/** The cartons that stand there and keep what they hold and are planned for, as carriers will see them. */
export function fixedOf(shipment: Pick<Shipment, "packages" | "lines" | "wishes">): FixedPackage[] {
  const told = declaredEach(shipment)
  return shipment.packages
    .filter((one) => one.kind !== "pallet" && one.on === null)
    .map((one) => {
      const still = (lineId: LineId) => Math.max(0, (one.planned[lineId] ?? 0) - insideOf(one, lineId))
      const worth = shipment.lines.map(({ id }) => (told.get(String(id)) ?? 0) * (insideOf(one, id) + still(id)))
      return {
        code: one.packaging,
        outer: edgesOf(one.outer),
        kilograms: sumMass([
          one.actual,
          ...shipment.lines.map((line) => timesMass(line.piece.item.unitWeight, still(line.id))),
        ]).toNumber(),
        freightClass: sharedClass(shipment.lines.filter(({ id }) => insideOf(one, id) + still(id) > 0)),
        ...(told.size > 0 ? { declared: worth.reduce((sum, one) => sum + one, 0) } : {}),
      }
    })
}

/** What the carrier is told that a piece of each line is worth, where a value is declared: as it is, or shared out. */
export function declaredEach(shipment: Pick<Shipment, "wishes" | "lines">): Map<string, number> {
  const { options, declared } = shipment.wishes
  if (!options.includes("declared-value")) return new Map()
  const worth = shipment.lines.map((line) => line.worth.amount.toNumber())
  const whole = shipment.lines.reduce((sum, line, at) => sum + line.picked * (worth[at] as number), 0)
  const share = declared === null || whole === 0 ? 1 : Number(declared) / whole
  return new Map(shipment.lines.map((line, at) => [String(line.id), (worth[at] as number) * share]))
}

/** Kilograms of dry ice in each package; 0 where none is asked for. */
export const dryIceIn = ({ wishes }: Pick<Shipment, "wishes">): number =>
  wishes.options.includes("dry-ice") ? Number(wishes.dryIceKg ?? 0) : 0

/**
 * What would be packed into cartons of a shipment now: all that is picked, in no package and planned for none, but what
 * goes on a pallet; by the ways that the comparison would choose among, beside the cartons that are there.
 */
export async function suggestionInput(db: Knex, shipment: Shipment, known?: RatingGround): Promise<SuggestionInput> {
  const warehouse = known?.warehouse ?? (await warehouseById(db, shipment.warehouseId))
  const loads = loadsOf(
    shipment,
    (line) =>
      goesAsFreight(line.piece.item) ? 0 : Math.max(0, line.picked - line.packed - plannedStill(shipment, line.id)),
    shipment.keepTogether,
  )
  const ground = known ?? (await ratingGround(db, warehouse, await businessNow(db)))
  const cartons = await usableCartons(db, shipment.warehouseId)
  const ask = {
    loads,
    wanted: settingOf(shipment.settled, "packaging"),
    fixed: fixedOf(shipment),
    dryIce: dryIceIn(shipment),
  }
  const sending = sendingOf(warehouse, shipment)
  const input = plainInput(packingAsked({ ...ground, cartons }, sending, ask))
  // what stands on a pallet already, or must, is nothing to be chosen
  const loose = shipment.packages.every((one) => one.kind !== "pallet")
  const pallet = await palletType(db)
  if (!loose || !pallet || shipment.lines.some((line) => line.picked > 0 && goesAsFreight(line.piece.item)))
    return input
  const ways = freightWays(ground, sending).map((way) => way.plain())
  return { ...input, freight: { pallet: plainPallet(pallet), stackable: shipment.wishes.stackable, ways } }
}

const plainPallet = (type: CataloguePackaging): FreightInput["pallet"] => ({
  code: type.code,
  name: type.name,
  inner: edgesOf(type.inner),
  outer: edgesOf(type.outer),
  tare: type.tare.toNumber(),
  maxLoad: type.maxLoad.toNumber(),
})

const place = z.strictObject({
  key: z.string().max(20),
  x: z.number(),
  y: z.number(),
  z: z.number(),
  length: z.number(),
  width: z.number(),
  height: z.number(),
})
/** A suggestion as the browser sends it back. */
export const suggestedSchema = z
  .array(z.strictObject({ code: z.string().max(12).nullable(), placed: z.array(place).min(1).max(1_200) }))
  .min(1)
  .max(mostPackages)
export type Suggested = z.infer<typeof suggestedSchema>

/**
 * Packs as suggested: with `fill` everything is put in, unverified; without it the cartons are taken empty and know what
 * is to go into them, so that each scan says where. What comes from the browser is checked: boxes of the catalog, no
 * more than is picked, and the independent checker finds nothing wrong. A key counts once.
 */
export const packSuggested = (
  context: Context,
  orderId: OrderId,
  suggested: Suggested,
  fill: boolean,
  key: string,
): Promise<Outcome<Shipment>> =>
  change(
    context,
    orderId,
    {
      action: fill ? "pack.as-suggested" : "pack.suggestion-taken",
      detail: { packages: suggested.length },
      once: { key, text: "suggestion" },
    },
    async (trx, shipment): Promise<Changed> => {
      const types = await packagingTypes(trx)
      const pieces = packableOf(shipment)
      const wanted = new Map<number, number>()
      for (const box of suggested) {
        const type = types.find((one) => one.code === box.code)
        if (box.code !== null && !type) return [reason("pack.no-such-packaging", { code: box.code })]
        const only = pieces.get(box.placed[0]?.key ?? "")
        const alone = box.placed.length === 1 && (only?.ownCarton || only?.asIs)
        const right = type ? checkPacked(boxOf(type), pieces, box.placed as PlacedPiece[]).length === 0 : alone
        if (!right) return [reason("packing.not-right")]
        for (const [lineId, quantity] of piecesIn(box.placed)) wanted.set(lineId, (wanted.get(lineId) ?? 0) + quantity)
      }
      for (const [lineId, quantity] of wanted) {
        const line = shipment.lines.find((one) => one.id === lineId)
        if (!line || quantity > line.picked - line.packed) return [reason("packing.stale")]
      }
      await takeBoxes(trx, shipment, pieces, suggested, fill)
      return []
    },
  )

/** How many pieces of each line lie in a box. */
function piecesIn(placed: readonly Pick<PlacedPiece, "key">[]): Map<number, number> {
  const counts = new Map<number, number>()
  for (const { key } of placed) {
    const lineId = Number(lineOfKey(key))
    counts.set(lineId, (counts.get(lineId) ?? 0) + piecesOfKey(key))
  }
  return counts
}

/** What the whole cases in a box weigh without what is in them. */
const casesIn = (shipment: Shipment, placed: readonly Pick<PlacedPiece, "key">[]): Mass =>
  sumMass(
    placed.map(({ key }) => {
      const line = shipment.lines.find((one) => String(one.id) === lineOfKey(key))
      return piecesOfKey(key) > 1 ? (line?.piece.item.whole?.tare ?? noMass) : noMass
    }),
  )

/** Takes the cartons of a suggestion, in the caller's change: filled, or empty and knowing what is to go into each; their ids. */
export async function takeBoxes(
  trx: Knex,
  shipment: Shipment,
  pieces: ReadonlyMap<string, PackLoad>,
  suggested: Suggested,
  fill: boolean,
): Promise<number[]> {
  const ids: number[] = []
  for (const box of suggested) {
    const counts = piecesIn(box.placed)
    const type = box.code === null ? null : await trx("packaging").where({ code: box.code }).first()
    const own = pieces.get((box.placed as [PlacedPiece])[0].key) as PackLoad
    const id = await newPackage(
      trx,
      shipment,
      type ?? {
        id: null,
        outer_length_mm: own.length.toFixed(6),
        outer_width_mm: own.width.toFixed(6),
        outer_height_mm: own.height.toFixed(6),
        tare_kg: "0",
      },
    )
    ids.push(id)
    if (!type) await trx("package").where({ id }).update({ origin: "own" })
    await trx("package")
      .where({ id })
      .update({
        planned: JSON.stringify(Object.fromEntries(counts)),
        tare_kg: sumMass([mass(type?.tare_kg ?? 0, "kg"), casesIn(shipment, box.placed)]).toFixed(12),
      })
    if (fill || !type)
      for (const [lineId, quantity] of counts)
        await trx("package_content").insert({
          package_id: id,
          order_line_id: lineId,
          quantity,
          unverified: quantity,
        })
  }
  return ids
}

/** Puts in what open packages are still to be given by their plans, as far as it is picked; unverified. Safe to repeat. */
export const fillPlanned = (context: Context, orderId: OrderId): Promise<Outcome<Shipment>> =>
  change(context, orderId, { action: "pack.plan-filled", detail: {} }, async (trx, shipment): Promise<Changed> => {
    if (shipment.lines.every((line) => plannedStill(shipment, line.id) === 0)) return "before"
    const left = new Map(shipment.lines.map((line) => [line.id, line.picked - line.packed]))
    for (const one of shipment.packages.filter((each) => each.state === "open"))
      for (const [key, planned] of Object.entries(one.planned)) {
        const lineId = Number(key)
        const quantity = Math.min(left.get(lineId) ?? 0, planned - insideOf(one, lineId))
        if (quantity <= 0) continue
        left.set(lineId, (left.get(lineId) ?? 0) - quantity)
        await trx("package_content")
          .insert({ package_id: one.id, order_line_id: lineId, quantity, unverified: quantity })
          .onConflict(["package_id", "order_line_id"])
          .merge({
            quantity: trx.raw("quantity + ?", [quantity]),
            unverified: trx.raw("unverified + ?", [quantity]),
          })
      }
    return []
  })
