import type { OrderId, ShipmentId, WarehouseId } from "core/ids/index.ts"
import { type Money, money } from "core/money/index.ts"
import { actualWeight, calculatedWeight, type Packed, packageFlaws } from "core/packing/index.ts"
import type { ItemLevel } from "core/picking/index.ts"
import { wishesSchema } from "core/rating/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { lineLetter } from "core/scanning/index.ts"
import { type Mass, mass, noMass, sumMass } from "core/units/index.ts"
import type { Knex } from "knex"
import { addressOf } from "../addresses/row.ts"
import { parsed } from "../audit/index.ts"
import type { ShipmentRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { customsOf } from "../goods/customs.ts"
import { dangerousGood } from "../goods/dangerous.ts"
import type { ItemLineRow } from "../orders/itemLine.ts"
import { membersOf } from "../orders/joined.ts"
import { partiesOf } from "../orders/parties.ts"
import { contentOf, levelsOf, packagingTypes, sizeOf } from "../packaging/catalog.ts"
import { merged } from "../plan/plannedRows.ts"
import { type LeavingColumns, leavingBy } from "../plan/shipDate.ts"
import { allowedServices } from "../rules/book.ts"
import { settledOf } from "../rules/settleOrder.ts"

import {
  type ChargedByHand,
  flawKey,
  type Override,
  plannedOf,
  type Shipment,
  type ShipmentLine,
  type ShipmentPackage,
} from "./types.ts"

/** Everything in the database that a shipment is read from. */
type Rows = NonNullable<Awaited<ReturnType<typeof rowsOf>>>

/** A shipment with its lines, packages and contents, of all its orders; null for no such order. */
export async function readShipment(db: Knex, ofOrder: number): Promise<Shipment | null> {
  const rows = await rowsOf(db, ofOrder)
  if (!rows) return null
  const lines = linesFrom(rows)
  return { ...headFrom(rows), lines, packages: packagesFrom(rows, lines) }
}

/** What is stored of a shipment that nobody has opened yet: nothing. */
const draftRow: Pick<ShipmentRow, "id" | "state" | "version"> & Partial<ShipmentRow> = {
  id: 0,
  state: "open",
  version: 0,
}

async function rowsOf(db: Knex, ofOrder: number) {
  const members = await membersOf(db, ofOrder)
  const [orderId] = members as [number]
  const row = (await db("shipment").where({ order_id: orderId }).whereNot("state", "void").first()) ?? draftRow
  const order = await db("sales_order").where({ id: orderId }).first()
  if (!order) return null
  const others = await db("sales_order")
    .whereIn("id", members.slice(1))
    .orderBy("id")
    .select(
      "id",
      "order_number",
      "source_number",
      "po_number",
      "promised_on",
      "ship_on",
      "chosen_ship_on",
      "chosen_collection_id",
      "collection_id",
      "warehouse_id",
      "split_from_id",
    )
  return {
    row,
    order,
    all: [order, ...others],
    parties: await partiesOf(db, order),
    references: await db("order_reference")
      .whereIn("order_id", members)
      .where({ printed: true })
      .orderBy("order_id")
      .orderBy("name")
      .select("name", "value"),
    elsewhere: await worthElsewhere(db, [order, ...others], order.currency),
    leaving: await leavingBy(db, merged<LeavingColumns>([order, ...others])),
    customerCode: order.customer_id
      ? ((await db("customer").where({ id: order.customer_id }).first("code"))?.code ?? "")
      : "",
    allowed: await allowedServices(db, order.customer_id),
    ...(await goodsRows(db, orderId, members)),
    ...(await packageRows(db, row.id, order.warehouse_id)),
  }
}

/** The lines of all its orders, its own first, with what was picked for them. */
async function goodsRows(db: Knex, orderId: OrderId, members: readonly number[]) {
  const lines = await db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .whereIn("l.order_id", [...members])
    .orderByRaw("l.order_id <> ?, l.order_id, l.line_number", [orderId])
    .select("i.*", "l.*", "i.id as item_id")
  const picks = await db("allocation as a")
    .join("stock as s", "s.id", "a.stock_id")
    .join("bin as b", "b.id", "s.bin_id")
    .leftJoin("lot", "lot.id", "s.lot_id")
    .whereIn(
      "a.order_line_id",
      lines.map((line) => line.id),
    )
    .select("a.order_line_id", "a.picked", "b.code as bin", "lot.code as lot")
  const levels = await levelsOf(
    db,
    lines.map((line) => line.item_id),
  )
  return { lineRows: lines, picks, levels }
}

async function packageRows(db: Knex, shipmentId: ShipmentId, warehouseId: WarehouseId) {
  const packages = await db("package")
    .leftJoin("packaging", "packaging.id", "package.packaging_id")
    .where({ shipment_id: shipmentId })
    .whereNot("state", "void")
    .orderBy("number")
    .select("package.*", "packaging.code as packaging")
  const contents = await db("package_content")
    .whereIn(
      "package_id",
      packages.map((one) => one.id),
    )
    .orderBy("order_line_id")
  const { weight_tolerance } = there(await db("warehouse").where({ id: warehouseId }).first("weight_tolerance"))
  return {
    packageRows: packages,
    contentRows: contents,
    tolerance: Number(weight_tolerance),
    types: new Map((await packagingTypes(db)).map((type) => [type.id, type])),
  }
}

function linesFrom({ order, lineRows, picks, levels, contentRows }: Rows): ShipmentLine[] {
  return lineRows.map((line, index): ShipmentLine => {
    const own = picks.filter((one) => one.order_line_id === line.id)
    return {
      id: line.id,
      orderId: line.order_id,
      letter: lineLetter(index),
      sku: line.sku,
      description: line.description,
      levels: levels.get(line.item_id) ?? [],
      ordered: line.ordered,
      picked: own.reduce((sum, one) => sum + one.picked, 0),
      packed: contentRows.reduce((sum, one) => sum + (one.order_line_id === line.id ? one.quantity : 0), 0),
      bins: [...new Set<string>(own.map((one) => one.bin))],
      lots: [...new Set<string>(own.map((one) => one.lot).filter(Boolean))],
      piece: contentOf(line, index, 1),
      dangerous: dangerousGood(line),
      freightClass: line.freight_class,
      ...valued(line, order.currency, levels.get(line.item_id) ?? []),
    }
  })
}

/** Cartons first, since a pallet carries what its cartons weigh. */
function packagesFrom(rows: Rows, lines: readonly ShipmentLine[]): ShipmentPackage[] {
  const cartons = new Map(rows.packageRows.map((one) => [one.id, packageFrom(rows, lines, one, noMass)]))
  return rows.packageRows.map((one) => {
    const standing = rows.packageRows.filter((other) => other.parent_id === one.id)
    if (standing.length === 0) return cartons.get(one.id) as ShipmentPackage
    const carried = sumMass(standing.map((other) => (cartons.get(other.id) as ShipmentPackage).actual))
    return packageFrom(rows, lines, one, carried)
  })
}

function packageFrom(
  { packageRows, contentRows, types, tolerance }: Rows,
  lines: readonly ShipmentLine[],
  one: Rows["packageRows"][number],
  carried: Mass,
): ShipmentPackage {
  const type = one.packaging_id ? types.get(one.packaging_id) : undefined
  const place = (content: { order_line_id: number }) => lines.findIndex((line) => line.id === content.order_line_id)
  const own = contentRows.filter((content) => content.package_id === one.id).sort((a, b) => place(a) - place(b))
  const packed: Packed = {
    outer: sizeOf(one),
    inner: innerOf(one, type),
    tare: mass(one.tare_kg, "kg"),
    maxLoad: one.max_load_kg ? mass(one.max_load_kg, "kg") : (type?.maxLoad ?? null),
    tolerance,
    lines: lines.map((line) => line.piece),
    measured: one.measured_kg === null ? null : mass(one.measured_kg, "kg"),
    carried,
    contents: own.flatMap((content) => {
      const line = lines.find((candidate) => candidate.id === content.order_line_id)
      return line ? [{ ...line.piece, quantity: content.quantity }] : []
    }),
  }
  const overridden = parsed<Override[]>(one.overrides)
  const passed = new Set(overridden.map((each) => each.key))
  return {
    ...packed,
    id: one.id,
    number: one.number,
    packaging: one.packaging,
    kind: type?.kind ?? "carton",
    on: packageRows.find((other) => other.id === one.parent_id)?.number ?? null,
    state: one.state,
    sizeByHand: !!one.size_by_hand,
    sscc: one.sscc,
    tracking: one.tracking,
    labelDocumentId: one.label_document_id,
    calculated: calculatedWeight(packed),
    actual: actualWeight(packed),
    flaws: packageFlaws(packed).filter((flaw) => !passed.has(flawKey(flaw))),
    overridden,
    origin: one.origin,
    planned: one.planned === null ? {} : parsed<Record<string, number>>(one.planned),
    unverified: own.reduce((sum, content) => sum + content.unverified, 0),
    lineIds: own.map((content) => content.order_line_id),
  }
}

/** The room inside; what stands on a pallet is not inside it, and of a size by hand nothing is known. */
function innerOf(
  one: Rows["packageRows"][number],
  type: { readonly kind: string; readonly inner: Packed["inner"] } | undefined,
): Packed["inner"] {
  if (one.origin === "one-off") return sizeOf(one)
  return one.size_by_hand || type?.kind === "pallet" ? null : (type?.inner ?? null)
}

/** All of a shipment but its lines and packages. */
function headFrom({ row, order, all, ...rows }: Rows): Omit<Shipment, "lines" | "packages"> {
  const joined = (name: "source_number" | "po_number") =>
    [...new Set(all.map((one) => one[name] as string))].filter(Boolean).join(", ")
  return {
    id: row.id,
    orderId: order.id,
    warehouseId: order.warehouse_id,
    orderNumber: order.order_number,
    members: all.map((one) => ({
      id: one.id,
      orderNumber: one.order_number,
      elsewhere: rows.elsewhere.get(one.id) ?? [],
    })),
    sourceNumber: joined("source_number"),
    poNumber: joined("po_number"),
    customer: order.customer_name,
    customerCode: rows.customerCode,
    serviceAsked: order.service_asked,
    freightPaid: order.freight_paid,
    chargedByHand: row.charged_by_hand ? parsed<ChargedByHand>(row.charged_by_hand) : null,
    notes: order.notes,
    promisedOn: merged(all).promised_on,
    leaving: rows.leaving,
    shipTo: addressOf(order),
    sender: rows.parties.find((one) => one.role === "sender") ?? null,
    returnTo: rows.parties.find((one) => one.role === "return-to") ?? null,
    references: rows.references.filter(
      (one, index) =>
        rows.references.findIndex((other) => other.name === one.name && other.value === one.value) === index,
    ),
    delivery: [order.building, order.instructions, order.opening_hours].filter(Boolean).join("; "),
    terms: { incoterm: order.incoterm, place: order.incoterm_place },
    orderCurrency: order.currency,
    wishes: wishesSchema.parse(parsed(row.wishes ?? "{}")),
    chosenServiceId: order.chosen_service_id,
    plannedService: plannedOf(order),
    settled: settledOf(order),
    allowed: rows.allowed,
    state: row.state,
    version: row.version,
    serviceId: row.service_id ?? null,
    collectionId: row.collection_id ?? null,
    masterTracking: row.master_tracking ?? null,
    currency: row.currency ?? null,
    contract: row.contract_amount ?? null,
    arrivesOn: row.arrives_on ?? null,
    trouble: row.trouble ? parsed<Reason>(row.trouble) : null,
  }
}

/** A line's customs facts, and what a base unit of it is worth. */
function valued(
  line: ItemLineRow,
  currency: string,
  levels: readonly ItemLevel[],
): Pick<ShipmentLine, "customs" | "worth"> {
  const customs = customsOf(line, currency, levels)
  const worth = customs.unitValue && currency !== line.currency ? null : customs.unitValue
  return { customs, worth: worth ? money(worth, currency) : money(line.value, line.currency) }
}

/** What the other parts of orders are worth, by the order of whose whole they are. */
async function worthElsewhere(
  db: Knex,
  orders: readonly { readonly id: number; readonly split_from_id: number | null }[],
  currency: string,
): Promise<Map<number, Money[]>> {
  const wholeOf = new Map(orders.map((order) => [order.id, order.split_from_id ?? order.id]))
  const parts = await db("sales_order")
    .where((either) => either.whereIn("id", [...wholeOf.values()]).orWhereIn("split_from_id", [...wholeOf.values()]))
    .whereNotIn("id", [...wholeOf.keys()])
    .whereNull("cancelled_at")
    .select("id", "split_from_id")
  if (parts.length === 0) return new Map()
  const rows = await db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .whereIn(
      "l.order_id",
      parts.map((part) => part.id),
    )
    .select("i.*", "l.*", "i.id as item_id")
  const levels = await levelsOf(
    db,
    rows.map((row) => row.item_id),
  )
  const found = new Map<number, Money[]>()
  for (const [id, whole] of wholeOf) {
    const own = new Set(parts.filter((part) => (part.split_from_id ?? part.id) === whole).map((part) => part.id))
    const worth = rows
      .filter((row) => own.has(row.order_id))
      .map((row) => {
        const one = valued(row, currency, levels.get(row.item_id) ?? []).worth
        return money(one.amount.mul(row.ordered), one.currency)
      })
    found.set(id, worth)
  }
  return found
}
