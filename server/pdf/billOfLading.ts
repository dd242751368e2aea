import type { BillOfLadingModel } from "core/documents/index.ts"
import { massIn } from "core/units/index.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { line } from "./page.ts"
import { letterPaper, type Paper } from "./paper.ts"
import { block, rule, table } from "./table.ts"

const columns = [
  { name: "Unit", x: 0, width: 54 },
  { name: "Kind", x: 58, width: 50 },
  { name: "Pieces", x: 112, width: 40, right: true },
  { name: "HM", x: 158, width: 20 },
  { name: "Description of articles", x: 182, width: 170 },
  { name: "Size, in", x: 356, width: 76 },
  { name: "Class", x: 436, width: 34, right: true },
  { name: "Gross lb", x: 475.2, width: 50, right: true },
]

/**
 * A straight bill of lading on letter paper: shipper, consignee, carrier with its PRO number, terms, a row per handling
 * unit with pieces apart, class and gross weight, signatures. The fields are common practice of the trade.
 */
export async function billOfLadingPdf(model: BillOfLadingModel, madeAt: Date): Promise<Buffer> {
  const paper = letterPaper("Bill of lading", model.number, madeAt, "mark")
  const rows = model.units.map((unit) => [
    unit.name,
    unit.kind,
    String(unit.pieces),
    "",
    unit.description,
    unit.size,
    unit.freightClass,
    massIn(unit.weight, "lb").toFixed(1),
  ])
  const y = table(paper.page, columns, rows, {
    ...paper,
    top: head(paper, model),
    newSheet: () => paper.newSheet() + 10,
  })
  signatures(paper, model, paper.room(y, 220) + 8)
  return paper.finish()
}

function head(paper: Paper, model: BillOfLadingModel): number {
  const { page, left, width, top: margin } = paper
  line(page, "Bill of lading", { x: left, y: margin - 6, width: 220, size: 22, face: "heavy" })
  line(page, "Straight, short form, not negotiable", { x: left, y: margin + 20, width: 220, size: 9 })
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
  const shipper = block(page, "Shipper", model.shipper, { x: left, y: top, width: half, bold: true })
  const consignee = block(page, "Consignee", model.consignee, { x: left, y: shipper + 6, width: half, bold: true })
  const facts: [string, string][] = [
    ["Carrier", `${model.carrier}, ${model.service}`],
    ["PRO number", model.proNumber],
    ["Ship date", model.shipDate],
    ["Order", [model.orderNumber, model.purchaseOrder].filter(Boolean).join(", their order ")],
    ["Freight charges", model.freightTerms],
    ["At delivery", model.accessorials.length > 0 ? model.accessorials.join(", ") : "dock, no special service"],
  ]
  let y = top
  for (const [name, text] of facts) y = block(page, name, [text], { x: right, y, width: half, size: 10 }) + 2
  const below = Math.max(y, consignee) + 6
  rule(page, paper, below, 0.8, "#000")
  return below + 8
}

function signatures(paper: Paper, model: BillOfLadingModel, top: number): void {
  const { page, left, width } = paper
  line(page, `${model.units.length} handling units, ${model.pieces} pieces`, {
    x: left,
    y: top,
    width: width / 2,
    size: 12,
    face: "bold",
  })
  line(page, `${massIn(model.weight, "lb").toFixed(1)} lb gross`, {
    x: left + width / 2,
    y: top,
    width: width / 2,
    size: 12,
    face: "bold",
    align: "right",
  })
  const note =
    "No hazardous material is in this shipment. The goods are in apparent good order and condition, marked and packed as described above."
  const y = block(page, "Shipper's statement", [note], { x: left, y: top + 24, width }) + 34
  const third = width / 3 - 12
  ;["Shipper, date", "Driver, date", "Handling units counted by the driver"].forEach((text, index) => {
    const x = left + index * (third + 18)
    rule(page, { left: x, width: third }, y, 0.8, "#000")
    line(page, text, { x, y: y + 4, width: third, size: 8 })
  })
}
