import {
  definitions,
  type Made,
  type PaperDefinition,
  type PaperFacts,
  type PaperKind,
  paperGaps,
  papersNeeded,
} from "core/papers/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { englishPapers, type PaperWords, paperWords } from "words/papers.ts"
import { billOfLadingPdf } from "../pdf/billOfLading.ts"
import { certificateOfOriginPdf } from "../pdf/certificateOfOrigin.ts"
import { dangerousGoodsPdf } from "../pdf/dangerousGoods.ts"
import { goodsMarkPdf } from "../pdf/goodsMark.ts"
import { invoicePdf } from "../pdf/invoice.ts"
import { letterOfInstructionPdf } from "../pdf/letterOfInstruction.ts"
import { packingListPdf } from "../pdf/packingList.ts"
import { palletLabelPdf } from "../pdf/palletLabel.ts"
import { postalDeclarationPdf } from "../pdf/postalDeclaration.ts"
import { notPrintable } from "./unprintable.ts"

type Drawing = (model: never, madeAt: Date, words: PaperWords, picture: Buffer | null) => Promise<Buffer>

/** How each paper is drawn. */
const drawings: Readonly<Record<PaperKind, Drawing>> = {
  invoice: invoicePdf,
  "packing-list": packingListPdf,
  "postal-declaration": postalDeclarationPdf,
  "certificate-of-origin": certificateOfOriginPdf,
  "letter-of-instruction": letterOfInstructionPdf,
  "dangerous-goods": dangerousGoodsPdf,
  "goods-mark": goodsMarkPdf,
  "bill-of-lading": billOfLadingPdf,
  "pallet-label": palletLabelPdf,
}

/** A paper as it was made for a shipment. */
export interface DrawnPaper {
  readonly kind: PaperKind
  readonly name: string
  readonly language: string
  readonly copies: number
  /** Its data went with the booking: nothing is printed unless somebody asks. */
  readonly electronic: boolean
  readonly model: object
  readonly bytes: Buffer
}

/** What a paper is called: by its own number where it has one. */
const nameOf = (kind: PaperKind, model: object, facts: PaperFacts, made: Made): string =>
  "number" in model && typeof model.number === "string" && kind !== "pallet-label"
    ? model.number
    : `${prefixes[kind] ?? "P"}-${facts.orderNumber}${made.suffix}`
const prefixes: Readonly<Partial<Record<PaperKind, string>>> = {
  "postal-declaration": "CN",
  "goods-mark": "MK",
  "pallet-label": "PX",
}

const wordsOf = (one: PaperDefinition, language: string): PaperWords =>
  one.language === "customer" ? paperWords(language) : englishPapers

interface Drawn {
  readonly language: string
  readonly madeAt: Date
  readonly picture: Buffer | null
}

async function drawn(one: PaperDefinition, facts: PaperFacts, made: Made, how: Drawn): Promise<DrawnPaper | null> {
  const need = one.need(facts)
  if (!need) return null
  const words = wordsOf(one, how.language)
  const model = one.model(facts, made) as object
  return {
    kind: one.kind,
    name: nameOf(one.kind, model, facts, made),
    language: words.language,
    copies: need.copies,
    electronic: need.electronic,
    model,
    bytes: await drawings[one.kind](model as never, how.madeAt, words, how.picture),
  }
}

/** All papers that a shipment needs, drawn. */
export async function drawPapers(facts: PaperFacts, made: Made, how: Drawn): Promise<DrawnPaper[]> {
  const papers: DrawnPaper[] = []
  for (const one of definitions) {
    const paper = await drawn(one, facts, made, how)
    if (paper) papers.push(paper)
  }
  return papers
}

/** One paper as it is, of a shipment that was bought; null where the shipment does not need it. */
export const drawMade = (kind: PaperKind, facts: PaperFacts, made: Made, how: Drawn): Promise<DrawnPaper | null> =>
  drawn(definitions.find((one) => one.kind === kind) as PaperDefinition, facts, made, how)

/** One paper as it will be; null where the shipment does not need it, or it lacks something. */
export async function drawOne(kind: PaperKind, facts: PaperFacts, how: Drawn): Promise<DrawnPaper | null> {
  const one = definitions.find((each) => each.kind === kind)
  return one && one.gaps(facts).length === 0 ? drawn(one, facts, unmade(facts), how) : null
}

/** What the carrier would answer, for papers that are looked at before anything is bought. */
export const unmade = (facts: PaperFacts): Made => ({
  trackingNumber: "",
  shipDate: facts.date,
  tracking: new Map(),
  suffix: "",
})

/** Texts on the papers that a shipment needs that no face can show, each told by its signs. */
export function unprintableOn(facts: PaperFacts): Reason[] {
  const texts = definitions.flatMap((one) =>
    one.need(facts) && one.gaps(facts).length === 0 ? textsIn(one.model(facts, unmade(facts))) : [],
  )
  return notPrintable(texts)
}

/** Every text in a model, however deep. */
function textsIn(value: unknown): string[] {
  if (typeof value === "string") return [value]
  if (Array.isArray(value)) return value.flatMap(textsIn)
  // figures and masses are classes of their own
  if (value && typeof value === "object" && Object.getPrototypeOf(value) === Object.prototype)
    return Object.values(value).flatMap(textsIn)
  return []
}

/** Why the papers of a shipment can't be made yet: what lacks, and what can't be printed. */
export function paperRefusals(facts: PaperFacts): Reason[] {
  const gaps = paperGaps(papersNeeded(facts))
  return gaps.length > 0 ? gaps : unprintableOn(facts)
}
