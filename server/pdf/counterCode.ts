import type { Say } from "words/index.ts"
import { onPaper } from "words/papers.ts"
import { barWidths, drawBars, drawQr } from "./barcode.ts"
import { inch, line } from "./page.ts"
import { letterPaper } from "./paper.ts"

/** What stands on the page by which a carrier's counter prints labels. */
export interface CounterCodeModel {
  readonly code: string
  readonly carrier: string
  readonly service: string
  readonly order: string
  readonly packages: readonly string[]
  readonly receiver: readonly string[]
  readonly shipDate: string
}

/** A page that is shown at the carrier's counter, on paper or on a telephone: the code as QR Code and Code 128. */
export function counterCodePdf(model: CounterCodeModel, madeAt: Date, say: Say = onPaper): Promise<Buffer> {
  const paper = letterPaper(say("print.counter"), model.order, madeAt)
  const { page, left, width, top } = paper
  line(page, say("print.counter"), { x: left, y: top, width, size: 22, face: "heavy" })
  line(page, say("print.counter-show", { carrier: model.carrier }), { x: left, y: top + 34, width, size: 12 })
  drawQr(page, model.code, { x: left, y: top + 60, size: 2.6 * inch })
  const right = left + 2.9 * inch
  const beside = { x: right, width: width - 2.9 * inch }
  line(page, model.code, { ...beside, y: top + 78, size: 20, face: "code" })
  drawBars(page, barWidths("code128", model.code), {
    ...beside,
    y: top + 108,
    height: 44,
    dotsPerInch: 300,
    widestDots: 5,
  })
  const facts = [
    `${model.carrier}, ${model.service}`,
    `${say("print.our-order")} ${model.order}`,
    say("print.ships", { day: model.shipDate }),
    ...model.receiver,
  ]
  facts.forEach((text, at) => line(page, text, { ...beside, y: top + 168 + at * 15, size: 11, smallest: 6 }))
  let y = top + 60 + 2.6 * inch + 24
  line(page, say("print.counter-packages", { n: model.packages.length }), { x: left, y, width, size: 12, face: "bold" })
  for (const name of model.packages) {
    y = paper.room(y + 16, 16)
    line(page, name, { x: left, y, width, size: 12 })
  }
  return paper.finish()
}
