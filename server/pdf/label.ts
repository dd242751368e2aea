import { showSscc } from "core/barcodes/index.ts"
import type { LabelModel } from "core/documents/index.ts"
import type { Say } from "words/index.ts"
import { onPaper } from "words/papers.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { finished, inch, line, mm, mustFit, newDocument, type Page, phrases } from "./page.ts"

const edge = 4 * mm
const width = 4 * inch - 2 * edge

/** A parcel label of 4 × 6 in: addresses, service, piece and weight, references, tracking symbol above the SSCC. */
export const labelPdf = async (model: LabelModel, madeAt: Date, say = onPaper): Promise<Buffer> =>
  finished(drawLabel(model, madeAt, say))

/** The drawn label. Throws DoesNotFit naming every text that does not fit its field. */
export function drawLabel(model: LabelModel, madeAt: Date, say: Say = onPaper): Page {
  const page = newDocument(4 * inch, 6 * inch, say("print.label", { name: model.packageName }), madeAt)
  const right = edge + width
  const rule = (y: number, weight = 1) => page.moveTo(edge, y).lineTo(right, y).lineWidth(weight).stroke("#000")

  const sender = model.sender.slice(0, 6)
  sender.forEach((text, index) =>
    line(page, text, {
      x: edge,
      y: edge + index * (sender.length > 4 ? 7 : 8.5),
      width: width * 0.48,
      size: sender.length > 4 ? 7 : 7.5,
      field: "sender",
    }),
  )
  line(page, model.packageName, {
    x: edge + width * 0.58,
    y: edge - 1,
    width: width * 0.42,
    size: 15,
    face: "bold",
    align: "right",
  })
  line(page, model.shipDate, { x: edge + width * 0.58, y: edge + 17, width: width * 0.42, size: 8, align: "right" })
  line(page, `${model.weight}   ${model.size}`, {
    x: edge + width * 0.5,
    y: edge + 27,
    width: width * 0.5,
    size: 8,
    align: "right",
  })
  rule(edge + 45, 2)

  line(page, say("print.label-to"), { x: edge, y: edge + 51, width: 20, size: 8, face: "bold" })
  const receiver = model.receiver.slice(0, 7)
  const step = receiver.length > 6 ? 11.6 : 14
  receiver.forEach((text, index) => {
    const last = index === receiver.length - 1
    line(page, text, {
      x: edge + 22,
      y: edge + 49 + index * step,
      width: width - 22,
      size: (last ? 14 : 11.5) - (receiver.length > 6 ? 1.5 : 0),
      face: last || index === 0 ? "bold" : "read",
      smallest: 7,
      field: "receiver",
    })
  })
  rule(edge + 137, 2)

  line(page, model.carrier, { x: edge, y: edge + 141, width: width * 0.62, size: 10, field: "carrier" })
  line(page, model.service, { x: edge, y: edge + 151, width: width * 0.62, size: 18, face: "heavy", field: "service" })
  line(page, model.routingCode, {
    x: edge + width * 0.62,
    y: edge + 139,
    width: width * 0.38,
    size: 13,
    face: "code",
    align: "right",
  })
  line(page, model.piece, {
    x: edge + width * 0.62,
    y: edge + 153,
    width: width * 0.38,
    size: 17,
    face: "heavy",
    align: "right",
  })
  rule(edge + 174)

  model.references.slice(0, 3).forEach((reference, index) => {
    line(page, reference.name, { x: edge, y: edge + 178 + index * 10, width: 70, size: 7.5 })
    line(page, reference.text, {
      x: edge + 72,
      y: edge + 177 + index * 10,
      width: width - 72,
      size: 8.5,
      face: "bold",
      field: "reference",
    })
  })
  rule(edge + 209)

  line(page, say("print.label-driver"), { x: edge, y: edge + 213, width: 34, size: 7, face: "bold" })
  if (model.driver.length > 0)
    phrases(page, model.driver, {
      x: edge + 36,
      y: edge + 212,
      width: width - 36,
      lines: 3,
      size: 9.5,
      smallest: 6.5,
      face: "bold",
      field: "driver",
    })
  rule(edge + 247)

  line(page, say("print.tracking", { number: model.trackingNumber }), {
    x: edge,
    y: edge + 250,
    width,
    size: 10,
    face: "code",
    align: "center",
  })
  drawBars(page, barWidths("code128", model.trackingNumber), {
    x: 3 * mm,
    y: edge + 262,
    width: 4 * inch - 6 * mm,
    height: 38,
    widestDots: 3,
  })
  line(page, say("print.sscc", { sscc: showSscc(model.sscc) }), {
    x: edge,
    y: edge + 304,
    width,
    size: 10,
    face: "code",
    align: "center",
  })
  // at least 32 mm high and the lowest on the label: GS1 Logistic Label Guideline (height from memory)
  drawBars(page, barWidths("gs1-128", `(00)${model.sscc}`), {
    x: 3 * mm,
    y: 6 * inch - edge - 32 * mm,
    width: 4 * inch - 6 * mm,
    height: 32 * mm,
    widestDots: 4,
  })
  mustFit(page)
  return page
}
