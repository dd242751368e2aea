import { type LabelForm, labelSheets } from "core/documents/index.ts"
import type { Say } from "words/index.ts"
import { onPaper } from "words/papers.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { finished, inch, line, mm, newDocument } from "./page.ts"

/**
 * A page by which one sees whether a printer is set up right: a frame 3 mm from the edge, an inch to lay a ruler on, and
 * a symbol whose bars are whole dots of the printer.
 */
export function testPagePdf(
  printer: { readonly name: string; readonly uri: string; readonly form: LabelForm; readonly dpi: number },
  madeAt: Date,
  say: Say = onPaper,
): Promise<Buffer> {
  const { width, height, media } = labelSheets[printer.form]
  const page = newDocument(width, height, say("print.test-page"), madeAt, "mark")
  const edge = 3 * mm
  page
    .rect(edge, edge, width - 2 * edge, height - 2 * edge)
    .lineWidth(1)
    .stroke("#000")
  const left = 8 * mm
  const wide = width - 2 * left
  line(page, say("print.test-page"), { x: left, y: 8 * mm, width: wide, size: 20, face: "heavy" })
  const facts = [printer.name, printer.uri, `${say(`form.${printer.form}`)}, ${media}`, `${printer.dpi} dpi`]
  facts.forEach((text, at) => line(page, text, { x: left, y: 18 * mm + at * 14, width: wide, size: 11, smallest: 5 }))
  const y = 18 * mm + 72
  page
    .moveTo(left, y)
    .lineTo(left + inch, y)
    .lineWidth(2)
    .stroke("#000")
  for (const x of [left, left + inch])
    page
      .moveTo(x, y - 6)
      .lineTo(x, y + 6)
      .lineWidth(1)
      .stroke("#000")
  line(page, say("print.test-inch"), { x: left + inch + 8, y: y - 5, width: wide - inch - 8, size: 9 })
  drawBars(page, barWidths("code128", "TEST-PAGE"), {
    x: left,
    y: y + 20,
    width: Math.min(wide, 3.5 * inch),
    height: 40,
    dotsPerInch: printer.dpi,
    widestDots: Math.max(2, Math.round((3 * printer.dpi) / 203)),
  })
  return finished(page)
}
