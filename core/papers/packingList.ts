import { describeGoods } from "../customs/index.ts"
import { reason } from "../refusal/index.ts"
import { type Mass, type Size, sumMass, timesMass } from "../units/index.ts"
import type { PaperDefinition } from "./definition.ts"
import type { PaperFacts, PaperPackage, PaperParty } from "./facts.ts"
import { consigneeOf, exportsGoods, grossOf, handledOf } from "./invoice.ts"

export interface PackingListModel {
  readonly number: string
  readonly date: string
  readonly exporter: PaperParty
  readonly consignee: PaperParty
  readonly sourceNumber: string
  readonly purchaseOrder: string
  readonly trackingNumber: string
  readonly packages: readonly {
    readonly name: string
    readonly kind: PaperPackage["kind"]
    /** Name of the pallet that it stands on. */
    readonly on: string
    readonly size: Size
    readonly gross: Mass
    readonly net: Mass
    readonly contents: readonly { readonly sku: string; readonly description: string; readonly quantity: number }[]
  }[]
  readonly handled: number
  readonly gross: Mass
  readonly net: Mass
}

/** Goods of a package by line, the lines in their order. */
export function contentsOf(facts: Pick<PaperFacts, "lines">, one: PaperPackage) {
  const inside = new Map<number, number>()
  for (const part of one.contents) inside.set(part.line, (inside.get(part.line) ?? 0) + part.quantity)
  return facts.lines.flatMap((line) => {
    const quantity = inside.get(line.id) ?? 0
    return quantity > 0 ? [{ line, quantity }] : []
  })
}

export const netOf = (facts: PaperFacts, one: PaperPackage): Mass =>
  sumMass(
    contentsOf(facts, one).flatMap(({ line, quantity }) => (line.unitNet ? [timesMass(line.unitNet, quantity)] : [])),
  )

/** What is in every package, with weights and sizes: customs and receivers check against it. */
export const packingList: PaperDefinition<PackingListModel> = {
  kind: "packing-list",
  language: "customer",
  need: (facts) =>
    exportsGoods(facts)
      ? {
          copies: facts.copies["packing-list"] ?? 1,
          why: reason("paper.why.contents", { country: facts.shipTo.country }),
          electronic: false,
        }
      : null,
  gaps: () => [],
  model: (facts, made) => ({
    number: `PL-${facts.orderNumber}${made.suffix}`,
    date: facts.date,
    exporter: facts.parties.exporter ?? facts.shipper.party,
    consignee: consigneeOf(facts),
    sourceNumber: facts.sourceNumber,
    purchaseOrder: facts.purchaseOrder,
    trackingNumber: made.trackingNumber,
    packages: facts.packages.map((one) => ({
      name: one.name,
      kind: one.kind,
      on: facts.packages.find((other) => other.number === one.on)?.name ?? "",
      size: one.outer,
      gross: one.gross,
      net: sumMass([
        netOf(facts, one),
        ...facts.packages.filter((other) => other.on === one.number).map((other) => netOf(facts, other)),
      ]),
      contents: contentsOf(facts, one).map(({ line, quantity }) => ({
        sku: line.sku,
        description: describeGoods(line),
        quantity,
      })),
    })),
    handled: handledOf(facts).length,
    gross: grossOf(facts),
    net: sumMass(facts.packages.map((one) => netOf(facts, one))),
  }),
}
