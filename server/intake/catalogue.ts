import { gtin14 } from "core/barcodes/index.ts"
import { reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { ReadRow } from "../formats/orderRow.ts"

/** Items and levels of the catalog as rows name them, each looked up once. */
export class Catalogue {
  private readonly bySku = new Map<string, Set<string> | null>()
  private readonly byGtin = new Map<string, { sku: string; unit: string } | null>()
  constructor(private readonly db: Knex) {}

  /** The row with its item and unit; refused when the catalog has no such item, GTIN or level. */
  async resolve(read: ReadRow): Promise<ReadRow> {
    if (!read.row || read.row.bare) return read
    const refuse = (field: string, code: "no-such-item" | "no-such-unit", value: string, units = "") => ({
      ...read,
      row: null,
      refusals: [reason(`row.${code}`, { line: read.line, field, value, units })],
    })
    let { sku, unit } = read.row
    if (!sku) {
      const level = await this.level(read.row.gtin)
      if (!level) return refuse("gtin", "no-such-item", read.row.gtin)
      sku = level.sku
      unit ||= level.unit
    }
    const units = await this.units(sku)
    if (!units) return refuse("sku", "no-such-item", sku)
    unit ||= "each"
    if (!units.has(unit)) return refuse("unit", "no-such-unit", unit, [...units].join(", "))
    return { ...read, row: { ...read.row, sku, unit } }
  }

  private async units(sku: string): Promise<Set<string> | null> {
    const known = this.bySku.get(sku)
    if (known !== undefined) return known
    const levels = await this.db("item")
      .join("item_level", "item_level.item_id", "item.id")
      .where({ sku })
      .select("item_level.name")
    const units = levels.length > 0 ? new Set<string>(levels.map((level) => level.name)) : null
    this.bySku.set(sku, units)
    return units
  }

  private async level(code: string): Promise<{ sku: string; unit: string } | null> {
    const gtin = gtin14(code) ?? code
    const known = this.byGtin.get(gtin)
    if (known !== undefined) return known
    const row = await this.db("item_level")
      .join("item", "item.id", "item_level.item_id")
      .where({ gtin })
      .first("item.sku", "item_level.name as unit")
    this.byGtin.set(gtin, row ?? null)
    return row ?? null
  }
}
