import { gtin14 } from "core/barcodes/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { likeInAnyCase } from "../db/words.ts"

export interface FoundItem {
  readonly sku: string
  readonly description: string
  /** Levels of packaging that can be ordered, the smallest first. */
  readonly units: readonly string[]
  /** Price of the smallest level as the catalog has it, and its currency. */
  readonly price: string
  readonly currency: string
  /** Base units that are free in the warehouse. */
  readonly free: number
}

/** Items by the beginnings of their SKU, any words of their description, or a GTIN; what begins with the words first. */
export async function lookUpItems({ db, actor }: Context, words: string, most = 10): Promise<FoundItem[]> {
  authorise(actor, "orders.see")
  const text = words.trim().slice(0, 80)
  if (text === "") return []
  const gtin = gtin14(text)
  const like = (word: string) => word.replace(/[\\%_]/g, (sign) => `\\${sign}`)
  const query = db("item as i")
  if (gtin) query.whereIn("i.id", db("item_level").where({ gtin }).select("item_id"))
  else
    for (const word of text.split(/\s+/).slice(0, 6))
      query.where(
        (any) =>
          void any
            .where(likeInAnyCase(db, "i.sku", `%${like(word)}%`))
            .orWhere("i.description", "like", `%${like(word)}%`),
      )
  const free = db("stock as s")
    .whereRaw("s.item_id = i.id")
    .where("s.warehouse_id", actor.warehouseId)
    .select(db.raw("COALESCE(SUM(s.on_hand - s.allocated), 0)"))
  const units = db("item_level as v")
    .whereRaw("v.item_id = i.id")
    .select(db.raw("GROUP_CONCAT(v.name ORDER BY v.quantity SEPARATOR ',')"))
  const rows = await query
    .orderByRaw("? DESC, i.sku", [likeInAnyCase(db, "i.sku", `${like(text)}%`)])
    .limit(most)
    .select("i.sku", "i.description", "i.value", "i.currency", free.as("free"), units.as("units"))
  return rows.map((row) => ({
    sku: row.sku,
    description: row.description,
    units: String(row.units ?? "each").split(","),
    price: String(Number(row.value)),
    currency: row.currency,
    free: Number(row.free),
  }))
}

/** The item of a GTIN, with the level that carries it and the pieces in one of that. */
export async function itemOfGtin(
  db: Knex,
  gtin: string,
): Promise<{ id: number; sku: string; description: string; level: string; pieces: number } | null> {
  const row = await db("item_level")
    .join("item", "item.id", "item_level.item_id")
    .where({ gtin })
    .first("item.id", "sku", "description", "item_level.name as level", "item_level.quantity as pieces")
  return row ?? null
}
