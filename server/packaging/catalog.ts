import type { CarrierId, ItemId } from "core/ids/index.ts"
import type { Content, PackagingType, WholeCase } from "core/packing/index.ts"
import type { ItemLevel } from "core/picking/index.ts"
import type { FreightClass } from "core/rating/index.ts"
import { lineLetter } from "core/scanning/index.ts"
import { mass, noMass, type Size, size } from "core/units/index.ts"
import type { Knex } from "knex"
import type { ItemRow } from "../db/tables.ts"
import { columnOf } from "../db/there.ts"

export interface CataloguePackaging extends PackagingType {
  readonly id: number
  /** Whose box it is; null: ours. */
  readonly carrierId: CarrierId | null
  /** False: not offered any more. */
  readonly active: boolean
  /** What one costs, in the warehouses' currency. */
  readonly price: string
}

/** The whole case that a line was ordered in, by its unit; nothing where it was ordered by the piece, or no size is known. */
export interface CaseColumns {
  readonly case_pieces: number | null
  readonly case_weight_kg: string | null
  readonly case_length_mm: string | null
  readonly case_width_mm: string | null
  readonly case_height_mm: string | null
}

/** A row that carries its item's columns, and of a line those of its case. */
export type ItemCaseRow = ItemRow & Partial<CaseColumns>

/** The packaging catalog, smallest first by code. */
export async function packagingTypes(db: Knex): Promise<CataloguePackaging[]> {
  const rows = await db("packaging").orderBy("code")
  return rows.map((row) => ({
    id: row.id,
    code: row.code,
    name: row.name,
    kind: row.kind,
    carrierId: row.carrier_id,
    active: !!row.active,
    price: row.price,
    inner: size(row.inner_length_mm, row.inner_width_mm, row.inner_height_mm, "mm"),
    outer: sizeOf(row, "outer_"),
    tare: mass(row.tare_kg, "kg"),
    maxLoad: mass(row.max_load_kg, "kg"),
  }))
}

/** The pallet that goods are set on: the first of the catalog that is used; null where there is none. */
export const palletType = async (db: Knex): Promise<CataloguePackaging | null> => palletIn(await packagingTypes(db))

/** The pallet among packagings. */
export const palletIn = <T extends PackagingType & { readonly active?: boolean }>(types: readonly T[]): T | null =>
  types.find((type) => type.kind === "pallet" && type.active !== false) ?? null

export const sizeOf = (row: object, prefix: "" | "inner_" | "outer_" | "case_" = ""): Size => {
  const edge = (name: string) => columnOf(row, `${prefix}${name}_mm`) as string
  return size(edge("length"), edge("width"), edge("height"), "mm")
}

/** A quantity of a line whose row carries its item's columns. An item without a weight counts nothing. */
export const contentOf = (row: ItemCaseRow, lineIndex: number, quantity: number): Content => ({
  line: lineLetter(lineIndex),
  quantity,
  item: {
    sku: row.sku,
    kind: row.goods_kind ?? "general",
    hazard: row.un_number ? row.hazard_class || "?" : null,
    upright: !!row.this_side_up,
    loadLimit:
      !row.stackable || (row.fragile && !row.load_limit_kg)
        ? noMass
        : row.load_limit_kg
          ? mass(row.load_limit_kg, "kg")
          : null,
    ownCarton: !!row.own_carton,
    freightOnly: !!row.freight_only,
    unitWeight: mass(row.weight_kg ?? 0, "kg"),
    unitSize: sizeOf(row),
    freightClass: row.freight_class as FreightClass | null,
    whole: caseOf(row),
  },
})

/** The case that a line was ordered in; where it is said to weigh less than what is in it, nothing for itself. */
function caseOf(row: ItemCaseRow): WholeCase | null {
  if (!row.case_pieces) return null
  const tare =
    row.case_weight_kg === null || row.case_weight_kg === undefined
      ? noMass
      : mass(mass(row.case_weight_kg, "kg").sub(mass(row.weight_kg ?? 0, "kg").mul(row.case_pieces)), "kg")
  return { pieces: row.case_pieces, tare: tare.isNegative() ? noMass : tare, size: sizeOf(row, "case_") }
}

/** The levels of packaging of items, by item id, the smallest first. */
export async function levelsOf(db: Knex, itemIds: readonly ItemId[]): Promise<Map<number, ItemLevel[]>> {
  const rows = await db("item_level")
    .whereIn("item_id", [...itemIds])
    .orderBy("quantity")
    .select("item_id", "name", "gtin", "quantity")
  const levels = new Map<number, ItemLevel[]>()
  for (const row of rows)
    levels.set(row.item_id, [
      ...(levels.get(row.item_id) ?? []),
      { name: row.name, gtin: row.gtin, count: row.quantity },
    ])
  return levels
}

/** Packaging by code. */
export const packagingNames = (db: Knex): Promise<{ code: string; name: string }[]> =>
  db("packaging").orderBy("code").select("code", "name")
