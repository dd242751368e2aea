import { describeGoods } from "../customs/index.ts"
import type { Lading } from "../documents/lading.ts"
import { type Reason, reason } from "../refusal/index.ts"
import type { PayerTerms } from "../rules/index.ts"
import { type Mass, type Size, sumMass } from "../units/index.ts"
import {
  type DeclaredEntry,
  dangerousDataGaps,
  dangerousIn,
  declaredEntries,
  emergencyGaps,
  exceptedIn,
  fullyRegulated,
} from "./dangerousGoods.ts"
import type { PaperDefinition } from "./definition.ts"
import type { PaperFacts, PaperPackage, PaperParty } from "./facts.ts"
import { consigneeOf, handledOf } from "./invoice.ts"
import { contentsOf } from "./packingList.ts"

/** A handling unit of a bill of lading: a pallet with its pieces. */
export interface LadingUnit {
  readonly name: string
  readonly kind: PaperPackage["kind"]
  /** Cartons and pieces on it. */
  readonly pieces: number
  readonly kindOfPieces: "carton" | "piece"
  readonly hazardous: boolean
  readonly description: string
  readonly size: Size
  readonly freightClass: string
  /** Item number of the classification, where the goods have one. */
  readonly itemNumber: string
  readonly weight: Mass
}

/** A straight bill of lading of one shipment; handling units apart from pieces, gross weight with the pallets. */
export interface BillOfLadingModel {
  readonly number: string
  /** The carrier's own number; empty: written on it when it is fetched. */
  readonly proNumber: string
  readonly carrier: string
  readonly carrierCode: string
  readonly service: string
  readonly shipDate: string
  readonly shipper: PaperParty
  readonly consignee: PaperParty
  readonly sourceNumber: string
  readonly purchaseOrder: string
  readonly payer: PayerTerms
  /** Whose account is billed, where another pays. */
  readonly account: string
  readonly accessorials: readonly string[]
  readonly units: readonly LadingUnit[]
  readonly pieces: number
  readonly weight: Mass
  /** Entries of dangerous goods with their quantity and packages. */
  readonly hazardous: readonly DeclaredEntry[]
  /** UN numbers of dangerous goods that need no entry: limited quantities and small cells. */
  readonly excepted: readonly string[]
  readonly emergencyPhone: string
  readonly lading: Lading
}

/** The bill of lading of freight on pallets; the fields are common practice of the trade. */
export const billOfLading: PaperDefinition<BillOfLadingModel> = {
  kind: "bill-of-lading",
  language: "carrier",
  need: (facts) =>
    facts.packages.some((one) => one.kind === "pallet") || facts.service?.handling === "pallet"
      ? {
          // one for the driver, one for the receiver, one kept (common practice)
          copies: facts.copies["bill-of-lading"] ?? 3,
          why: reason("paper.why.freight"),
          electronic: false,
        }
      : null,
  gaps: (facts): Reason[] => [
    ...dangerousDataGaps(facts),
    ...(fullyRegulated(facts).length > 0 ? emergencyGaps(facts) : []),
  ],
  model: (facts, made) => {
    const units = handledOf(facts).map((one) => unitOf(facts, one))
    return {
      number: `${facts.warehouseCode}-${facts.orderNumber}${made.suffix}`,
      proNumber: facts.lading.proNumber || made.trackingNumber,
      carrier: facts.service?.carrier ?? "",
      carrierCode: facts.service?.carrierCode ?? "",
      service: facts.service?.name ?? "",
      shipDate: made.shipDate,
      shipper: facts.shipper.party,
      consignee: consigneeOf(facts),
      sourceNumber: facts.sourceNumber,
      purchaseOrder: facts.purchaseOrder,
      payer: facts.payer,
      account: facts.account,
      accessorials: facts.accessorials,
      units,
      pieces: units.reduce((sum, unit) => sum + unit.pieces, 0),
      weight: sumMass(units.map((unit) => unit.weight)),
      hazardous: declaredEntries(facts),
      excepted: exceptedIn(facts),
      emergencyPhone: facts.shipper.emergencyPhone,
      lading: facts.lading,
    }
  },
}

function unitOf(facts: PaperFacts, one: PaperPackage): LadingUnit {
  const standing = facts.packages.filter((other) => other.on === one.number)
  const inside = [one, ...standing].flatMap((each) => contentsOf(facts, each))
  const regulated = [one, ...standing].flatMap((each) => dangerousIn(facts, each))
  const own = contentsOf(facts, one).reduce((sum, part) => sum + part.quantity, 0)
  const lines = [...new Map(inside.map((part) => [part.line.id, part.line])).values()]
  // of a mixed unit none holds for all
  const numbers = new Set(lines.map((line) => line.itemNumber))
  return {
    name: one.name,
    kind: one.kind,
    pieces: standing.length + own,
    kindOfPieces: standing.length > 0 ? "carton" : "piece",
    // as its entries: what is excepted from them is named in the statement
    hazardous: regulated.some((each) => each.manner === "full"),
    description: [...new Set(lines.map((line) => describeGoods(line)))].join("; "),
    size: one.outer,
    freightClass: one.freightClass,
    itemNumber: numbers.size === 1 ? ([...numbers][0] as string) : "",
    weight: one.gross,
  }
}
