import type { InvoiceModel } from "core/customs/index.ts"
import { moneyText, unitAmount } from "core/money/index.ts"
import { massIn } from "core/units/index.ts"
import type { Say } from "words/index.ts"
import { onPaper } from "words/papers.ts"
import { line } from "./page.ts"
import { letterPaper, type Paper } from "./paper.ts"
import { block, orderWords, rule, table } from "./table.ts"

const columns = (say: Say) => [
  { name: say("print.line"), x: 0, width: 24 },
  { name: say("print.goods-description"), x: 28, width: 160 },
  { name: say("print.hs-code"), x: 192, width: 58, face: "code" as const },
  { name: say("print.origin"), x: 254, width: 32 },
  { name: say("print.quantity"), x: 290, width: 46, right: true },
  { name: say("print.net-kg"), x: 340, width: 50, right: true },
  { name: say("print.unit-value"), x: 394, width: 60, right: true },
  { name: say("print.value"), x: 458, width: 62.4, right: true },
]

/**
 * The commercial invoice on letter paper: parties, references, terms of delivery, goods by line with code, origin, value
 * and net weight, totals, declaration. Fields and their order: UN Layout Key (UNECE Recommendations 1 and 6).
 */
export async function invoicePdf(model: InvoiceModel, madeAt: Date, say = onPaper): Promise<Buffer> {
  const paper = letterPaper(say("print.invoice"), model.number, madeAt, "mark")
  const rows = model.lines.map((one) => [
    String(one.number),
    `${one.description} (${one.sku})`,
    one.hsCode,
    one.origin,
    `${one.quantity} EA`,
    massIn(one.netWeight, "kg").toFixed(2),
    unitAmount(one.unitValue),
    moneyText(one.value).amount,
  ])
  const y = table(paper.page, columns(say), rows, {
    ...paper,
    top: head(paper, model, say),
    newSheet: () => paper.newSheet() + 10,
  })
  totals(paper, model, paper.room(y, 190) + 8, say)
  return paper.finish()
}

function head(paper: Paper, model: InvoiceModel, say: Say): number {
  const { page, left, width, top: margin } = paper
  line(page, say("print.invoice"), { x: left, y: margin - 6, width: 300, size: 22, face: "heavy" })
  line(page, model.number, { x: left + width - 200, y: margin - 2, width: 200, size: 15, face: "code", align: "right" })
  rule(page, paper, margin + 24, 1.5, "#000")
  const half = width / 2 - 10
  const right = left + half + 20
  const top = margin + 32
  const seller = block(page, say("print.exporter"), model.seller, { x: left, y: top, width: half, bold: true })
  const consignee = block(
    page,
    say("print.importer"),
    [...model.consignee, say("print.phone", { phone: model.phone })],
    {
      x: left,
      y: seller + 6,
      width: half,
      bold: true,
    },
  )
  const facts: [string, string][] = [
    [say("print.invoice-date"), model.date],
    [say("print.order"), orderWords(model, say)],
    [say("print.delivery-terms"), `${model.incoterm} ${model.place}, Incoterms 2020`],
    [say("print.dispatch-country"), model.originCountry],
    [say("print.destination-country"), model.destinationCountry],
    [say("print.carriage"), say("print.carrier-service", { carrier: model.carrier, service: model.service })],
    [say("print.tracking-number"), model.trackingNumber],
    [say("print.export-reason"), say("print.sale")],
  ]
  let y = top
  for (const [name, text] of facts) y = block(page, name, [text], { x: right, y, width: half, size: 10 }) + 2
  const below = Math.max(y, consignee) + 6
  rule(page, paper, below, 0.8, "#000")
  return below + 8
}

function totals(paper: Paper, model: InvoiceModel, top: number, say: Say): void {
  const { page, left, width } = paper
  const right = left + width / 2
  const sums: [string, string, boolean][] = [
    [say("print.goods"), `${moneyText(model.total).amount} ${model.currency}`, false],
    [say("print.total"), `${moneyText(model.total).amount} ${model.currency}`, true],
  ]
  let y = top
  for (const [name, text, bold] of sums) {
    const face = bold ? "bold" : "read"
    line(page, name, { x: right, y, width: 100, size: bold ? 12 : 10, face })
    line(page, text, { x: right + 100, y, width: width / 2 - 100, size: bold ? 12 : 10, face, align: "right" })
    y += bold ? 18 : 14
  }
  const kg = (value: InvoiceModel["grossWeight"]) => `${massIn(value, "kg").toFixed(2)} kg`
  block(
    page,
    say("print.packages"),
    [
      say(model.kindOfPackages === "pallet" ? "print.pallets-n" : "print.cartons-n", { n: model.packages }),
      say("print.gross-weight", { weight: kg(model.grossWeight) }),
      say("print.net-weight", { weight: kg(model.netWeight) }),
    ],
    { x: left, y: top, width: width / 2 - 20, size: 10 },
  )
  const sign = top + 70
  line(page, say("print.declaration"), {
    x: left,
    y: sign,
    width,
    size: 9,
  })
  rule(page, { left, width: 240 }, sign + 54, 0.8, "#000")
  line(page, `${model.signedBy}, ${model.date}`, { x: left, y: sign + 58, width: 240, size: 9 })
  line(page, say("print.place-date-signature"), { x: left, y: sign + 70, width: 240, size: 7.5 })
}
