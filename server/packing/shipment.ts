import type { Address } from "core/address/index.ts"
import type { PackageState } from "core/orders/index.ts"
import { actualWeight, type Content, calculatedWeight, type Packed, packageFlaws } from "core/packing/index.ts"
import type { ItemLevel } from "core/picking/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { lineLetter } from "core/scanning/index.ts"
import { type Mass, mass } from "core/units/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import { addressOf } from "../orders/facts.ts"
import { contentOf, packagingTypes, sizeOf } from "./catalogue.ts"

export interface ShipmentLine {
  readonly id: number
  readonly letter: string
  readonly sku: string
  readonly description: string
  readonly levels: readonly ItemLevel[]
  readonly ordered: number
  readonly picked: number
  readonly packed: number
  readonly bins: readonly string[]
  readonly lots: readonly string[]
  /** One base unit, for weights and drawings. */
  readonly piece: Content
}

export interface ShipmentPackage extends Packed {
  readonly id: number
  readonly number: number
  readonly packaging: string | null
  readonly state: PackageState
  readonly sizeByHand: boolean
  readonly sscc: string | null
  readonly tracking: string | null
  readonly labelDocumentId: number | null
  readonly calculated: Mass
  readonly actual: Mass
  readonly flaws: readonly Reason[]
  readonly lineIds: readonly number[]
}

export interface Shipment {
  readonly id: number
  readonly orderId: number
  readonly warehouseId: number
  readonly bench: string
  readonly sourceNumber: string
  readonly poNumber: string
  readonly customer: string
  readonly notes: string
  readonly promisedOn: string | null
  readonly shipTo: Address
  readonly state: "open" | "buying" | "bought" | "void"
  readonly version: number
  readonly serviceId: number | null
  readonly collectionId: number | null
  readonly masterTracking: string | null
  readonly currency: string | null
  readonly contract: string | null
  readonly arrivesOn: string | null
  readonly trouble: Reason | null
  readonly lines: readonly ShipmentLine[]
  readonly packages: readonly ShipmentPackage[]
}

/**
 * The shipment of an order with its lines, packages and contents, or null when the order has none yet. The thin
 * slice has one shipment an order.
 */
export async function shipmentOf(db: Knex, orderId: number): Promise<Shipment | null> {
  const shipment = await shipmentOrDraft(db, orderId)
  return shipment && shipment.id > 0 ? shipment : null
}

/** The same, or what the shipment would be before anybody opened it: id 0, no packages. Null for no such order. */
export async function shipmentOrDraft(db: Knex, orderId: number): Promise<Shipment | null> {
  const row = (await db("shipment").where({ order_id: orderId }).whereNot("state", "void").first()) ?? {
    id: 0,
    state: "open",
    version: 0,
  }
  const order = await db("sales_order").where({ id: orderId }).first()
  if (!order) return null
  const lineRows = await db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where("l.order_id", orderId)
    .orderBy("l.line_number")
    .select("i.*", "l.*", "i.id as item_id")
  const picks = await db("allocation as a")
    .join("stock as s", "s.id", "a.stock_id")
    .join("bin as b", "b.id", "s.bin_id")
    .leftJoin("lot", "lot.id", "s.lot_id")
    .whereIn(
      "a.order_line_id",
      lineRows.map((line) => line.id),
    )
    .select("a.order_line_id", "a.picked", "b.code as bin", "lot.code as lot")
  const levels = await db("item_level")
    .whereIn(
      "item_id",
      lineRows.map((line) => line.item_id),
    )
    .orderBy("quantity")
  const packageRows = await db("package")
    .leftJoin("packaging", "packaging.id", "package.packaging_id")
    .where({ shipment_id: row.id })
    .whereNot("state", "void")
    .orderBy("number")
    .select("package.*", "packaging.code as packaging")
  const contentRows = await db("package_content")
    .whereIn(
      "package_id",
      packageRows.map((one) => one.id),
    )
    .orderBy("order_line_id")
  const types = new Map((await packagingTypes(db)).map((type) => [type.id, type]))
  const packedOf = (lineId: number) =>
    contentRows.filter((one) => one.order_line_id === lineId).reduce((sum, one) => sum + one.quantity, 0)

  const lines = lineRows.map((line, index): ShipmentLine => {
    const own = picks.filter((one) => one.order_line_id === line.id)
    return {
      id: line.id,
      letter: lineLetter(index),
      sku: line.sku,
      description: line.description,
      levels: levels
        .filter((level) => level.item_id === line.item_id)
        .map((level) => ({ name: level.name, gtin: level.gtin, count: level.quantity })),
      ordered: line.ordered,
      picked: own.reduce((sum, one) => sum + one.picked, 0),
      packed: packedOf(line.id),
      bins: [...new Set<string>(own.map((one) => one.bin))],
      lots: [...new Set<string>(own.map((one) => one.lot).filter(Boolean))],
      piece: contentOf(line, index, 1),
    }
  })
  const packages = packageRows.map((one): ShipmentPackage => {
    const type = one.packaging_id ? types.get(one.packaging_id) : undefined
    const own = contentRows.filter((content) => content.package_id === one.id)
    const packed: Packed = {
      outer: sizeOf(one),
      inner: one.size_by_hand ? null : (type?.inner ?? null),
      tare: mass(one.tare_kg, "kg"),
      maxLoad: type?.maxLoad ?? null,
      measured: one.measured_kg === null ? null : mass(one.measured_kg, "kg"),
      contents: own.flatMap((content) => {
        const line = lines.find((candidate) => candidate.id === content.order_line_id)
        return line ? [{ ...line.piece, quantity: content.quantity }] : []
      }),
    }
    return {
      ...packed,
      id: one.id,
      number: one.number,
      packaging: one.packaging,
      state: one.state,
      sizeByHand: !!one.size_by_hand,
      sscc: one.sscc,
      tracking: one.tracking,
      labelDocumentId: one.label_document_id,
      calculated: calculatedWeight(packed),
      actual: actualWeight(packed),
      flaws: packageFlaws(packed),
      lineIds: own.map((content) => content.order_line_id),
    }
  })
  return {
    id: row.id,
    orderId,
    warehouseId: order.warehouse_id,
    bench: order.bench_number,
    sourceNumber: order.source_number,
    poNumber: order.po_number,
    customer: order.customer_name,
    notes: order.notes,
    promisedOn: order.promised_on,
    shipTo: addressOf(order),
    state: row.state,
    version: row.version,
    serviceId: row.service_id ?? null,
    collectionId: row.collection_id ?? null,
    masterTracking: row.master_tracking ?? null,
    currency: row.currency ?? null,
    contract: row.contract_amount ?? null,
    arrivesOn: row.arrives_on ?? null,
    trouble: row.trouble ? parsed<Reason>(row.trouble) : null,
    lines,
    packages,
  }
}

/** What of the picked goods is in no package yet, as contents. */
export const unpacked = (shipment: Pick<Shipment, "lines">): Content[] =>
  shipment.lines
    .filter((line) => line.picked > line.packed)
    .map((line) => ({ ...line.piece, quantity: line.picked - line.packed }))
