import type { LocalDate } from "../calendar/index.ts"
import { describeGoods, type Purpose } from "../customs/index.ts"
import { exchange } from "../exchange/index.ts"
import { type Money, money, roundMoney, sumMoney } from "../money/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import { type Mass, massIn, timesMass } from "../units/index.ts"
import type { PaperDefinition } from "./definition.ts"
import { abroad, type PaperFacts, type PaperPackage, type PaperParty } from "./facts.ts"
import { consigneeOf, exportsGoods, importerOf, invoice, invoiceNumber, isElectronic } from "./invoice.ts"
import { contentsOf } from "./packingList.ts"

/** Letter-post packets up to this value and weight take the small declaration (UPU, from memory). */
export const smallDeclaration = { sdr: 300, kg: 2 } as const

export type PostalForm = "CN22" | "CN23"

export interface PostalDeclarationModel {
  readonly date: LocalDate
  readonly currency: string
  readonly purpose: Purpose
  readonly sender: PaperParty
  readonly consignee: PaperParty
  readonly importer: PaperParty
  readonly invoiceNumber: string
  readonly licence: string
  readonly signer: string
  /** One form for each package. */
  readonly packages: readonly {
    readonly form: PostalForm
    readonly name: string
    /** The postal item number. */
    readonly tracking: string
    readonly gross: Mass
    readonly value: Money
    readonly lines: readonly {
      readonly description: string
      readonly quantity: number
      readonly net: Mass
      readonly value: Money
      readonly hsCode: string
      readonly origin: string
    }[]
  }[]
}

const worthOfPackage = (facts: PaperFacts, one: PaperPackage): Money =>
  sumMoney(
    contentsOf(facts, one).map(({ line, quantity }) =>
      roundMoney(money(line.unitValue?.mul(quantity) ?? 0, facts.currency)),
    ),
    facts.currency,
  )

/** Which of the two forms a package takes; null where its value can't be said in special drawing rights. */
export function postalFormOf(facts: PaperFacts, one: PaperPackage): PostalForm | null {
  if (facts.service?.postal === "parcel" || massIn(one.gross, "kg").gt(smallDeclaration.kg)) return "CN23"
  const sdr = exchange(facts.exchange, worthOfPackage(facts, one), "XDR", facts.date)
  return sdr && (sdr.value.amount.lte(smallDeclaration.sdr) ? "CN22" : "CN23")
}

function gaps(facts: PaperFacts): Reason[] {
  const unknown = facts.packages.some((one) => postalFormOf(facts, one) === null)
  return unknown ? [reason("exchange.missing", { from: facts.currency, to: "XDR", day: facts.date })] : []
}

/** The declaration that the post wants on every package with goods that goes abroad. */
export const postalDeclaration: PaperDefinition<PostalDeclarationModel> = {
  kind: "postal-declaration",
  language: "customer",
  need: (facts) =>
    facts.service?.mode === "post" && abroad(facts) && exportsGoods(facts)
      ? {
          copies: 1,
          why: reason("paper.why.post", {
            form: [...new Set(facts.packages.map((one) => postalFormOf(facts, one) ?? "CN22"))].sort().join(", "),
          }),
          electronic: isElectronic(facts, "postal-declaration"),
        }
      : null,
  gaps: (facts) => [...invoice.gaps(facts), ...gaps(facts)],
  model: (facts, made) => ({
    date: facts.date,
    currency: facts.currency,
    purpose: facts.customs.purpose,
    sender: facts.parties.seller ?? facts.shipper.party,
    consignee: consigneeOf(facts),
    importer: importerOf(facts),
    invoiceNumber: invoiceNumber(facts, made),
    licence: facts.customs.licence,
    signer: facts.shipper.signer,
    packages: facts.packages.map((one) => ({
      form: postalFormOf(facts, one) ?? "CN23",
      name: one.name,
      tracking: made.tracking.get(one.number) ?? "",
      gross: one.gross,
      value: worthOfPackage(facts, one),
      lines: contentsOf(facts, one).map(({ line, quantity }) => ({
        description: describeGoods(line),
        quantity,
        net: timesMass(line.unitNet as Mass, quantity),
        value: roundMoney(money(line.unitValue?.mul(quantity) ?? 0, facts.currency)),
        hsCode: line.hsCode,
        origin: line.origin,
      })),
    })),
  }),
}
