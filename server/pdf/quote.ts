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
  readonly currency: string
  readonly services: readonly { readonly name: string; readonly arrives: string; readonly charged: string }[]
  readonly note: string
}

const columns = [
  { name: "Service", x: 0, width: 260 },
  { name: "Arrives", x: 270, width: 130 },
  { name: "Freight", x: 410, width: 110.4, right: true },
]

/** The quote on letter paper: parties, goods, services with arrival and freight charge, until when it is good. */
export async function quotePdf(model: QuoteModel, madeAt: Date): Promise<Buffer> {
  const paper = letterPaper("Quote", model.number, madeAt)
  const { page, left, width, top } = paper
  line(page, "Freight quote", { x: left, y: top - 6, width: 300, size: 22, face: "heavy" })
  line(page, model.number, { x: left + width - 200, y: top - 2, width: 200, size: 15, face: "code", align: "right" })
  rule(page, paper, top + 24, 1.5, "#000")
  const half = width / 2 - 10
  const right = left + half + 20
  const seller = block(page, "From", model.seller, { x: left, y: top + 32, width: half, bold: true })
  const customer = block(page, "For", model.customer, { x: right, y: top + 32, width: half, bold: true })
  const facts = block(
    page,
    "Quote",
    [`Made ${model.date}`, `Good until ${model.validUntil}`, `Amounts in ${model.currency}`],
    { x: left, y: Math.max(seller, customer) + 6, width: half },
  )
  const goods = block(page, "Goods", model.goods, { x: right, y: Math.max(seller, customer) + 6, width: half })
  const y = table(
    page,
    columns,
    model.services.map((one) => [one.name, one.arrives, one.charged]),
    { ...paper, top: Math.max(facts, goods) + 10, newSheet: () => paper.newSheet() + 10 },
  )
  if (model.note) block(page, "Note", [model.note], { x: left, y: paper.room(y, 80) + 10, width })
  return paper.finish()
}
