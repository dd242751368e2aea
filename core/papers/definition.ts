import type { Reason } from "../refusal/index.ts"
import type { PaperFacts } from "./facts.ts"

/** Kinds of papers that are worked out for a shipment; each is a file of this folder and one of `server/pdf`. */
export const paperKinds = [
  "invoice",
  "packing-list",
  "postal-declaration",
  "certificate-of-origin",
  "letter-of-instruction",
  "dangerous-goods",
  "goods-mark",
  "bill-of-lading",
  "pallet-label",
] as const
export type PaperKind = (typeof paperKinds)[number]
export const isPaperKind = (text: string): text is PaperKind => (paperKinds as readonly string[]).includes(text)

/** Why a paper is needed, and how many of it. */
export interface PaperNeed {
  readonly copies: number
  readonly why: Reason
  /** The data go with the booking; nothing needs to be printed. */
  readonly electronic: boolean
}

/**
 * A paper: when it is needed, what it lacks, and what stands on it. `Model` is what its drawing takes.
 *
 * Need and gaps are asked before anything is bought; the model afterwards, with what the carrier answered.
 */
export interface PaperDefinition<Model = unknown> {
  readonly kind: PaperKind
  /** Whose language it is written in: the customer's, or that of the carriers here. */
  readonly language: "customer" | "carrier"
  readonly need: (facts: PaperFacts) => PaperNeed | null
  /** What keeps it from being made, each with the field that lacks it. */
  readonly gaps: (facts: PaperFacts) => readonly Reason[]
  readonly model: (facts: PaperFacts, made: Made) => Model
}

/** What is known once the carrier has answered. */
export interface Made {
  readonly trackingNumber: string
  readonly shipDate: string
  /** By package number. */
  readonly tracking: ReadonlyMap<number, string>
  /** Tells the papers of a shipment that was voided from those after it, such as `-2`. */
  readonly suffix: string
}
