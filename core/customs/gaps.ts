import type { Decimal } from "decimal.js"
import type { Address } from "../address/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import type { CustomsDetails } from "./details.ts"
import { incoterms, insteadOfSea, isIncoterm } from "./incoterms.ts"

/** What customs ask of a line; empty text where nobody has said. */
export interface CustomsFacts {
  readonly lineNumber: number
  readonly sku: string
  readonly description: string
  readonly hsCode: string
  /** ISO 3166-1 alpha-2. */
  readonly origin: string
  /** Value of one base unit in the order's currency; null where neither order nor item says. */
  readonly unitValue: Decimal | null
  /** What it is made of, and what it is for; empty where nobody says. */
  readonly material?: string
  readonly use?: string
  /** UNECE Recommendation 20; empty: pieces. */
  readonly unit?: string
}

export interface Terms {
  readonly incoterm: string
  readonly place: string
}

/** Words that say nothing of the goods when they stand alone (common practice; customs hold such parcels). */
const vague = new Set(
  (
    "accessories article articles equipment gift gifts good goods item items material materials merchandise misc " +
    "miscellaneous part parts product products sample samples spare spares stuff supplies tool tools various"
  ).split(" "),
)

/**
 * Whether a customs description says what the goods are: at least one word of three letters that is not vague. What is
 * vague besides the usual words is a list of the house, in small letters.
 */
export function saysWhatItIs(description: string, alsoVague: ReadonlySet<string> = none): boolean {
  const words = description.toLowerCase().match(/\p{L}{3,}/gu) ?? []
  return words.some((word) => !vague.has(word) && !alsoVague.has(word))
}
const none: ReadonlySet<string> = new Set()

/** Six digits of the Harmonized System and up to four national ones, with or without points. */
export const isHsCode = (text: string): boolean => /^\d{4}\.?\d{2}(\.?\d{2}){0,2}$/.test(text)

/**
 * What keeps a shipment over a border from having its commercial invoice, each with the field that lacks it; empty
 * when the invoice can be made.
 */
export function customsGaps(
  shipTo: Address,
  terms: Terms,
  lines: readonly CustomsFacts[],
  alsoVague: ReadonlySet<string> = none,
): Reason[] {
  const gaps: Reason[] = []
  if (!terms.incoterm) gaps.push(reason("customs.no-incoterm", { field: "incoterm" }))
  else if (!isIncoterm(terms.incoterm))
    gaps.push(
      reason("customs.unknown-incoterm", {
        field: "incoterm",
        incoterm: terms.incoterm,
        known: Object.keys(incoterms).join(" "),
      }),
    )
  else if (incoterms[terms.incoterm].seaOnly)
    gaps.push(
      reason("customs.sea-incoterm", {
        field: "incoterm",
        incoterm: terms.incoterm,
        instead: insteadOfSea[terms.incoterm] ?? "",
      }),
    )
  if (!terms.place.trim()) gaps.push(reason("customs.no-place", { field: "incoterm_place" }))
  if (!shipTo.phone.trim()) gaps.push(reason("customs.no-phone", { field: "phone" }))
  return [...gaps, ...lines.flatMap((line) => lineGaps(line, alsoVague))]
}

/** What a line lacks for customs, each with the field that it lacks. */
export function lineGaps(line: CustomsFacts, alsoVague: ReadonlySet<string> = none): Reason[] {
  const gaps: Reason[] = []
  const at = { line: line.lineNumber, sku: line.sku }
  if (!line.hsCode) gaps.push(reason("customs.no-hs-code", { ...at, field: "hsCode" }))
  else if (!isHsCode(line.hsCode))
    gaps.push(reason("customs.hs-code-shape", { ...at, field: "hsCode", hsCode: line.hsCode }))
  if (!/^[A-Z]{2}$/.test(line.origin)) gaps.push(reason("customs.no-origin", { ...at, field: "origin" }))
  if (!saysWhatItIs(line.description, alsoVague))
    gaps.push(reason("customs.vague-description", { ...at, field: "description", description: line.description }))
  if (line.unitValue === null || line.unitValue.lte(0)) gaps.push(reason("customs.no-value", { ...at, field: "value" }))
  return gaps
}

/**
 * What the terms ask for of an order's details: an importer who pays the duties, an insurance, parties with addresses, and
 * the paper that is to go instead of our invoice.
 */
export function detailGaps({ incoterm }: Terms, details: CustomsDetails, attached: boolean): Reason[] {
  const gaps: Reason[] = []
  if (details.ownInvoice && !attached) gaps.push(reason("customs.nothing-attached", { field: "ownInvoice" }))
  if (incoterm === "DDP" && !details.parties.importer) gaps.push(reason("customs.no-importer", { field: "importer" }))
  if (isIncoterm(incoterm) && incoterms[incoterm].insured && Number(details.insurance ?? 0) === 0)
    gaps.push(reason("customs.no-insurance", { incoterm, field: "insurance" }))
  for (const [role, party] of Object.entries(details.parties))
    if (![party.company, party.street, party.city].every((text) => text.trim()) || !/^[A-Z]{2}$/.test(party.country))
      gaps.push(reason("customs.party-incomplete", { role, field: role }))
  return gaps
}
