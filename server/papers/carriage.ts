import { addressLines, countryName } from "core/address/index.ts"
import { type InvoiceModel, invoiceLines } from "core/customs/index.ts"
import { type BillOfLadingModel, billOfLading } from "core/documents/index.ts"
import { classOfDensity, density } from "core/rating/index.ts"
import { type Settings, settingOf } from "core/rules/index.ts"
import { showSize, sumMass } from "core/units/index.ts"
import { sayCode } from "words/index.ts"
import { onPaper, paperLanguage } from "words/papers.ts"
import type { Booking } from "../gateways/carrier.ts"
import { ownClass, shippedLines } from "../packages/goods.ts"
import { handled, type Shipment } from "../packages/shipment.ts"
import type { StoredRate } from "../rating/storedRate.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import type { Carriage } from "./label.ts"

/** What the papers of a shipment say besides the shipment itself. */
export interface CarriageFacts {
  readonly carriage: Carriage
  readonly booking: Booking
  readonly rate: StoredRate
  readonly shipDate: string
  readonly date: string
  readonly by: string
  /** Tells the papers of a shipment that was voided from those after it, such as `-2`. */
  readonly suffix: string
}

/** The commercial invoice of what is in this shipment's packages. */
export function invoiceModel(warehouse: Warehouse, shipment: Shipment, facts: CarriageFacts): InvoiceModel {
  const packages = handled(shipment.packages)
  return {
    number: `CI-${shipment.orderNumber}${facts.suffix}`,
    date: facts.date,
    // who is shown as sender on label and slip is the seller here too
    seller: shipment.sender
      ? [
          ...addressLines({ ...shipment.sender, attention: "" }),
          ...homeCountry(shipment.sender),
          shipment.sender.phone,
        ].filter(Boolean)
      : [...warehouse.sender, countryName(warehouse.country)],
    consignee: addressLines(shipment.shipTo),
    phone: shipment.shipTo.phone,
    incoterm: shipment.terms.incoterm,
    place: shipment.terms.place,
    sourceNumber: shipment.sourceNumber,
    purchaseOrder: shipment.poNumber,
    ...facts.carriage,
    trackingNumber: facts.booking.masterTrackingNumber,
    originCountry: countryName(warehouse.country),
    destinationCountry: countryName(shipment.shipTo.country),
    packages: packages.length,
    kindOfPackages: packages.some((one) => one.kind === "pallet") ? "pallet" : "carton",
    grossWeight: sumMass(packages.map((one) => one.actual)),
    currency: shipment.orderCurrency,
    ...invoiceLines(shippedLines(shipment), shipment.orderCurrency),
    signedBy: facts.by,
  }
}

/** The country of a seller whose address is printed without it. */
const homeCountry = ({ country }: { readonly country: string }): string[] =>
  country === "US" ? [countryName(country)] : []

/** The bill of lading of a shipment of pallets. */
export function billOfLadingModel(warehouse: Warehouse, shipment: Shipment, facts: CarriageFacts): BillOfLadingModel {
  const units = handled(shipment.packages).map((one) => {
    const standing = shipment.packages.filter((other) => other.on === one.number)
    const lines = [one, ...standing].flatMap((pack) => pack.lineIds)
    const pieces = one.contents.reduce((sum, content) => sum + content.quantity, 0)
    return {
      name: `${shipment.orderNumber}-${one.number}`,
      kind: one.kind === "pallet" ? ("pallet" as const) : ("carton" as const),
      pieces: standing.length + pieces,
      description: [
        ...new Set(shipment.lines.filter((line) => lines.includes(line.id)).map((line) => line.customs.description)),
      ].join("; "),
      size: showSize(one.outer, "in").replace(" in", ""),
      freightClass: ownClass(shipment, one) ?? classOfDensity(density(one.actual, one.outer)),
      weight: one.actual,
    }
  })
  return billOfLading({
    number: `${warehouse.code}-${shipment.orderNumber}${facts.suffix}`,
    proNumber: facts.booking.masterTrackingNumber,
    ...facts.carriage,
    shipDate: facts.shipDate,
    shipper: warehouse.sender,
    consignee: [...addressLines(shipment.shipTo), ...(shipment.shipTo.phone ? [shipment.shipTo.phone] : [])],
    sourceNumber: shipment.sourceNumber,
    purchaseOrder: shipment.poNumber,
    freightTerms: freightTerms(settingOf(shipment.settled, "payer")),
    accessorials: facts.rate.charges
      .filter((charge) => !["base", "fuel", "tax"].includes(charge.code))
      .map((charge) => sayCode(`charge.${charge.code}`, {}, paperLanguage) ?? charge.code),
    units,
  })
}

/** Freight terms as the bill of lading says them, with the account that is billed. */
const freightTerms = (payer: Settings["payer"]): string =>
  payer?.account
    ? onPaper("print.freight-account", {
        terms: onPaper(`print.terms.${payer.terms}`),
        account: payer.account,
      })
    : onPaper(`print.terms.${payer?.terms ?? "prepaid"}`)
