import { addressLines, countryName } from "core/address/index.ts"
import type { LabelModel } from "core/documents/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import type { OptionCode } from "core/tariff/index.ts"
import { showMass, showSize } from "core/units/index.ts"
import { type PaperWords, paperWords } from "words/papers.ts"
import { there } from "../db/there.ts"
import { senderLines } from "../orders/parties.ts"
import { handled, type Shipment, type ShipmentPackage } from "../packages/shipment.ts"
import { mustFitLabel } from "../pdf/label.ts"
import { DoesNotFit } from "../pdf/page.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { notPrintable, whyNotMade } from "./unprintable.ts"

/** Who carries it, in words for labels and papers. */
export interface Carriage {
  readonly carrier: string
  readonly service: string
  /** What was bought besides carrying, where the service was asked already. */
  readonly options?: readonly OptionCode[]
  /** The form in which the carrier wants its labels; empty: any. */
  readonly labelForm?: string
}

/** What the carrier gave a package. */
export interface CarrierNumbers {
  readonly trackingNumber: string
  readonly routingCode: string
  /** The number of all packages together. */
  readonly master?: string
}

/** The label of one package of a shipment; metric beside a shipment abroad. */
export function labelModel(
  warehouse: Warehouse,
  shipment: Shipment,
  one: ShipmentPackage,
  carriage: Carriage,
  numbers: CarrierNumbers,
  shipDate: string,
): LabelModel {
  const pieces = handled(shipment.packages)
  const abroad = shipment.shipTo.country !== warehouse.country
  const words = paperWords(shipment.language)
  const { say } = words
  return {
    language: words.language,
    carrier: carriage.carrier,
    service: carriage.service,
    sender: shipment.sender
      ? senderLines(shipment.sender, warehouse.country)
      : [...warehouse.sender, ...(abroad ? [countryName(warehouse.country).toUpperCase()] : [])],
    receiver: addressLines(shipment.shipTo),
    shipDate: say("print.ships", { day: words.date(shipDate) }),
    weight: showMass(one.actual, abroad ? "kg" : "lb"),
    size: showSize(one.outer, abroad ? "cm" : "in"),
    piece: say("print.piece-of", { n: pieces.indexOf(one) + 1, of: pieces.length }),
    references: [
      { name: say("print.your-order"), text: shipment.poNumber },
      { name: say("print.our-order"), text: shipment.orderNumber },
      ...printed(shipment.references, words),
      { name: say("print.reference"), text: shipment.sourceNumber },
    ].filter((reference) => reference.text !== ""),
    driver: forDriver(shipment, carriage.options ?? shipment.wishes.options, words),
    routingCode: numbers.routingCode,
    trackingNumber: numbers.trackingNumber,
    ...(numbers.master && pieces.length > 1 ? { master: numbers.master } : {}),
    // a test label has none
    sscc: one.sscc === "" ? "" : there(one.sscc),
    packageName: `${shipment.orderNumber}-${one.number}`,
  }
}

/** The options with what was asked with them, then where in the place it goes. */
function forDriver(shipment: Shipment, options: readonly OptionCode[], { say }: PaperWords): string[] {
  const { holdAt, dryIceKg } = shipment.wishes
  const phrases = options.flatMap((option) => {
    // how it gets to the carrier is nothing to his driver
    if (option === "drop-off") return []
    const words = say(`print.driver.${option}`)
    if (option === "hold-at-location" && holdAt) return say("print.held-at", { words, place: holdAt })
    if (option === "dry-ice" && dryIceKg) return say("print.dry-ice-weight", { words, kilograms: dryIceKg })
    return words
  })
  return [...phrases, ...shipment.delivery.split("; ").filter(Boolean)]
}

/** The order's own references in one row of the label; of several the names stand with them. */
function printed(references: Shipment["references"], { say }: PaperWords): { name: string; text: string }[] {
  const [first] = references
  if (!first) return []
  return references.length === 1
    ? [{ name: first.name.slice(0, 18), text: first.value }]
    : [{ name: say("print.references"), text: references.map((one) => `${one.name} ${one.value}`).join(", ") }]
}

/** Which texts do not fit their fields on the labels, or can't be printed, so that they are refused before anything is bought. */
export function labelMisfits(warehouse: Warehouse, shipment: Shipment, carriage: Carriage): Reason[] {
  const numbers = { trackingNumber: "LA000000000000", routingCode: "L5-00000", master: "LA000000000000" }
  const [one] = handled(shipment.packages)
  if (!one) return []
  const model = labelModel(warehouse, shipment, one, carriage, numbers, "2026-11-24")
  // what the invoice and the bill of lading say of the goods; they are made when there is no way back
  const named =
    shipment.shipTo.country !== warehouse.country || shipment.packages.some((pack) => pack.kind === "pallet")
  const goods = named ? notPrintable(shipment.lines.map((line) => line.description)) : []
  try {
    mustFitLabel(model)
    return goods
  } catch (error) {
    if (error instanceof DoesNotFit)
      return [...error.misfits.map((misfit) => reason("label.does-not-fit", { ...misfit })), ...goods]
    const why = whyNotMade(error)
    if (!why) throw error
    return [...why, ...goods]
  }
}

/** The number on a test label: none that a carrier gives, and one that the dock knows for what it is. */
export const testNumberOf = (orderNumber: string, packageNumber: number): string =>
  `TEST-${orderNumber}-${packageNumber}`

/** Whether a scanned text is the number of a test label. */
export const isTestNumber = (text: string): boolean => /^TEST-\d{1,8}-\d{1,4}$/.test(text.trim())
