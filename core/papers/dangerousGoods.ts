import {
  basicDescription,
  type DangerousEntry,
  type DangerousFacts,
  dangerousFlaws,
  type Manner,
  mannerOf,
  quantityOfPiece,
  shippingName,
  tooHeavyForLimited,
} from "../dangerous/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import { type Mass, sumMass } from "../units/index.ts"
import type { PaperDefinition } from "./definition.ts"
import type { GoodsFacts, PaperFacts, PaperLine, PaperPackage, PaperParty } from "./facts.ts"
import { consigneeOf, handledOf, isElectronic } from "./invoice.ts"
import { contentsOf } from "./packingList.ts"

/** An entry as papers say it: description, quantity, and how many packages hold it. */
export interface DeclaredEntry {
  readonly description: string
  /** What the description is made of, for messages that have a place for each. */
  readonly unNumber: string
  readonly shippingName: string
  readonly hazardClass: string
  readonly quantity: string
  readonly packages: number
  readonly kind: "pallet" | "carton"
  readonly names: readonly string[]
}

export interface DangerousGoodsModel {
  readonly number: string
  readonly date: string
  readonly regime: "road" | "air"
  readonly shipper: PaperParty
  readonly consignee: PaperParty
  readonly carrier: string
  readonly service: string
  readonly trackingNumber: string
  readonly entries: readonly DeclaredEntry[]
  readonly packages: number
  readonly gross: Mass
  readonly emergencyPhone: string
  readonly signer: string
  readonly title: string
}

/** How dangerous lines go by the service that is chosen; before one is chosen by road. */
export const regimeOf = (facts: Pick<PaperFacts, "service">) => facts.service?.regime ?? "road"

/** Dangerous goods in a package, with how each goes. */
export function dangerousIn(facts: GoodsFacts, one: PaperPackage): readonly Carried[] {
  return contentsOf(facts, one).flatMap(({ line, quantity }) =>
    line.dangerous ? [{ line, quantity, facts: line.dangerous, manner: mannerIn(facts, line.dangerous, one) }] : [],
  )
}

export interface Carried {
  readonly line: PaperLine
  readonly quantity: number
  readonly facts: DangerousFacts
  readonly manner: Manner
}

/** What is a limited quantity by its item is none in a package that is too heavy for one. */
function mannerIn(facts: GoodsFacts, dangerous: DangerousFacts, one: PaperPackage): Manner {
  return mannerOf(dangerous, regimeOf(facts)) === "limited" && tooHeavyForLimited(one.gross, one.number).length > 0
    ? "full"
    : mannerOf(dangerous, regimeOf(facts))
}

/** Lines with dangerous goods that go with the shipment. */
const dangerousLines = (facts: PaperFacts) =>
  facts.lines.flatMap((line) => (line.dangerous && line.quantity > 0 ? [{ line, facts: line.dangerous }] : []))

/** What lacks of dangerous goods, however they go: their data, and what is over the limit that it claims. */
export function dangerousDataGaps(facts: PaperFacts): Reason[] {
  return dangerousLines(facts).flatMap(({ line, facts: own }) =>
    dangerousFlaws(own, { line: line.lineNumber, sku: line.sku }),
  )
}

/** Goods that go under all rules. */
export const fullyRegulated = (facts: GoodsFacts): readonly Carried[] =>
  facts.packages.flatMap((one) => dangerousIn(facts, one)).filter((one) => one.manner === "full")

/** UN numbers of goods that are excepted from shipping papers by road: limited quantities and small cells. */
export const exceptedIn = (facts: GoodsFacts): string[] => {
  const carried = facts.packages.flatMap((one) => dangerousIn(facts, one))
  const excepted = carried.filter((one) => one.manner === "limited" || one.manner === "small-lithium")
  return [...new Set(excepted.map((one) => one.facts.unNumber))].sort()
}

/** What the papers of fully regulated goods need besides: a telephone that is answered at any hour. */
export const emergencyGaps = (facts: PaperFacts): Reason[] =>
  facts.shipper.emergencyPhone.trim() === "" ? [reason("shipper.no-emergency-phone", { field: "shipper" })] : []

/** The entries of all fully regulated goods: what is the same description is one entry. */
function dangerousEntries(facts: PaperFacts): (DangerousEntry & { description: string; names: string[] })[] {
  interface Found {
    readonly facts: DangerousFacts
    readonly names: Map<string, PaperPackage>
    readonly figure: Carried[]
  }
  const found = new Map<string, Found>()
  for (const one of facts.packages)
    for (const carried of dangerousIn(facts, one).filter((each) => each.manner === "full")) {
      const description = basicDescription(carried.facts)
      const entry: Found = found.get(description) ?? { facts: carried.facts, names: new Map(), figure: [] }
      // what stands on a pallet is counted by its carton: the pallet is not its packaging
      entry.names.set(one.name, one)
      entry.figure.push(carried)
      found.set(description, entry)
    }
  return [...found].map(([description, { facts: own, names, figure }]) => {
    const totals = figure.map((one) => {
      const piece = quantityOfPiece(one.facts)
      return { figure: piece.figure.mul(one.quantity), unit: piece.unit }
    })
    const [first] = totals as [(typeof totals)[number]]
    return {
      description,
      facts: own,
      total: { figure: totals.reduce((sum, one) => sum.add(one.figure), first.figure.mul(0)), unit: first.unit },
      packages: names.size,
      kind: [...names.values()].every((one) => one.kind === "pallet") ? "pallet" : "carton",
      names: [...names.keys()],
    }
  })
}

/** All fully regulated goods as papers say them; a quantity is `20 L`, or of cells `48`. */
export const declaredEntries = (facts: PaperFacts): DeclaredEntry[] =>
  dangerousEntries(facts).map(({ description, facts: own, total, packages, kind, names }) => ({
    description,
    unNumber: own.unNumber,
    shippingName: shippingName(own),
    hazardClass: own.hazardClass,
    quantity: [total.figure.toString(), total.unit].filter(Boolean).join(" "),
    packages,
    kind: kind as DeclaredEntry["kind"],
    names,
  }))

/**
 * The shipper's declaration of dangerous goods: by road the shipping paper of 49 CFR 172.202 with certification (172.204)
 * and telephone (172.604), by air its counterpart. Pallets by road have it in their bill of lading.
 */
export const dangerousGoods: PaperDefinition<DangerousGoodsModel> = {
  kind: "dangerous-goods",
  language: "carrier",
  need: (facts) => {
    const full = fullyRegulated(facts)
    const inLading = facts.service?.handling === "pallet" && regimeOf(facts) === "road"
    if (full.length === 0 || inLading) return null
    return {
      // two for the carrier and one kept (common practice)
      copies: facts.copies["dangerous-goods"] ?? 3,
      why: reason(`paper.why.dangerous-${regimeOf(facts)}`, {
        unNumbers: [...new Set(full.map((one) => one.facts.unNumber))].join(", "),
      }),
      electronic: isElectronic(facts, "dangerous-goods"),
    }
  },
  gaps: (facts) => [...dangerousDataGaps(facts), ...emergencyGaps(facts)],
  model: (facts, made) => ({
    number: `DG-${facts.orderNumber}${made.suffix}`,
    date: facts.date,
    regime: regimeOf(facts),
    shipper: facts.shipper.party,
    consignee: consigneeOf(facts),
    carrier: facts.service?.carrier ?? "",
    service: facts.service?.name ?? "",
    trackingNumber: made.trackingNumber,
    entries: declaredEntries(facts),
    packages: handledOf(facts).length,
    gross: sumMass(handledOf(facts).map((one) => one.gross)),
    emergencyPhone: facts.shipper.emergencyPhone,
    signer: facts.shipper.signer,
    title: facts.shipper.title,
  }),
}
