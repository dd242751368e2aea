import {
  customsGaps,
  detailGaps,
  exportFiling,
  type Filing,
  filingGaps,
  type InvoiceCharge,
  type InvoiceLine,
  type InvoiceSum,
  importRuleOn,
  invoiceCharges,
  invoiceLines,
  isDocuments,
  type Purpose,
} from "../customs/index.ts"
import { exchange } from "../exchange/index.ts"
import { type Money, money, sumMoney } from "../money/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import { type Mass, massIn, noMass, sumMass } from "../units/index.ts"
import type { Made, PaperDefinition } from "./definition.ts"
import { abroad, type PaperFacts, type PaperParty } from "./facts.ts"

/** The commercial invoice of one shipment; fields as the UN Layout Key orders them (UNECE Recommendations 1 and 6). */
export interface InvoiceModel {
  readonly number: string
  readonly date: string
  readonly proForma: boolean
  readonly exporter: PaperParty
  /** Those that are not the exporter or the consignee. */
  readonly seller: PaperParty | null
  readonly consignee: PaperParty
  readonly importer: PaperParty | null
  readonly buyer: PaperParty | null
  readonly notify: PaperParty | null
  /** One-stop number by which import tax is paid; empty where it does not apply. */
  readonly oneStop: string
  readonly incoterm: string
  readonly place: string
  readonly sourceNumber: string
  readonly purchaseOrder: string
  readonly carrier: string
  readonly service: string
  readonly trackingNumber: string
  readonly originCountry: string
  readonly destinationCountry: string
  readonly packages: number
  readonly kindOfPackages: "pallet" | "carton"
  readonly grossWeight: Mass
  readonly netWeight: Mass
  readonly currency: string
  readonly purpose: Purpose
  readonly lines: readonly InvoiceLine[]
  readonly sums: readonly InvoiceSum[]
  readonly goods: Money
  readonly charges: readonly { readonly kind: InvoiceCharge; readonly amount: Money }[]
  readonly total: Money
  /** The exemption that is cited, or the number of the filing; empty where the country asks for neither. */
  readonly filing: string
  readonly licence: string
  readonly remarks: string
  readonly signer: string
  readonly title: string
}

/** Packages that are handled by themselves. */
export const handledOf = (facts: Pick<PaperFacts, "packages">) => facts.packages.filter((one) => one.on === null)
export const grossOf = (facts: Pick<PaperFacts, "packages">): Mass => sumMass(handledOf(facts).map((one) => one.gross))

/** Whether goods cross a border: documents by themselves are none. */
export const exportsGoods = (facts: PaperFacts): boolean =>
  abroad(facts) && !isDocuments(facts.customs.purpose, facts.shipTo.country, grossOf(facts))

/** The goods of a shipment as its invoice states them. */
export const invoicedOf = (facts: PaperFacts) =>
  invoiceLines(
    facts.lines
      .filter((line) => line.quantity > 0)
      .map((line) => ({
        ...line,
        unitValue: line.unitValue ?? money(0, facts.currency).amount,
        unitWeight: line.unitNet ?? noMass,
      })),
    facts.currency,
  )

/** Whether the terms have the seller pay the carriage: all but E and F (Incoterms 2020). */
const sellerCarries = (incoterm: string): boolean => !/^[EF]/.test(incoterm)

/** What the invoice adds to the goods and takes off: freight and insurance only where the terms have the seller pay. */
export const chargesOf = (facts: PaperFacts): { kind: InvoiceCharge; amount: Money }[] =>
  invoiceCharges.flatMap((kind) => {
    const amount = facts.charges[kind]
    if (amount.amount.isZero()) return []
    if ((kind === "freight" || kind === "insurance") && !sellerCarries(facts.terms.incoterm)) return []
    return [{ kind, amount: kind === "discount" ? money(amount.amount.neg(), amount.currency) : amount }]
  })

/** The receiver, with the numbers that customs know him by. */
export const consigneeOf = ({ shipTo: { kind: _, ...shipTo }, customs }: PaperFacts): PaperParty => ({
  ...shipTo,
  taxNumber: customs.receiverTax,
  eori: customs.receiverEori,
})

/** Who brings the goods into the country, and is asked for duty and tax. */
export const importerOf = (facts: PaperFacts): PaperParty => facts.parties.importer ?? consigneeOf(facts)

/** Whether the export must be filed; null where a value can't be said in dollars. */
export function filingOf(facts: PaperFacts): Filing | null {
  const values = invoicedOf(facts).lines.map((line) => ({
    code: line.hsCode,
    usd: exchange(facts.exchange, line.value, "USD", facts.date)?.value.amount ?? null,
  }))
  const known = values.flatMap((one) => (one.usd === null ? [] : [{ code: one.code, usd: one.usd }]))
  const filing = exportFiling({
    from: facts.shipper.party.country,
    to: facts.shipTo.country,
    transit: facts.customs.transit,
    licensed: facts.customs.licence !== "",
    values: [...known, ...facts.exportedAlso],
  })
  // what is decided without the value stands
  return known.length < values.length && filing.kind === "exempt" && filing.citation === "NOEEI 30.37(a)"
    ? null
    : filing
}

/** What stands on papers of it: the citation, or the number that the filing was answered with. */
export function filingWords(facts: PaperFacts): string {
  const filing = filingOf(facts)
  if (filing?.kind === "exempt") return filing.citation
  return filing?.kind === "file" ? facts.customs.itn : ""
}

function gapsOfFiling(facts: PaperFacts): Reason[] {
  const filing = filingOf(facts)
  return filing === null
    ? [reason("exchange.missing", { from: facts.currency, to: "USD", day: facts.date })]
    : filingGaps(filing, facts.customs.itn, facts.shipTo.country)
}

/** The one-stop number, where it applies: to consumers, up to the value that the country's dated table says. */
function oneStopOf(facts: PaperFacts): string {
  const rule = importRuleOn(facts.importRules, facts.shipTo.country, facts.date)
  if (!facts.shipper.oneStop || !rule?.oneStop || facts.shipTo.kind !== "residential") return ""
  const value = exchange(facts.exchange, invoicedOf(facts).total, rule.currency, facts.date)
  return value?.value.amount.lte(rule.oneStop) ? facts.shipper.oneStop : ""
}

/** Whether quantities of a line are what its unit says: who counts in kilograms or grams has units of just so much. */
const countsBy = (unit: string | undefined, net: Mass): boolean =>
  unit === "KGM" ? massIn(net, "kg").eq(1) : unit === "GRM" ? massIn(net, "g").eq(1) : true

function gaps(facts: PaperFacts): Reason[] {
  const found = [
    ...customsGaps(facts.shipTo, facts.terms, facts.lines, facts.vague),
    ...detailGaps(facts.terms, facts.customs, facts.attached),
  ]
  if (facts.charges.discount.amount.gt(invoicedOf(facts).total.amount))
    found.push(reason("customs.discount-over", { field: "discount" }))
  for (const line of facts.lines) {
    const at = { line: line.lineNumber, sku: line.sku }
    if (line.unitNet === null) found.push(reason("customs.no-net", { ...at, field: "netKg" }))
    else if (!countsBy(line.unit, line.unitNet))
      found.push(
        reason("customs.unit-net", {
          ...at,
          net: massIn(line.unitNet, "kg").toDecimalPlaces(4).toString(),
          field: "unit",
        }),
      )
  }
  return [...found, ...gapsOfFiling(facts)]
}

/** The commercial invoice, or the pro forma. */
export const invoice: PaperDefinition<InvoiceModel> = {
  kind: "invoice",
  language: "customer",
  need: (facts) =>
    !exportsGoods(facts) || (facts.customs.ownInvoice && facts.attached)
      ? null
      : {
          // three outside and one kept (common practice)
          copies: facts.copies.invoice ?? 4,
          why: reason("paper.why.border", { country: facts.shipTo.country }),
          electronic: isElectronic(facts, "invoice"),
        },
  gaps,
  model: invoiceModel,
}

/** Whether the carrier takes the data of a paper for this country. */
export const isElectronic = (
  { service, shipTo }: Pick<PaperFacts, "service" | "shipTo">,
  paper: "invoice" | "postal-declaration" | "dangerous-goods",
): boolean =>
  (service?.electronic ?? []).some(
    (one) => one.paper === paper && (one.countries.length === 0 || one.countries.includes(shipTo.country)),
  )

/** What the invoice of a shipment is called, on itself and on papers that name it. */
export const invoiceNumber = ({ orderNumber }: Pick<PaperFacts, "orderNumber">, { suffix }: Pick<Made, "suffix">) =>
  `CI-${orderNumber}${suffix}`

export function invoiceModel(facts: PaperFacts, made: Made): InvoiceModel {
  const { lines, total: goods, netWeight, sums } = invoicedOf(facts)
  const charges = chargesOf(facts)
  const handled = handledOf(facts)
  return {
    number: invoiceNumber(facts, made),
    date: facts.date,
    proForma: facts.customs.proForma,
    exporter: facts.parties.exporter ?? facts.shipper.party,
    seller: facts.parties.seller ?? null,
    consignee: consigneeOf(facts),
    importer: facts.parties.importer ?? null,
    buyer: facts.parties.buyer ?? null,
    notify: facts.parties.notify ?? null,
    oneStop: oneStopOf(facts),
    incoterm: facts.terms.incoterm,
    place: facts.terms.place,
    sourceNumber: facts.sourceNumber,
    purchaseOrder: facts.purchaseOrder,
    carrier: facts.service?.carrier ?? "",
    service: facts.service?.name ?? "",
    trackingNumber: made.trackingNumber,
    originCountry: facts.shipper.party.country,
    destinationCountry: facts.shipTo.country,
    packages: handled.length,
    kindOfPackages: handled.some((one) => one.kind === "pallet") ? "pallet" : "carton",
    grossWeight: grossOf(facts),
    netWeight,
    currency: facts.currency,
    purpose: facts.customs.purpose,
    lines,
    sums,
    goods,
    charges,
    total: sumMoney([goods, ...charges.map((one) => one.amount)], facts.currency),
    filing: filingWords(facts),
    licence: facts.customs.licence,
    remarks: facts.customs.remarks,
    signer: facts.shipper.signer,
    title: facts.shipper.title,
  }
}
