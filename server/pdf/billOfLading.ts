import type { BillOfLadingModel } from "core/documents/index.ts"
import { massIn } from "core/units/index.ts"
import type { Say } from "words/index.ts"
import { onPaper } from "words/papers.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { line } from "./page.ts"
import { letterPaper, type Paper } from "./paper.ts"
import { block, orderWords, rule, table } from "./table.ts"

const columns = (say: Say) => [
  { name: say("print.unit"), x: 0, width: 54 },
  { name: say("print.kind"), x: 58, width: 50 },
  { name: say("print.pieces"), x: 112, width: 40, right: true },
  { name: say("print.hazardous"), x: 158, width: 20 },
  { name: say("print.articles"), x: 182, width: 170 },
  { name: say("print.size-in"), x: 356, width: 76 },
  { name: say("print.class"), x: 436, width: 34, right: true },
  { name: say("print.gross-lb"), x: 475.2, width: 50, right: true },
]

/**
 * A straight bill of lading on letter paper: shipper, consignee, carrier with its PRO number, terms, a row per handling
 * unit with pieces apart, class and gross weight, signatures. The fields are common practice of the trade.
 */
export async function billOfLadingPdf(model: BillOfLadingModel, madeAt: Date, say = onPaper): Promise<Buffer> {
  const paper = letterPaper(say("print.bill-of-lading"), model.number, madeAt, "mark")
  const rows = model.units.map((unit) => [
    unit.name,
    say(unit.kind === "pallet" ? "print.pallet" : "print.carton"),
    String(unit.pieces),
    "",
    unit.description,
    unit.size,
    unit.freightClass,
    massIn(unit.weight, "lb").toFixed(1),
  ])
  const y = table(paper.page, columns(say), rows, {
    ...paper,
    top: head(paper, model, say),
    newSheet: () => paper.newSheet() + 10,
  })
  signatures(paper, model, paper.room(y, 220) + 8, say)
  return paper.finish()
}

function head(paper: Paper, model: BillOfLadingModel, say: Say): number {
  const { page, left, width, top: margin } = paper
  line(page, say("print.bill-of-lading"), { x: left, y: margin - 6, width: 220, size: 22, face: "heavy" })
  line(page, say("print.short-form"), { x: left, y: margin + 20, width: 220, size: 9 })
  const barsAt = left + width - 250
  drawBars(page, barWidths("code128", model.number), {
    x: barsAt,
    y: margin - 6,
    width: 250,
    height: 34,
    widestDots: 3,
  })
  line(page, model.number, { x: barsAt, y: margin + 31, width: 250, size: 11, face: "code", align: "center" })
  rule(page, paper, margin + 48, 1.5, "#000")
  const half = width / 2 - 10
  const right = left + half + 20
  const top = margin + 56
  const shipper = block(page, say("print.shipper"), model.shipper, { x: left, y: top, width: half, bold: true })
  const consignee = block(page, say("print.consignee"), model.consignee, {
    x: left,
    y: shipper + 6,
    width: half,
    bold: true,
  })
  const facts: [string, string][] = [
    [say("print.carrier"), say("print.carrier-service", { carrier: model.carrier, service: model.service })],
    [say("print.pro-number"), model.proNumber],
    [say("print.ship-date"), model.shipDate],
    [say("print.order"), orderWords(model, say)],
    [say("print.freight-charges"), model.freightTerms],
    [
      say("print.at-delivery"),
      model.accessorials.length > 0 ? model.accessorials.join(", ") : say("print.at-delivery-none"),
    ],
  ]
  let y = top
  for (const [name, text] of facts) y = block(page, name, [text], { x: right, y, width: half, size: 10 }) + 2
  const below = Math.max(y, consignee) + 6
  rule(page, paper, below, 0.8, "#000")
  return below + 8
}

function signatures(paper: Paper, model: BillOfLadingModel, top: number, say: Say): void {
  const { page, left, width } = paper
  line(page, say("print.units-pieces", { units: model.units.length, pieces: model.pieces }), {
    x: left,
    y: top,
    width: width / 2,
    size: 12,
    face: "bold",
  })
  line(page, say("print.pounds-gross", { pounds: massIn(model.weight, "lb").toFixed(1) }), {
    x: left + width / 2,
    y: top,
    width: width / 2,
    size: 12,
    face: "bold",
    align: "right",
  })
  const y = block(page, say("print.statement"), [say("print.no-hazardous")], { x: left, y: top + 24, width }) + 34
  const third = width / 3 - 12
  ;[say("print.shipper-signs"), say("print.driver-signs"), say("print.driver-counted")].forEach((text, index) => {
    const x = left + index * (third + 18)
    rule(page, { left: x, width: third }, y, 0.8, "#000")
    line(page, text, { x, y: y + 4, width: third, size: 8 })
  })
}
