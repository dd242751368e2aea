import type { SlipModel } from "core/documents/index.ts"
import type { Say } from "words/index.ts"
import { paperWords } from "words/papers.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { line } from "./page.ts"
import { letterPaper, type Paper } from "./paper.ts"
import { block, type Column, table } from "./table.ts"

/** Packing slips on letter paper, each beginning on a sheet of its own, in one file. */
export async function slipsPdf(models: readonly SlipModel[], title: string, madeAt: Date): Promise<Buffer> {
  const sayOf = (model: SlipModel | undefined): Say => paperWords(model?.language ?? "en").say
  const say = sayOf(models[0])
  const paper = letterPaper(say("print.slip"), title, madeAt, "refuse", say)
  models.forEach((model, index) => {
    if (index > 0) paper.newSheet()
    slip(paper, model, sayOf(model))
  })
  return paper.finish()
}

function slip(paper: Paper, model: SlipModel, say: Say): void {
  const { page, left, width, top } = paper
  model.letterhead.forEach((text, index) =>
    line(page, text, {
      x: left,
      y: top + (index === 0 ? 0 : 16 + index * 11),
      width: 300,
      size: index === 0 ? 16 : 9,
      face: index === 0 ? "heavy" : "read",
    }),
  )
  const right = left + width - 180
  line(page, say("print.slip"), { x: right, y: top, width: 180, size: 16, face: "bold", align: "right" })
  drawBars(page, barWidths("code128", model.number), { x: right, y: top + 22, width: 180, height: 30, widestDots: 3 })
  line(page, model.number, { x: right, y: top + 55, width: 180, size: 11, face: "code", align: "center" })
  if (model.piece)
    line(page, model.piece, { x: right, y: top + 70, width: 180, size: 10, face: "bold", align: "right" })
  let y = top + Math.max(92, 30 + model.letterhead.length * 11)
  const below = block(page, say("print.ship-to"), model.shipTo, { x: left, y, width: 250, size: 10, bold: true })
  let factsY = y
  for (const fact of model.facts) {
    line(page, fact.name, { x: left + 280, y: factsY, width: 90, size: 8.5 })
    line(page, fact.text, { x: left + 372, y: factsY, width: width - 372, size: 9.5, face: "bold", smallest: 6 })
    factsY += 13
  }
  y = Math.max(below, factsY) + 14
  y = table(
    page,
    columnsOf(model, say),
    model.rows.map((row) => cells(model, row, say)),
    { left, width, top: y, bottom: paper.bottom, newSheet: paper.newSheet },
  )
  if (model.message) block(page, "", model.message.split("\n"), { x: left, y: paper.room(y, 60) + 12, width, size: 10 })
}

/** Columns from the right, as many as the slip shows; the description, with its lots, takes what is left. */
function columnsOf(model: SlipModel, say: Say): Column[] {
  const any = (of: (row: SlipModel["rows"][number]) => number) => model.rows.some((row) => of(row) > 0)
  const figures: { name: string; width: number }[] = [
    { name: say("print.ordered"), width: 40 },
    { name: say("print.here"), width: 32 },
    ...(any((row) => row.elsewhere) ? [{ name: say("print.elsewhere"), width: 48 }] : []),
    ...(any((row) => row.backOrdered) ? [{ name: say("print.to-come"), width: 42 }] : []),
    ...(any((row) => row.cancelled) ? [{ name: say("print.canceled"), width: 48 }] : []),
    ...(model.withPrices ? [{ name: say("print.price"), width: 46 }] : []),
  ]
  const room = 525.6 - figures.reduce((sum, one) => sum + one.width + 4, 0)
  const columns: Column[] = [
    { name: "", x: 0, width: 16 },
    { name: say("print.item"), x: 18, width: 82, face: "code" },
    { name: say("print.description"), x: 104, width: room - 108 },
  ]
  let x = room
  for (const one of figures) {
    columns.push({ name: one.name, x, width: one.width, right: true })
    x += one.width + 4
  }
  return columns
}

function cells(model: SlipModel, row: SlipModel["rows"][number], say: Say): string[] {
  const count = (n: number) => (n > 0 ? String(n) : "")
  const some = (of: (one: SlipModel["rows"][number]) => number) =>
    model.rows.some((one) => of(one) > 0) ? [count(of(row))] : []
  return [
    row.line,
    row.sku,
    model.withLots && row.lots
      ? say("print.description-lot", { description: row.description, lot: row.lots })
      : row.description,
    String(row.ordered),
    String(row.shipped),
    ...some((one) => one.elsewhere),
    ...some((one) => one.backOrdered),
    ...some((one) => one.cancelled),
    ...(model.withPrices ? [row.price] : []),
  ]
}
