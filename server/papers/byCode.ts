import { identifier, ownCode } from "core/identifier/index.ts"
import type { CollectionId, WarehouseId } from "core/ids/index.ts"
import { type PaperKind, paperKinds } from "core/papers/index.ts"
import type { Knex } from "knex"

/** What a code on one of our papers, or one of the source's numbers, stands for. */
export type Coded =
  | { readonly kind: "package"; readonly orderNumber: string; readonly number: number }
  | { readonly kind: "manifest"; readonly collectionId: CollectionId; readonly number: string; readonly door: string }
  | {
      readonly kind: "paper"
      readonly paper: PaperKind
      readonly name: string
      readonly orderNumber: string
      readonly void: boolean
    }
  | { readonly kind: "quote"; readonly number: string; readonly customer: string }
  | { readonly kind: "order"; readonly orderNumber: string }
  /** Several orders have it as their number. */
  | { readonly kind: "orders"; readonly number: string; readonly count: number }
  | { readonly kind: "bin"; readonly code: string }

/**
 * What a scanned code stands for in a warehouse: a tracking number of a package or of a shipment, a manifest, a commercial
 * invoice, a bill of lading, a quote, the order's number at its source or with its customer, a bin. Compared byte by
 * byte; our own numbers may be typed in small letters. Null: nothing has it. SSCC, package, order, run, tote and item are
 * told by their form, and looked up elsewhere.
 */
export async function byCode(db: Knex, warehouseId: WarehouseId, text: string): Promise<Coded | null> {
  const code = identifier(text)
  if (code === "" || code.length > 60) return null
  const own = ownCode(text)
  const piece = await packageOf(db, warehouseId, code)
  if (piece) return piece
  const form = await formOf(db, warehouseId, own)
  if (form) return { kind: "manifest", ...form }
  const paper = await db("document as d")
    .join("sales_order as o", "o.id", "d.order_id")
    .where({ "d.warehouse_id": warehouseId, "d.name": own })
    .whereIn("d.kind", [...paperKinds])
    .orderBy("d.id", "desc")
    .first("d.kind", "d.name", "d.void_at", "o.order_number")
  if (paper)
    return {
      kind: "paper",
      paper: paper.kind as PaperKind,
      name: paper.name,
      orderNumber: paper.order_number,
      void: paper.void_at !== null,
    }
  const quote = await db("quote").where({ warehouse_id: warehouseId, number: own }).first("customer_code")
  if (quote) return { kind: "quote", number: own, customer: quote.customer_code }
  const orders = await db("sales_order")
    .where({ warehouse_id: warehouseId })
    .where((either) => either.where({ source_number: code }).orWhere({ po_number: code }))
    .orderBy("id")
    .limit(50)
    .select("order_number")
  const [first] = orders
  if (first && orders.length === 1) return { kind: "order", orderNumber: first.order_number }
  if (orders.length > 1) return { kind: "orders", number: code, count: orders.length }
  const bin = await db("bin").where({ warehouse_id: warehouseId, code: own }).first("code")
  return bin ? { kind: "bin", code: bin.code } : null
}

/** The form that a number is of: as it is printed, or as a scanner reads it behind its GS1 identifier, AI 401. */
async function formOf(db: Knex, warehouseId: WarehouseId, code: string) {
  const element = /^(?:\](?:C1|D2))?\(?401\)?(.{5,30})$/.exec(code)?.[1]
  const row = await db("closing_form as f")
    .join("collection as c", "c.id", "f.collection_id")
    .where("f.warehouse_id", warehouseId)
    .whereIn("f.number", element ? [code, element] : [code])
    .orderBy("f.id", "desc")
    .first("f.collection_id", "f.number", "c.door")
  return row ? { collectionId: row.collection_id, number: row.number, door: row.door } : null
}

/** The package that a tracking number is on; of a shipment's own number its first. */
async function packageOf(db: Knex, warehouseId: WarehouseId, code: string): Promise<Coded | null> {
  const packages = () =>
    db("package as p")
      .join("shipment as h", "h.id", "p.shipment_id")
      .join("sales_order as o", "o.id", "h.order_id")
      .where("h.warehouse_id", warehouseId)
      .whereNot("p.state", "void")
  const row =
    (await packages().where("p.tracking", code).first("o.order_number", "p.number")) ??
    (await packages().where("h.master_tracking", code).orderBy("p.number").first("o.order_number", "p.number"))
  return row ? { kind: "package", orderNumber: row.order_number, number: row.number } : null
}

/** A package of a warehouse by its SSCC or its name, with what tells where it stands. */
export interface FoundPackage {
  readonly orderNumber: string
  readonly number: number
  readonly state: string
  readonly customer: string
  readonly collectionId: CollectionId | null
}

export async function packageByCode(
  db: Knex,
  warehouseId: WarehouseId,
  code: { readonly sscc: string } | { readonly orderNumber: string; readonly number: number },
): Promise<FoundPackage | null> {
  const row = await db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("sales_order as o", "o.id", "h.order_id")
    .where("h.warehouse_id", warehouseId)
    .where("sscc" in code ? { "p.sscc": code.sscc } : { "o.order_number": code.orderNumber, "p.number": code.number })
    .first(
      "o.order_number as orderNumber",
      "p.number",
      "p.state",
      "o.customer_name as customer",
      "p.collection_id as collectionId",
    )
  return row ?? null
}
