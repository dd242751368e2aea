import { type InvoiceLine, lineGaps } from "../customs/index.ts"
import { reason } from "../refusal/index.ts"
import type { Mass } from "../units/index.ts"
import type { PaperDefinition } from "./definition.ts"
import type { PaperParty } from "./facts.ts"
import { consigneeOf, exportsGoods, grossOf, handledOf, invoicedOf, invoiceNumber } from "./invoice.ts"

export interface CertificateOfOriginModel {
  readonly number: string
  readonly date: string
  readonly exporter: PaperParty
  readonly consignee: PaperParty
  /** ISO 3166-1 alpha-2, each once. */
  readonly origins: readonly string[]
  readonly carrier: string
  readonly service: string
  readonly invoiceNumber: string
  readonly packages: number
  readonly gross: Mass
  readonly lines: readonly InvoiceLine[]
  readonly signer: string
  readonly title: string
}

/** The exporter's statement of where the goods were made, where the receiver wants one. */
export const certificateOfOrigin: PaperDefinition<CertificateOfOriginModel> = {
  kind: "certificate-of-origin",
  language: "customer",
  need: (facts) =>
    exportsGoods(facts) && (facts.customs.certificateOfOrigin || (facts.copies["certificate-of-origin"] ?? 0) > 0)
      ? {
          copies: facts.copies["certificate-of-origin"] ?? 1,
          why: reason("paper.why.wanted"),
          electronic: false,
        }
      : null,
  gaps: (facts) => facts.lines.flatMap((line) => lineGaps(line, facts.vague)),
  model: (facts, made) => {
    const { lines } = invoicedOf(facts)
    return {
      number: `CO-${facts.orderNumber}${made.suffix}`,
      date: facts.date,
      exporter: facts.parties.exporter ?? facts.shipper.party,
      consignee: consigneeOf(facts),
      origins: [...new Set(lines.map((line) => line.origin))].sort(),
      carrier: facts.service?.carrier ?? "",
      service: facts.service?.name ?? "",
      invoiceNumber: invoiceNumber(facts, made),
      packages: handledOf(facts).length,
      gross: grossOf(facts),
      lines,
      signer: facts.shipper.signer,
      title: facts.shipper.title,
    }
  },
}
