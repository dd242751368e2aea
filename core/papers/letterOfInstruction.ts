import type { InvoiceLine } from "../customs/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import type { PayerTerms } from "../rules/index.ts"
import type { Mass } from "../units/index.ts"
import type { PaperDefinition } from "./definition.ts"
import type { PaperParty } from "./facts.ts"
import { consigneeOf, exportsGoods, filingWords, grossOf, handledOf, invoice, invoicedOf } from "./invoice.ts"

export interface LetterOfInstructionModel {
  readonly number: string
  readonly date: string
  readonly exporter: PaperParty
  readonly consignee: PaperParty
  readonly notify: PaperParty | null
  readonly carrier: string
  readonly service: string
  readonly trackingNumber: string
  readonly incoterm: string
  readonly place: string
  readonly payer: PayerTerms
  readonly destination: string
  readonly packages: number
  readonly gross: Mass
  readonly filing: string
  /** Number of the licence, or NLR where none is needed. */
  readonly licence: string
  readonly hazardous: boolean
  /** Each line with whether it was made at home. */
  readonly lines: readonly (InvoiceLine & { readonly domestic: boolean })[]
  readonly signer: string
  readonly title: string
}

/** What a forwarder is told to do with freight that goes abroad: by air and in groupage by sea. */
export const letterOfInstruction: PaperDefinition<LetterOfInstructionModel> = {
  kind: "letter-of-instruction",
  language: "carrier",
  need: (facts) =>
    exportsGoods(facts) && (facts.service?.mode === "air" || facts.service?.mode === "groupage")
      ? {
          copies: facts.copies["letter-of-instruction"] ?? 2,
          why: reason("paper.why.forwarder", { carrier: facts.service.carrier }),
          electronic: false,
        }
      : null,
  gaps: (facts): Reason[] => [
    ...(facts.shipper.party.taxNumber === "" ? [reason("shipper.no-tax-number", { field: "shipper" })] : []),
    ...invoice.gaps(facts),
  ],
  model: (facts, made) => ({
    number: `SLI-${facts.orderNumber}${made.suffix}`,
    date: facts.date,
    exporter: facts.parties.exporter ?? facts.shipper.party,
    consignee: consigneeOf(facts),
    notify: facts.parties.notify ?? null,
    carrier: facts.service?.carrier ?? "",
    service: facts.service?.name ?? "",
    trackingNumber: made.trackingNumber,
    incoterm: facts.terms.incoterm,
    place: facts.terms.place,
    payer: facts.payer,
    destination: facts.shipTo.country,
    packages: handledOf(facts).length,
    gross: grossOf(facts),
    filing: filingWords(facts),
    licence: facts.customs.licence || "NLR",
    hazardous: facts.lines.some((line) => line.dangerous !== null && line.quantity > 0),
    lines: invoicedOf(facts).lines.map((line) => ({
      ...line,
      domestic: line.origin === facts.shipper.party.country,
    })),
    signer: facts.shipper.signer,
    title: facts.shipper.title,
  }),
}
