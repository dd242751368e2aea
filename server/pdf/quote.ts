import type { Say } from "words/index.ts"
import { onPaper } from "words/papers.ts"
import { line } from "./page.ts"
import { letterPaper } from "./paper.ts"
import { block, rule, table } from "./table.ts"

/** What a quote says to the customer: no costs of ours. */
export interface QuoteModel {
  readonly number: string
  readonly date: string
  readonly validUntil: string
  readonly seller: readonly string[]
  readonly customer: readonly string[]
  readonly goods: readonly string[]
  /** What is asked for besides carrying; its price is in the charges. */
  readonly options: readonly string[]
  readonly currency: string
  readonly services: readonly { readonly name: string; readonly arrives: string; readonly charged: string }[]
  readonly note: string
}

const serviceColumns = (say: Say) => [
  { name: say("print.service"), x: 0, width: 260 },
  { name: say("print.arrives"), x: 270, width: 130 },
  { name: say("print.freight"), x: 410, width: 110.4, right: true },
]

const goodsColumns = (say: Say) => [{ name: say("print.goods"), x: 0, width: 520.4 }]
const noteColumns = (say: Say) => [{ name: say("print.note"), x: 0, width: 520.4 }]

/** The quote on letter paper: parties, options, services with arrival and freight charge, goods, until when it is good. */
export async function quotePdf(model: QuoteModel, madeAt: Date, say = onPaper): Promise<Buffer> {
  const paper = letterPaper(say("print.quote"), model.number, madeAt)
  const { page, left, width, top } = paper
  line(page, say("print.quote"), { x: left, y: top - 6, width: 300, size: 22, face: "heavy" })
  line(page, model.number, { x: left + width - 200, y: top - 2, width: 200, size: 15, face: "code", align: "right" })
  rule(page, paper, top + 24, 1.5, "#000")
  const half = width / 2 - 10
  const right = left + half + 20
  const seller = block(page, say("print.from"), model.seller, { x: left, y: top + 32, width: half, bold: true })
  const customer = block(page, say("print.for"), model.customer, { x: right, y: top + 32, width: half, bold: true })
  const facts = block(
    page,
    say("print.quote-facts"),
    [
      say("print.made", { date: model.date }),
      say("print.good-until", { date: model.validUntil }),
      say("print.amounts-in", { currency: model.currency }),
    ],
    { x: left, y: Math.max(seller, customer) + 6, width: half },
  )
  const options =
    model.options.length > 0
      ? block(page, say("print.charges-include"), model.options, {
          x: right,
          y: Math.max(seller, customer) + 6,
          width: half,
        })
      : 0
  const newSheet = () => paper.newSheet() + 10
  let y = table(
    page,
    serviceColumns(say),
    model.services.map((one) => [one.name, one.arrives, one.charged]),
    { ...paper, top: Math.max(facts, options) + 10, newSheet },
  )
  for (const [columns, texts] of [
    [goodsColumns(say), model.goods],
    [noteColumns(say), model.note ? [model.note] : []],
  ] as const)
    if (texts.length > 0) {
      const rows = texts.map((text) => [text])
      y = table(page, columns, rows, { ...paper, top: paper.room(y, 80) + 10, newSheet })
    }
  return paper.finish()
}
