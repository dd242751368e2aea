import type { LogisticLabelModel } from "core/documents/index.ts"
import type { Say } from "words/index.ts"
import { paperWords } from "words/papers.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { finished, inch, line, mm, newDocument, type Page } from "./page.ts"

const size = { width: 4 * inch, height: 6 * inch }
const edge = 10
const wide = size.width - 2 * edge

/**
 * Logistic labels of 4 × 6 in, one a page: sender and receiver, text with the data, then the symbols, that of the SSCC
 * lowest (GS1 Logistic Label Guideline; bars at least 32 mm high, from memory).
 */
export async function logisticLabelsPdf(models: readonly LogisticLabelModel[], madeAt: Date): Promise<Buffer> {
  const sayOf = (model: LogisticLabelModel | undefined): Say => paperWords(model?.language ?? "en").say
  const page = newDocument(
    size.width,
    size.height,
    sayOf(models[0])("print.logistic-label", { sscc: models[0]?.sscc ?? "" }),
    madeAt,
  )
  models.forEach((model, index) => {
    if (index > 0) page.addPage()
    label(page, model, sayOf(model))
  })
  return finished(page)
}

function label(page: Page, model: LogisticLabelModel, say: Say): void {
  lines(page, say("print.from"), model.sender, edge, 10, wide * 0.44)
  lines(page, say("print.to"), model.receiver, edge + wide * 0.48, 10, wide * 0.52)
  rule(page, 68)
  model.facts.forEach((fact, index) => {
    const x = edge + (index % 2) * (wide / 2)
    const y = 73 + Math.floor(index / 2) * 23
    line(page, fact.name, { x, y, width: wide / 2 - 6, size: 6.5 })
    line(page, fact.text, { x, y: y + 7.5, width: wide / 2 - 6, size: 11, face: "bold", smallest: 6 })
  })
  const below = 75 + Math.ceil(model.facts.length / 2) * 23
  rule(page, below)
  // the SSCC's bars are as high as the guideline asks; the others share what is left above it
  const high = 32 * mm
  const lowest = size.height - high - 20
  const rows = model.symbols.length
  const each = rows > 0 ? (lowest - below - 6) / rows : 0
  model.symbols.forEach((symbol, index) => {
    const y = below + 5 + index * each
    const bars = Math.min(high, each - 14)
    drawBars(page, barWidths("gs1-128", symbol), { x: 2, y, width: size.width - 4, height: bars, widestDots: 4 })
    line(page, symbol, { x: edge, y: y + bars + 1.5, width: wide, size: 7.5, align: "center", smallest: 4 })
  })
  const sscc = `(00)${model.sscc}`
  drawBars(page, barWidths("gs1-128", sscc), { x: 2, y: lowest, width: size.width - 4, height: high, widestDots: 4 })
  line(page, sscc, { x: edge, y: lowest + high + 3, width: wide, size: 11, face: "code", align: "center" })
}

function lines(page: Page, title: string, texts: readonly string[], x: number, y: number, width: number): void {
  line(page, title, { x, y, width, size: 6.5 })
  texts
    .slice(0, 5)
    .forEach((text, index) =>
      line(page, text, { x, y: y + 8 + index * 9.5, width, size: 8, face: index === 0 ? "bold" : "read", smallest: 4 }),
    )
}

function rule(page: Page, y: number): void {
  page
    .moveTo(edge, y)
    .lineTo(size.width - edge, y)
    .lineWidth(0.8)
    .stroke("#000")
    .fillColor("#000")
}
