import { reason } from "../refusal/index.ts"
import type { Mass } from "../units/index.ts"
import type { PaperDefinition } from "./definition.ts"
import type { PaperParty } from "./facts.ts"
import { consigneeOf, handledOf } from "./invoice.ts"

export interface PalletLabelModel {
  readonly shipper: PaperParty
  readonly consignee: PaperParty
  readonly carrier: string
  readonly number: string
  readonly proNumber: string
  readonly purchaseOrder: string
  readonly pallets: readonly {
    readonly name: string
    readonly place: number
    readonly of: number
    readonly pieces: number
    readonly weight: Mass
  }[]
}

/** A label for each pallet that says where it goes and that it is one of so many. */
export const palletLabel: PaperDefinition<PalletLabelModel> = {
  kind: "pallet-label",
  language: "carrier",
  need: (facts) =>
    handledOf(facts).some((one) => one.kind === "pallet")
      ? // two sides of the pallet (common practice)
        { copies: facts.copies["pallet-label"] ?? 2, why: reason("paper.why.pallets"), electronic: false }
      : null,
  gaps: () => [],
  model: (facts, made) => {
    const handled = handledOf(facts)
    return {
      shipper: facts.shipper.party,
      consignee: consigneeOf(facts),
      carrier: facts.service?.carrier ?? "",
      number: `${facts.warehouseCode}-${facts.orderNumber}${made.suffix}`,
      proNumber: facts.lading.proNumber || made.trackingNumber,
      purchaseOrder: facts.purchaseOrder,
      pallets: handled.flatMap((one, at) =>
        one.kind === "pallet"
          ? [{ name: one.name, place: at + 1, of: handled.length, pieces: one.pieces, weight: one.gross }]
          : [],
      ),
    }
  },
}
