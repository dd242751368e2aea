import { showSscc } from "core/barcodes/index.ts"
import type { LabelModel } from "core/documents/index.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { finished, inch, line, mm, mustFit, newDocument, type Page } from "./page.ts"

const edge = 4 * mm
const width = 4 * inch - 2 * edge

/** A parcel label of 4 × 6 in: addresses, service, piece and weight, references, tracking symbol above the SSCC. */
export const labelPdf = async (model: LabelModel, madeAt: Date): Promise<Buffer> => finished(drawLabel(model, madeAt))

/** The drawn label. Throws DoesNotFit naming every text that does not fit its field. */
export function drawLabel(model: LabelModel, madeAt: Date): Page {
  const page = newDocument(4 * inch, 6 * inch, `Label ${model.packageName}`, madeAt)
  const right = edge + width
  const rule = (y: number, weight = 1) => page.moveTo(edge, y).lineTo(right, y).lineWidth(weight).stroke("#000")

  model.sender.slice(0, 5).forEach((text, index) =>
    line(page, text, {
      x: edge,
      y: edge + index * (model.sender.length > 4 ? 7.4 : 8.5),
      width: width * 0.48,
      size: 7.5,
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
  rule(edge + 38, 2)

  line(page, "TO", { x: edge, y: edge + 44, width: 20, size: 8, face: "bold" })
  const receiver = model.receiver.slice(0, 6)
  receiver.forEach((text, index) => {
    const last = index === receiver.length - 1
    line(page, text, {
      x: edge + 22,
      y: edge + 42 + index * 15,
      width: width - 22,
      size: last ? 15 : 12,
      face: last || index === 0 ? "bold" : "read",
      smallest: 7,
      field: "receiver",
    })
  })
  rule(edge + 136, 2)

  line(page, model.carrier, { x: edge, y: edge + 141, width: width * 0.62, size: 11, field: "carrier" })
  line(page, model.service, { x: edge, y: edge + 152, width: width * 0.62, size: 20, face: "heavy", field: "service" })
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
    y: edge + 154,
    width: width * 0.38,
    size: 18,
    face: "heavy",
    align: "right",
  })
  rule(edge + 178)

  model.references.slice(0, 3).forEach((reference, index) => {
    line(page, reference.name, { x: edge, y: edge + 183 + index * 11, width: 70, size: 8 })
    line(page, reference.text, {
      x: edge + 72,
      y: edge + 183 + index * 11,
      width: width - 72,
      size: 9,
      face: "bold",
      field: "reference",
    })
  })
  rule(edge + 218)

  line(page, `Tracking  ${model.trackingNumber}`, {
    x: edge,
    y: edge + 222,
    width,
    size: 10,
    face: "code",
    align: "center",
  })
  drawBars(page, barWidths("code128", model.trackingNumber), {
    x: 3 * mm,
    y: edge + 236,
    width: 4 * inch - 6 * mm,
    height: 54,
    widestDots: 3,
  })
  line(page, `SSCC  ${showSscc(model.sscc)}`, {
    x: edge,
    y: edge + 298,
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
