import type { WarehouseId } from "core/ids/index.ts"
import {
  type Content,
  caseWeight,
  goesAsFreight,
  type KeepTogether,
  keyOf,
  type PackBox,
  type PackLoad,
  type UsableBox,
} from "core/packing/index.ts"
import type { Size } from "core/units/index.ts"
import type { Knex } from "knex"
import type { Warehouse } from "../setup/warehouse.ts"
import { type CataloguePackaging, packagingTypes } from "./catalog.ts"

/** Edges in millimeters. */
export const edgesOf = (size: Size) => ({
  length: size.length.toNumber(),
  width: size.width.toNumber(),
  height: size.height.toNumber(),
})

/** The inside of a packaging as the packing computation sees it. */
export const boxOf = (type: CataloguePackaging): PackBox => ({
  code: type.code,
  ...edgesOf(type.inner),
  maxLoad: type.maxLoad.toNumber(),
})

/** A carton that may be used, with what is known of it in the catalog. */
export interface Carton {
  readonly box: UsableBox
  readonly type: CataloguePackaging
}

/** The cartons that may be used at a warehouse, and carriers' own boxes: active, and not known to have run out. */
export async function usableCartons(db: Knex, warehouseId: WarehouseId): Promise<Carton[]> {
  const stock = new Map(
    (await db("packaging_stock").where({ warehouse_id: warehouseId }).select("packaging_id", "on_hand")).map((row) => [
      row.packaging_id as number,
      row.on_hand as number,
    ]),
  )
  const carriers = new Map((await db.select("id", "code").from("carrier")).map((row) => [row.id as number, row.code]))
  return (await packagingTypes(db))
    .filter((type) => type.kind !== "pallet" && type.active)
    .map((type) => ({
      type,
      box: {
        ...boxOf(type),
        outer: edgesOf(type.outer),
        tare: type.tare.toNumber(),
        stock: stock.get(type.id) ?? null,
        cost: Number(type.price),
        carrier: type.carrierId === null ? null : (carriers.get(type.carrierId) ?? null),
      },
    }))
    .filter(({ box }) => box.stock === null || box.stock > 0)
}

/** Whether a box takes one piece of each load by its edges and weight. */
const takesEach = (boxes: readonly UsableBox[], loads: readonly PackLoad[]): boolean =>
  loads.every((one) => {
    const sorted = [one.length, one.width, one.height].sort((a, b) => b - a)
    return boxes.some((box) => {
      const room = [box.length, box.width, box.height].sort((a, b) => b - a)
      return one.weight <= box.maxLoad && sorted.every((edge, at) => edge <= (room[at] as number))
    })
  })

/**
 * The boxes for goods: a packaging that is asked for is the only one where it takes every piece; carriers' own boxes only
 * where one of their services is among the ways.
 */
export function boxesFor(
  cartons: readonly Carton[],
  loads: readonly PackLoad[],
  wanted: string | undefined,
  carriers: ReadonlySet<string>,
): UsableBox[] {
  const boxed = loads.filter((one) => !one.ownCarton)
  const some = cartons.map(({ box }) => box).filter((box) => box.carrier === null || carriers.has(box.carrier))
  const asked = some.filter((box) => box.code === wanted)
  return asked.length > 0 && takesEach(asked, boxed) ? asked : some
}

/** What handling a package costs at a warehouse: its time at what an hour of work costs. */
export const handlingCost = ({ workload, handHour }: Pick<Warehouse, "workload" | "handHour">): number =>
  Math.round((workload.perPackage * Number(handHour) * 100) / 60) / 100

/**
 * Pieces of a line as the packing computation sees them: whole cases where they were ordered in cases, which may be sent
 * as they are, and the pieces that fill none. A case bears what a piece of it does, and where it would go as freight, it
 * is opened.
 */
export function loadsOfLine(
  line: { readonly id: number; readonly piece: Content },
  quantity: number,
  together: KeepTogether = "no",
): PackLoad[] {
  const { item } = line.piece
  const { whole = null, ownCarton, freightOnly } = item
  const cases =
    whole && !ownCarton && !goesAsFreight({ freightOnly, unitWeight: caseWeight(item, whole) })
      ? Math.floor(quantity / whole.pieces)
      : 0
  const piece: PackLoad = {
    key: keyOf(line.id),
    sku: item.sku,
    kind: item.kind,
    hazard: item.hazard,
    ...edgesOf(item.unitSize),
    weight: item.unitWeight.toNumber(),
    upright: item.upright,
    loadLimit: item.loadLimit === null ? null : item.loadLimit.toNumber(),
    ownCarton,
    freightClass: item.freightClass ?? null,
    quantity,
    ...(together === "no" ? {} : { together: String(line.id) }),
  }
  if (cases === 0 || !whole) return [piece]
  const rest = quantity - cases * whole.pieces
  const closed: PackLoad = {
    ...piece,
    key: keyOf(line.id, whole.pieces),
    ...edgesOf(whole.size),
    weight: caseWeight(item, whole).toNumber(),
    quantity: cases,
    asIs: true,
  }
  return rest === 0 ? [closed] : [closed, { ...piece, quantity: rest }]
}
