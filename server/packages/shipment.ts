import type { Address } from "core/address/index.ts"
import type { CustomsFacts, Terms } from "core/customs/index.ts"
import { type Money, money } from "core/money/index.ts"
import type { PackageState } from "core/orders/index.ts"
import { actualWeight, type Content, calculatedWeight, type Packed, packageFlaws } from "core/packing/index.ts"
import type { ItemLevel } from "core/picking/index.ts"
import { type DangerousGood, type FreightClass, type Wishes, wishesSchema } from "core/rating/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { type Settled, settingOf } from "core/rules/index.ts"
import { lineLetter } from "core/scanning/index.ts"
import { type Mass, mass, noMass, sumMass } from "core/units/index.ts"
import type { Knex } from "knex"
import { addressOf } from "../addresses/row.ts"
import { parsed } from "../audit/index.ts"
import { onOneState } from "../db/connection.ts"
import { customsOf } from "../goods/customs.ts"
import { dangerousGood } from "../goods/dangerous.ts"
import { membersOf } from "../orders/joined.ts"
import { type Party, partiesOf } from "../orders/parties.ts"
import { type CataloguePackaging, contentOf, levelsOf, packagingTypes, sizeOf } from "../packaging/catalog.ts"
import { merged } from "../plan/plannedRows.ts"
import { type Leaving, leavingBy } from "../plan/shipDate.ts"
import type { PlannedService } from "../rating/plannedTerms.ts"
import { allowedServices } from "../rules/book.ts"
import { settledOf } from "../rules/settleOrder.ts"

export interface ShipmentLine {
  readonly id: number
  /** Of several orders in one shipment the one that it belongs to. */
  readonly orderId: number
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
  readonly dangerous: DangerousGood | null
  readonly freightClass: FreightClass | null
  readonly customs: CustomsFacts
  /** What one base unit is worth: by the order's price, or where that is in another currency, by the item's value. */
  readonly worth: Money
}

export interface ShipmentPackage extends Packed {
  readonly id: number
  readonly number: number
  readonly packaging: string | null
  readonly kind: CataloguePackaging["kind"]
  /** Number of the pallet that it stands on. */
  readonly on: number | null
  readonly state: PackageState
  readonly sizeByHand: boolean
  readonly sscc: string | null
  readonly tracking: string | null
  readonly labelDocumentId: number | null
  readonly calculated: Mass
  readonly actual: Mass
  readonly flaws: readonly Reason[]
  /** Flaws that the lead let pass, with why and who. */
  readonly overridden: readonly Override[]
  readonly lineIds: readonly number[]
  /** From the catalog, of a size of its own, or the goods' own carton. */
  readonly origin: "catalogue" | "one-off" | "own"
  /** What is to go into it by the suggestion, by line's id; empty: no plan. */
  readonly planned: Readonly<Record<string, number>>
  /** Pieces in it that no scan confirmed. */
  readonly unverified: number
}

export interface ChargedByHand {
  readonly amount: string
  readonly why: string
  readonly actor: string
  /** Code of the service that it stands for, such as the one that was quoted; not said: whatever it is sent with. */
  readonly service?: string
}

/** A flaw that was let pass. */
export interface Override {
  readonly key: string
  readonly flaw: Reason
  readonly why: string
  readonly actor: string
  /** What was counted in the package, where that is why it may pass. */
  readonly counted?: string
}

/** What tells a flaw from others of the same package; a figure that changes makes it another flaw. */
export const flawKey = (flaw: Reason): string => `${flaw.code} ${Object.values(flaw.values).join(" ")}`

export interface Shipment {
  readonly id: number
  /** The order that leads; of a shipment of one order that order. */
  readonly orderId: number
  /** All its orders, the leading one first. */
  readonly members: readonly {
    readonly id: number
    readonly orderNumber: string
    /** What lines of the same order are worth that are in other parts of it. */
    readonly elsewhere: readonly Money[]
  }[]
  readonly warehouseId: number
  readonly orderNumber: string
  readonly sourceNumber: string
  readonly poNumber: string
  readonly customer: string
  /** Code of the customer; empty where it is none of ours. */
  readonly customerCode: string
  readonly notes: string
  readonly promisedOn: string | null
  /** The day from which it may leave, and the truck that a person chose. */
  readonly leaving: Leaving
  readonly shipTo: Address
  /** Who is shown as sender on labels and slips where it is not us, and where the packages return to. */
  readonly sender: Party | null
  readonly returnTo: Party | null
  /** References that are printed on the label. */
  readonly references: readonly { readonly name: string; readonly value: string }[]
  /** What the driver should know, such as a gate or hours. */
  readonly delivery: string
  readonly terms: Terms
  /** Currency of the order, which its invoice is in. */
  readonly orderCurrency: string
  /** What the customer asked to be sent with, in the source's words, and paid for it. */
  readonly serviceAsked: string
  readonly freightPaid: string | null
  /** What he is charged, where somebody set it by hand. */
  readonly chargedByHand: ChargedByHand | null
  /** What is asked besides carrying, and who pays. */
  readonly wishes: Wishes
  /** Of its order: the service that a person chose in the plan. */
  readonly chosenServiceId: number | null
  /** What it is planned to be sent with: as chosen, settled, or else as planned. */
  readonly plannedService: PlannedService
  /** What the order is sent with, and who said so. */
  readonly settled: Settled
  /** Services that the customer allows; none named: all. */
  readonly allowed: readonly string[]
  readonly state: "open" | "buying" | "bought" | "voiding" | "void"
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
 * The shipment that an order's goods are in, with the lines, packages and contents of all its orders, or null when there
 * is none yet. An order has one shipment; a shipment may hold several orders.
 */
export async function shipmentOf(db: Knex, orderId: number): Promise<Shipment | null> {
  const shipment = await shipmentOrDraft(db, orderId)
  return shipment && shipment.id > 0 ? shipment : null
}

/** The same, or what the shipment would be before anybody opened it: id 0, no packages. Null for no such order. */
export const shipmentOrDraft = (db: Knex, ofOrder: number): Promise<Shipment | null> =>
  // the version and what it is the version of, or buying what is seen would be refused
  onOneState(db, (view) => readShipment(view, ofOrder))

async function readShipment(db: Knex, ofOrder: number): Promise<Shipment | null> {
  const members = await membersOf(db, ofOrder)
  const [orderId] = members as [number]
  const row = (await db("shipment").where({ order_id: orderId }).whereNot("state", "void").first()) ?? {
    id: 0,
    state: "open",
    version: 0,
  }
  const order = await db("sales_order").where({ id: orderId }).first()
  if (!order) return null
  const parties = await partiesOf(db, order)
  const references = await db("order_reference")
    .whereIn("order_id", members)
    .where({ printed: true })
    .orderBy("order_id")
    .orderBy("name")
    .select("name", "value")
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
      "split_from_id",
    )
  const elsewhere = await worthElsewhere(db, [order, ...others], order.currency)
  const joined = (name: "source_number" | "po_number") =>
    [...new Set([order, ...others].map((one) => one[name] as string))].filter(Boolean).join(", ")
  const lineRows = await db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .whereIn("l.order_id", members)
    .orderByRaw("l.order_id <> ?, l.order_id, l.line_number", [orderId])
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
  const levels = await levelsOf(
    db,
    lineRows.map((line) => line.item_id),
  )
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
  const tolerance = Number(
    (await db("warehouse").where({ id: order.warehouse_id }).first("weight_tolerance")).weight_tolerance,
  )
  const types = new Map((await packagingTypes(db)).map((type) => [type.id, type]))
  const packedOf = (lineId: number) =>
    contentRows.filter((one) => one.order_line_id === lineId).reduce((sum, one) => sum + one.quantity, 0)

  const lines = lineRows.map((line, index): ShipmentLine => {
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
      packed: packedOf(line.id),
      bins: [...new Set<string>(own.map((one) => one.bin))],
      lots: [...new Set<string>(own.map((one) => one.lot).filter(Boolean))],
      piece: contentOf(line, index, 1),
      dangerous: dangerousGood(line),
      freightClass: line.freight_class,
      ...valued(line, order.currency, levels.get(line.item_id) ?? []),
    }
  })
  const packageOf = (one: (typeof packageRows)[number], carried: Mass): ShipmentPackage => {
    const type = one.packaging_id ? types.get(one.packaging_id) : undefined
    const place = (content: { order_line_id: number }) => lines.findIndex((line) => line.id === content.order_line_id)
    const own = contentRows.filter((content) => content.package_id === one.id).sort((a, b) => place(a) - place(b))
    const packed: Packed = {
      outer: sizeOf(one),
      // what stands on a pallet is not inside it
      inner:
        one.origin === "one-off"
          ? sizeOf(one)
          : one.size_by_hand || type?.kind === "pallet"
            ? null
            : (type?.inner ?? null),
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
  const cartons = new Map(packageRows.map((one) => [one.id, packageOf(one, noMass)]))
  const packages = packageRows.map((one) => {
    const standing = packageRows.filter((other) => other.parent_id === one.id)
    if (standing.length === 0) return cartons.get(one.id) as ShipmentPackage
    return packageOf(one, sumMass(standing.map((other) => (cartons.get(other.id) as ShipmentPackage).actual)))
  })
  return {
    id: row.id,
    orderId,
    warehouseId: order.warehouse_id,
    orderNumber: order.order_number,
    members: [order, ...others].map((one) => ({
      id: one.id,
      orderNumber: one.order_number,
      elsewhere: elsewhere.get(one.id) ?? [],
    })),
    sourceNumber: joined("source_number"),
    poNumber: joined("po_number"),
    customer: order.customer_name,
    customerCode: order.customer_id
      ? ((await db("customer").where({ id: order.customer_id }).first("code"))?.code ?? "")
      : "",
    serviceAsked: order.service_asked,
    freightPaid: order.freight_paid,
    chargedByHand: row.charged_by_hand ? parsed<ChargedByHand>(row.charged_by_hand) : null,
    notes: order.notes,
    promisedOn: merged([order, ...others]).promised_on,
    leaving: await leavingBy(db, merged([order, ...others])),
    shipTo: addressOf(order),
    sender: parties.find((one) => one.role === "sender") ?? null,
    returnTo: parties.find((one) => one.role === "return-to") ?? null,
    references: references.filter(
      (one, index) => references.findIndex((other) => other.name === one.name && other.value === one.value) === index,
    ),
    delivery: [order.building, order.instructions, order.opening_hours].filter(Boolean).join("; "),
    terms: { incoterm: order.incoterm, place: order.incoterm_place },
    orderCurrency: order.currency,
    wishes: wishesSchema.parse(parsed(row.wishes ?? "{}")),
    chosenServiceId: order.chosen_service_id,
    plannedService: plannedOf(order),
    settled: settledOf(order),
    allowed: await allowedServices(db, order.customer_id),
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

/** The service that an order is planned to be sent with. */
export const plannedOf = (order: {
  readonly chosen_service_id: number | null
  readonly planned_service_id: number | null
  readonly settings?: unknown
}): PlannedService => {
  const code = settingOf(settledOf(order), "service")
  return { id: order.chosen_service_id ?? (code ? null : order.planned_service_id), code }
}

/** A line's customs facts, and what a base unit of it is worth. */
function valued(
  // biome-ignore lint/suspicious/noExplicitAny: a row as the driver gives it
  line: any,
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

/** Packages that are handled by themselves: all but those that stand on a pallet. */
export const handled = <T extends { readonly on: number | null }>(packages: readonly T[]): T[] =>
  packages.filter((one) => one.on === null)

/** The flaws that keep packages of a shipment from being closed and bought, each with its package. */
export const keepingOpen = (shipment: Pick<Shipment, "packages">): Reason[] =>
  shipment.packages.flatMap((one) =>
    one.flaws
      .filter((flaw) => flaw.code.startsWith("flaw."))
      .map((flaw) => ({ code: flaw.code, values: { ...flaw.values, package: String(one.number) } })),
  )

/** What of the picked goods is in no package yet, as contents. */
export const unpacked = (shipment: Pick<Shipment, "lines">): Content[] =>
  shipment.lines
    .filter((line) => line.picked > line.packed)
    .map((line) => ({ ...line.piece, quantity: line.picked - line.packed }))

/** The handled packages of a shipment that hold goods of one of its orders. */
export function packagesOf(shipment: Shipment, orderId: number): ShipmentPackage[] {
  if (shipment.members.length === 1) return handled(shipment.packages)
  const own = new Set(shipment.lines.filter((line) => line.orderId === orderId).map((line) => line.id))
  const holds = (one: ShipmentPackage) => one.lineIds.some((id) => own.has(id))
  return handled(shipment.packages).filter(
    (one) => holds(one) || shipment.packages.some((other) => other.on === one.number && holds(other)),
  )
}
