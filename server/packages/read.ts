import { noDetails, noLineCustoms } from "core/customs/index.ts"
import { ladingSchema } from "core/documents/index.ts"
import type { OrderId, WarehouseId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
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
import type { SalesOrderRow, ShipmentRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { customsOf, lineCustomsOf, netOf } from "../goods/customs.ts"
import { categoryOf, dangerousGood, dangerousOf } from "../goods/dangerous.ts"
import { customsDetailsOf } from "../orders/customs.ts"
import { type ItemLineRow, itemLines } from "../orders/itemLine.ts"
import { leadsOf } from "../orders/joined.ts"
import { partiesOfMany } from "../orders/parties.ts"
import { contentOf, levelsOf, packagingTypes, sizeOf } from "../packaging/catalog.ts"
import { merged } from "../plan/plannedRows.ts"
import { type LeavingColumns, leavingByMany } from "../plan/shipDate.ts"
import { servicesIn } from "../rules/book.ts"
import { settledOf } from "../rules/settleOrder.ts"

import {
  type ChargedByHand,
  flawKey,
  type Override,
  type Shipment,
  type ShipmentLine,
  type ShipmentPackage,
} from "./types.ts"

/** Everything in the database that a shipment is read from. */
type Rows = Awaited<ReturnType<typeof rowsOf>> extends Map<number, infer One> ? One : never

/** A shipment with its lines, packages and contents, of all its orders; null for no such order. */
export const readShipment = async (db: Knex, ofOrder: number): Promise<Shipment | null> =>
  (await readShipments(db, [ofOrder])).get(ofOrder) ?? null

/** The shipments of many orders, by the ids that were asked for, in as many statements as one takes. */
export async function readShipments(db: Knex, ofOrders: readonly number[]): Promise<Map<number, Shipment>> {
  const leads = await leadsOf(db, ofOrders)
  const rows = await rowsOf(db, [...new Set(leads.values())])
  const read = new Map([...rows].map(([lead, own]) => [lead, shipmentFrom(own)]))
  return new Map(
    [...leads].flatMap(([asked, lead]) => {
      const shipment = read.get(lead)
      return shipment ? [[asked, shipment] as const] : []
    }),
  )
}

function shipmentFrom(rows: Rows): Shipment {
  const lines = linesFrom(rows)
  return { ...headFrom(rows), lines, packages: packagesFrom(rows, lines) }
}

/** What is stored of a shipment that nobody has opened yet: nothing. */
const draftRow: Pick<ShipmentRow, "id" | "state" | "version"> & Partial<ShipmentRow> = {
  id: 0,
  state: "open",
  version: 0,
}

/** What is stored of the shipments of leading orders, by their ids. */
async function rowsOf(db: Knex, leads: readonly number[]) {
  const orders = await db("sales_order")
    .whereIn("id", [...leads])
    .orWhereIn("joined_to_id", [...leads])
    .orderBy("id")
  const leading = new Map(
    orders.filter((order) => leads.includes(order.id)).map((order) => [order.id as number, order]),
  )
  const membersOf = (lead: number) => {
    const others = orders.filter((order) => order.joined_to_id === lead)
    return [there(leading.get(lead)), ...others]
  }
  const ids = orders.map((order) => order.id)
  const shipments = await db("shipment")
    .whereIn("order_id", [...leads])
    .whereNot("state", "void")
    .orderBy("id")
  const references = await db("order_reference")
    .whereIn("order_id", ids)
    .where({ printed: true })
    .orderBy("order_id")
    .orderBy("name")
    .select("order_id", "name", "value")
  const customers = new Map(
    (
      await db("customer")
        .whereIn("id", [...new Set([...leading.values()].flatMap((order) => order.customer_id ?? []))])
        .select("id", "code", "routing", "language")
    ).map((row) => [row.id, row]),
  )
  const details = await customsDetailsOf(db, [...leading.values()])
  const parties = await partiesOfMany(db, [...leading.values()])
  const elsewhere = await worthElsewhere(db, orders)
  const merging = [...leading.keys()].map((lead) => [lead, merged<LeavingColumns>(membersOf(lead))] as const)
  const leaving = await leavingByMany(db, new Map(merging))
  const goods = await goodsRows(db, ids)
  const packed = await packageRows(db, shipments)
  return new Map(
    [...leading].map(([lead, order]) => {
      const all = membersOf(lead)
      const members = new Set<number>(all.map((one) => one.id))
      const row = shipments.find((one) => one.order_id === lead) ?? draftRow
      const customer = order.customer_id === null ? undefined : customers.get(order.customer_id)
      return [
        lead,
        {
          row,
          order,
          all,
          parties: parties.get(lead) ?? [],
          references: references.filter((one) => members.has(one.order_id)).map(({ name, value }) => ({ name, value })),
          elsewhere: elsewhere(all, order.currency),
          leaving: there(leaving.get(lead)),
          customs: details.get(lead) ?? noDetails,
          customerCode: customer?.code ?? "",
          language: customer?.language ?? "en",
          allowed: servicesIn(customer?.routing),
          ...goods(all.map((one) => one.id)),
          ...packed(row.id, order.warehouse_id),
        },
      ]
    }),
  )
}

/** The lines of a shipment's orders, the leading one's first, with what was picked for them. */
async function goodsRows(db: Knex, orderIds: readonly OrderId[]) {
  const lines = await itemLines(db, orderIds)
  const picks = await db("allocation as a")
    .join("stock as s", "s.id", "a.stock_id")
    .join("bin as b", "b.id", "s.bin_id")
    .leftJoin("lot", "lot.id", "s.lot_id")
    .whereIn(
      "a.order_line_id",
      lines.map((line) => line.id),
    )
    .orderByRaw("lot.expires_on IS NULL, lot.expires_on, a.id")
    .select("a.order_line_id", "a.picked", "b.code as bin", "lot.id as lot_id", "lot.code as lot")
  const levels = await levelsOf(db, [...new Set(lines.map((line) => line.item_id))])
  const linesBy = grouped(lines, (line) => line.order_id as number)
  const picksBy = grouped(picks, (one) => one.order_line_id as number)
  return (members: readonly number[]) => {
    const lineRows = members.flatMap((id) => linesBy.get(id) ?? [])
    return { lineRows, picks: lineRows.flatMap((line) => picksBy.get(line.id) ?? []), levels }
  }
}

async function packageRows(db: Knex, shipments: readonly Pick<ShipmentRow, "id">[]) {
  const packages = await db("package")
    .leftJoin("packaging", "packaging.id", "package.packaging_id")
    .whereIn(
      "shipment_id",
      shipments.map((one) => one.id),
    )
    .whereNot("state", "void")
    .orderBy("number")
    .select("package.*", "packaging.code as packaging")
  const contents = await db("package_content")
    .whereIn(
      "package_id",
      packages.map((one) => one.id),
    )
    .orderBy("order_line_id")
  const warehouses = new Map(
    (await db("warehouse").select("id", "weight_tolerance", "weigh_all", "keep_together")).map((row) => [row.id, row]),
  )
  const types = new Map((await packagingTypes(db)).map((type) => [type.id, type]))
  const packagesBy = grouped(packages, (one) => one.shipment_id as number)
  const contentsBy = grouped(contents, (one) => one.package_id as number)
  return (shipmentId: number, warehouseId: WarehouseId) => {
    const own = packagesBy.get(shipmentId) ?? []
    const warehouse = there(warehouses.get(warehouseId))
    return {
      packageRows: own,
      contentRows: own.flatMap((one) => contentsBy.get(one.id) ?? []),
      tolerance: Number(warehouse.weight_tolerance),
      weighAll: !!warehouse.weigh_all,
      keepTogether: warehouse.keep_together,
      types,
    }
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
      lotsPicked: own.flatMap(({ lot, lot_id: id, picked }) =>
        lot && picked > 0 ? [{ lot: { id: id as number, code: lot as string }, quantity: picked as number }] : [],
      ),
      piece: contentOf(line, index, 1),
      dangerous: dangerousGood(line),
      hazard: dangerousOf(line),
      category: categoryOf(line),
      classItem: line.class_item,
      unitNet: netOf(line),
      said: lineCustomsOf(line) ?? noLineCustoms,
      freightClass: line.freight_class as ShipmentLine["freightClass"],
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
  { packageRows, contentRows, types, tolerance, weighAll }: Rows,
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
    // what stands on a pallet is weighed with it
    mustWeigh: weighAll && one.parent_id === null,
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
    keepTogether: rows.keepTogether,
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
    language: rows.language,
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
    customs: rows.customs,
    lading: ladingSchema.parse(parsed(row.lading ?? "{}")),
    orderCurrency: order.currency,
    wishes: wishesSchema.parse(parsed(row.wishes ?? "{}")),
    chosenServiceId: order.chosen_service_id,
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

/**
 * What the parts of orders are worth that are in other shipments: a function from a shipment's orders to that of each,
 * by its id.
 */
async function worthElsewhere(db: Knex, orders: readonly Pick<SalesOrderRow, "id" | "split_from_id">[]) {
  const wholeOf = (order: { readonly id: number; readonly split_from_id: number | null }) =>
    order.split_from_id ?? order.id
  const wholes = [...new Set(orders.map(wholeOf))]
  const none = () => new Map<number, Money[]>(orders.map((one) => [one.id, []]))
  const split = await db("sales_order")
    .whereIn("split_from_id", wholes)
    .whereNull("cancelled_at")
    .select("id", "split_from_id")
  if (split.length === 0 && orders.every((one) => one.split_from_id === null)) return none
  const whole = await db("sales_order")
    .whereIn(
      "id",
      split.map((part) => part.split_from_id),
    )
    .whereNull("cancelled_at")
    .select("id", "split_from_id")
  const parts = [...split, ...whole]
  const rows = await itemLines(
    db,
    parts.map((part) => part.id),
  )
  const levels = await levelsOf(
    db,
    rows.map((row) => row.item_id),
  )
  return (members: readonly Pick<SalesOrderRow, "id" | "split_from_id">[], currency: string): Map<number, Money[]> => {
    const here = new Set<number>(members.map((one) => one.id))
    return new Map(
      members.map((one) => {
        const own = new Set(
          parts.filter((part) => wholeOf(part) === wholeOf(one) && !here.has(part.id)).map((part) => part.id),
        )
        const worth = rows
          .filter((row) => own.has(row.order_id))
          .map((row) => {
            const each = valued(row, currency, levels.get(row.item_id) ?? []).worth
            return money(each.amount.mul(row.ordered), each.currency)
          })
        return [one.id, worth]
      }),
    )
  }
}
