import type { PickListModel, PickListRow } from "core/documents/index.ts"
import type { Say } from "words/index.ts"
import { onPaper } from "words/papers.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { line } from "./page.ts"
import { letterPaper, type Paper } from "./paper.ts"
import { rule } from "./table.ts"

const rowHeight = 50

/** A pick list on letter paper: its own barcode on top, a row a stop with the barcodes of bin and item. */
export async function pickListPdf(model: PickListModel, madeAt: Date, say = onPaper): Promise<Buffer> {
  const paper = letterPaper(model.title, model.number, madeAt)
  let y = heads(paper, head(paper, model), say)
  for (const row of model.rows) {
    if (y + rowHeight > paper.bottom) y = heads(paper, paper.newSheet(), say)
    stop(paper, row, y, say)
    y += rowHeight
  }
  return paper.finish()
}

function head({ page, left, width, top }: Paper, model: PickListModel): number {
  line(page, model.title, { x: left, y: top, width: 280, size: 22, face: "heavy" })
  model.facts.forEach((fact, index) => line(page, fact, { x: left, y: top + 28 + index * 13, width: 300, size: 10 }))
  const x = left + width - 200
  drawBars(page, barWidths("code128", model.number), { x, y: top, width: 200, height: 40, widestDots: 3 })
  line(page, model.number, { x, y: top + 44, width: 200, size: 12, face: "code", align: "center" })
  return top + Math.max(66, 34 + model.facts.length * 13)
}

const columns = { box: 0, bin: 22, item: 190, quantity: 384, into: 436 } as const

function heads({ page, left, width }: Paper, y: number, say: Say): number {
  for (const [name, x, right] of [
    [say("print.bin"), columns.bin, false],
    [say("print.item"), columns.item, false],
    [say("print.take"), columns.quantity, true],
    [say("print.into"), columns.into, false],
  ] as const)
    line(page, name, { x: left + x, y, width: 44, size: 8, face: "bold", align: right ? "right" : "left" })
  rule(page, { left, width }, y + 12, 1, "#000")
  return y + 18
}

function stop({ page, left, width }: Paper, row: PickListRow, y: number, say: Say): void {
  page
    .rect(left, y + 8, 12, 12)
    .lineWidth(0.8)
    .stroke("#000")
    .fillColor("#000")
  line(page, row.bin, { x: left + columns.bin, y: y + 1, width: 160, size: 15, face: "heavy" })
  drawBars(page, barWidths("code128", row.bin), {
    x: left + columns.bin - 10,
    y: y + 19,
    width: 150,
    height: 20,
    widestDots: 2,
  })
  line(page, row.item, { x: left + columns.item, y: y + 2, width: 190, size: 9.5, face: "bold", smallest: 6 })
  line(page, row.lot ? say("print.sku-lot", { sku: row.sku, lot: row.lot }) : row.sku, {
    x: left + columns.item,
    y: y + 14,
    width: 190,
    size: 8.5,
    face: "code",
    smallest: 5,
  })
  if (row.gtin)
    drawBars(page, barWidths("gs1-128", `(01)${row.gtin}`), {
      x: left + columns.item - 12,
      y: y + 25,
      width: 176,
      height: 15,
      widestDots: 2,
    })
  line(page, String(row.quantity), {
    x: left + columns.quantity,
    y: y + 2,
    width: 44,
    size: 20,
    face: "heavy",
    align: "right",
  })
  line(page, row.cases, { x: left + columns.quantity - 20, y: y + 26, width: 64, size: 8, align: "right" })
  line(page, row.into, {
    x: left + columns.into,
    y: y + 6,
    width: width - columns.into,
    size: 12,
    face: "bold",
    smallest: 6,
  })
  rule(page, { left, width }, y + rowHeight - 5, 0.3, "#888")
}
