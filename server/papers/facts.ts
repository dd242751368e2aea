import type { LocalDate } from "core/calendar/index.ts"
import type { CustomsParty, CustomsRole } from "core/customs/index.ts"
import { shareOfPart } from "core/customs/index.ts"
import type { CarrierId, OrderId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
import { money, sumMoney } from "core/money/index.ts"
import type { PaperFacts, PaperLine, PaperPackage, PaperParty, PaperService } from "core/papers/index.ts"
import { classOfDensity, density, regimeOf } from "core/rating/index.ts"
import { settingOf } from "core/rules/index.ts"
import type { Service } from "core/tariff/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { hasOwnPaper } from "../documents/ownPapers.ts"
import { customsOf } from "../goods/customs.ts"
import { customsDetailsOf, wholeOf } from "../orders/customs.ts"
import { itemLines } from "../orders/itemLine.ts"
import type { Party } from "../orders/parties.ts"
import { billingOf, ownClass } from "../packages/goods.ts"
import type { Shipment, ShipmentLine, ShipmentPackage } from "../packages/shipment.ts"
import { levelsOf } from "../packaging/catalog.ts"
import type { Offer } from "../rating/offer.ts"
import type { RatedService } from "../rating/tariffs.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { exportedAlso } from "./exported.ts"
import { customsTables, noTables, vagueWords } from "./tables.ts"

/** What papers of a shipment are made for: a service on a day. */
export interface ForService {
  readonly service: PaperService
  readonly carrierId: CarrierId
  readonly shipDate: LocalDate
  /** Codes of charges for what was bought besides carrying. */
  readonly accessorials: readonly string[]
}

/** A service as papers are made for it, by the terms of the tariff that is in force on the day. */
export const forService = (
  service: RatedService,
  terms: Service,
  shipDate: LocalDate,
  accessorials: readonly string[] = [],
): ForService => ({
  service: {
    code: service.code,
    carrierCode: service.tradeCode,
    carrier: service.carrier,
    name: service.name,
    mode: service.mode,
    regime: regimeOf(terms),
    handling: terms.goods.handling,
    postal: terms.postal,
    electronic: terms.electronic,
  },
  carrierId: service.carrierId,
  shipDate,
  accessorials,
})

/** An offer as papers are made for it; null where it can't take the shipment. */
export function forOffer({ service, terms, collection, rate }: Offer): ForService | null {
  if (!terms || !collection || !rate) return null
  const accessorials = rate.charges.map((one) => one.code).filter((code) => !["base", "fuel", "tax"].includes(code))
  return forService(service, terms, collection.onDate, accessorials)
}

/** Whether a shipment can need papers at all besides its labels; asked before anything is read for them. */
export const mayNeedPapers = (warehouse: Warehouse, shipment: Shipment, terms: Service | null): boolean =>
  shipment.shipTo.country !== warehouse.country ||
  shipment.lines.some((line) => line.hazard !== null) ||
  shipment.packages.some((one) => one.kind === "pallet") ||
  terms?.goods.handling === "pallet" ||
  shipment.wishes.options.includes("dry-ice")

/** Everything that the papers of a shipment are worked out from. */
export async function paperFacts(
  db: Knex,
  warehouse: Warehouse,
  shipment: Shipment,
  { on, today, signer }: { readonly on: ForService | null; readonly today: LocalDate; readonly signer: string },
): Promise<PaperFacts> {
  const abroad = shipment.shipTo.country !== warehouse.country
  const [parts, tables, vague, attached, also] = await Promise.all([
    partsOf(db, shipment, abroad),
    abroad ? customsTables(db, shipment.shipTo.country) : noTables,
    vagueWords(db),
    hasOwnPaper(db, shipment.orderId),
    abroad && on ? exportedAlso(db, warehouse, shipment, on.carrierId, on.shipDate) : [],
  ])
  const billing = billingOf(shipment)
  return {
    orderNumber: shipment.orderNumber,
    sourceNumber: shipment.sourceNumber,
    purchaseOrder: shipment.poNumber,
    warehouseCode: warehouse.code,
    date: today,
    shipper: shipperOf(warehouse, signer),
    shipTo: shipment.shipTo,
    customs: shipment.customs,
    parties: partiesOf(shipment),
    terms: shipment.terms,
    currency: shipment.orderCurrency,
    ...goodsOf(shipment, parts.before),
    service: on?.service ?? null,
    options: new Set(shipment.wishes.options),
    dryIceKg: shipment.wishes.dryIceKg,
    payer: billing.terms,
    account: billing.account,
    accessorials: on?.accessorials ?? [],
    lading: shipment.lading,
    copies: {
      ...(settingOf(shipment.settled, "invoiceCopies")
        ? { invoice: settingOf(shipment.settled, "invoiceCopies") }
        : {}),
      ...(settingOf(shipment.settled, "ladingCopies")
        ? { "bill-of-lading": settingOf(shipment.settled, "ladingCopies") }
        : {}),
    },
    charges: parts.charges,
    attached,
    vague,
    ...tables,
    exportedAlso: also,
  }
}

/** What goes with a shipment, line by line and package by package; before anything is packed what was ordered. */
export function goodsOf(
  shipment: Shipment,
  before: ReadonlyMap<number, number> = new Map(),
): Pick<PaperFacts, "lines" | "packages"> {
  const packed = shipment.packages.length > 0
  return {
    lines: shipment.lines.map((line) => paperLine(line, packed ? line.packed : line.ordered, before.get(line.id) ?? 0)),
    packages: shipment.packages.map((one) => paperPackage(shipment, one)),
  }
}

/** The shipper, with his own address. */
function shipperOf(warehouse: Warehouse, signer: string): PaperFacts["shipper"] {
  const { taxNumber, eori, ...settings } = warehouse.shipper
  return {
    ...settings,
    signer: settings.signer || signer,
    party: {
      company: warehouse.company,
      attention: "",
      street: warehouse.street,
      street2: "",
      city: warehouse.city,
      state: warehouse.state,
      postalCode: warehouse.postalCode,
      country: warehouse.country,
      phone: warehouse.phone,
      taxNumber,
      eori,
    },
  }
}

const asParty = ({ role: _, by: __, kind: ___, email: ____, ...address }: Party): PaperParty => ({
  ...address,
  taxNumber: "",
  eori: "",
})

/** Who is named besides the receiver; who is shown as sender on label and slip is the exporter here too. */
function partiesOf({ customs, sender }: Shipment): PaperFacts["parties"] {
  const named = Object.fromEntries(
    Object.entries(customs.parties).filter((entry): entry is [CustomsRole, CustomsParty] => entry[1] !== undefined),
  )
  return { ...(sender ? { exporter: asParty(sender) } : {}), ...named }
}

const paperLine = (line: ShipmentLine, quantity: number, before: number): PaperLine => ({
  ...line.customs,
  id: line.id,
  quantity,
  before,
  unitNet: line.unitNet,
  dangerous: line.hazard,
  itemNumber: line.classItem,
  category: line.category,
})

function paperPackage(shipment: Shipment, one: ShipmentPackage): PaperPackage {
  const standing = shipment.packages.filter((other) => other.on === one.number)
  const own = one.contents.reduce((sum, content) => sum + content.quantity, 0)
  return {
    number: one.number,
    name: `${shipment.orderNumber}-${one.number}`,
    kind: one.kind === "pallet" ? "pallet" : "carton",
    pieces: standing.length + own,
    on: one.on,
    gross: one.actual,
    outer: one.outer,
    sscc: one.sscc ?? "",
    freightClass: ownClass(shipment, one) ?? classOfDensity(density(one.actual, one.outer)),
    contents: one.contents.map((content, at) => ({
      line: one.lineIds[at] as number,
      quantity: content.quantity,
    })),
  }
}

const charging = ["discount", "packing", "freight", "insurance"] as const

/**
 * What a shipment's orders have of their wholes: pieces of each line that go with earlier parts, and the shares of the
 * amounts that were said for the whole, by what each part is worth.
 */
async function partsOf(
  db: Knex,
  shipment: Shipment,
  abroad: boolean,
): Promise<{ before: Map<number, number>; charges: PaperFacts["charges"] }> {
  const currency = shipment.orderCurrency
  const none = money(0, currency)
  const charges = { discount: none, packing: none, freight: none, insurance: none }
  const before = new Map<number, number>()
  if (!abroad) return { before, charges }
  const members: OrderId[] = shipment.members.map((one) => one.id)
  const orders = await db("sales_order").whereIn("id", members).select("id", "split_from_id")
  const wholes = [...new Set(orders.map(wholeOf))]
  const parts = await db("sales_order")
    .where((either) => either.whereIn("id", wholes).orWhereIn("split_from_id", wholes))
    .whereNull("cancelled_at")
    .orderBy("part")
    .orderBy("id")
    .select("id", "split_from_id")
  const rows = await itemLines(
    db,
    parts.map((part) => part.id),
  )
  const levels = await levelsOf(db, [...new Set(rows.map((row) => row.item_id))])
  const details = await customsDetailsOf(db, orders)
  const byOrder = grouped(rows, (row) => row.order_id as number)
  for (const order of orders) {
    const own = parts.filter((part) => wholeOf(part) === wholeOf(order))
    const at = own.findIndex((part) => part.id === order.id)
    const linesOf = (part: { readonly id: number }) => byOrder.get(part.id) ?? []
    const gone = new Map<number, number>()
    for (const row of own.slice(0, at).flatMap(linesOf))
      gone.set(row.line_number, (gone.get(row.line_number) ?? 0) + row.ordered)
    for (const row of linesOf(order)) before.set(row.id, gone.get(row.line_number) ?? 0)
    const worths = own.map((part) =>
      linesOf(part).reduce((sum, row) => {
        const { unitValue } = customsOf(row, currency, levels.get(row.item_id) ?? [])
        return sum.add(unitValue?.mul(row.ordered) ?? 0)
      }, new Decimal(0)),
    )
    const said = details.get(order.id)
    for (const kind of charging) {
      const amount = said?.[kind]
      if (amount) charges[kind] = sumMoney([charges[kind], shareOfPart(money(amount, currency), worths, at)], currency)
    }
  }
  return { before, charges }
}
