import { showSscc } from "core/barcodes/index.ts"
import {
  type LabelForm,
  type LabelModel,
  type LabelPlace,
  labelSheets,
  type SlipModel,
  sheetsOf,
} from "core/documents/index.ts"
import type { Say } from "words/index.ts"
import { onPaper, paperWords } from "words/papers.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { finished, inch, line, misfit, mm, mustFit, newDocument, type Page, phrases } from "./page.ts"
import { shortSlip } from "./shortSlip.ts"

const edge = 4 * mm
const width = 4 * inch - 2 * edge
/** Lines that the blocks of sender and receiver hold. */
export const mostLines = 8

/** What labels are drawn for: the form of their sheets, and the dots in an inch of the printer. */
export interface LabelOn {
  readonly form: LabelForm
  readonly dpi: number
  /** The first half of the first sheet is used. */
  readonly begun?: boolean
}
export const onThermal: LabelOn = { form: "4x6", dpi: 203 }

/** A label of 4 × 6 in: addresses, service, piece and weight, references, tracking symbol above the SSCC. */
export const labelPdf = async (model: LabelModel, madeAt: Date): Promise<Buffer> =>
  labelsPdf([{ model }], onThermal, madeAt)

/** A label, with the packing slip that stands below it on sheets that have room for one. */
export interface LabelAndSlip {
  readonly model: LabelModel
  readonly slip?: SlipModel | null
}

/** Labels in their form, as many on a sheet as it takes. Rejects with DoesNotFit naming every text that does not fit. */
export async function labelsPdf(labels: readonly LabelAndSlip[], on: LabelOn, madeAt: Date): Promise<Buffer> {
  const sheet = labelSheets[on.form]
  const names = labels.map((one) => one.model.packageName).join(", ")
  const page = newDocument(sheet.width, sheet.height, onPaper("print.label", { name: names }), madeAt)
  let next = 0
  sheetsOf(on.form, labels.length, on.begun).forEach((places, index) => {
    if (index > 0) page.addPage()
    for (const at of places) {
      const one = labels[next++] as LabelAndSlip
      placed(page, sheet.places[at] as LabelPlace, on.dpi, sheet.label, () =>
        drawLabel(page, one.model, { dpi: on.dpi, height: sheet.label.height }),
      )
      if (sheet.slipFrom !== null && one.slip)
        shortSlip(page, one.slip, sheet, paperWords(one.slip.language ?? "en").say)
    }
  })
  mustFit(page)
  return finished(page)
}

/** Draws something at its place on the sheet, on whole dots of the printer, so that its bars stay on them. */
function placed(page: Page, at: LabelPlace, dpi: number, label: { readonly height: number }, draw: () => void): void {
  const dot = 72 / dpi
  const snap = (value: number) => Math.round(value / dot) * dot
  page.save()
  if (at.turned) page.translate(snap(at.x + label.height), snap(at.y)).rotate(90)
  else page.translate(snap(at.x), snap(at.y))
  draw()
  page.restore()
}

/** Which texts of a label do not fit, as DoesNotFit; or have signs that can't be printed, as NotPrintable. */
export function mustFitLabel(model: LabelModel): void {
  // the lowest of all forms: what fits there fits everywhere
  const page = newDocument(4 * inch, labelSheets.a6.height, "", new Date(0))
  drawLabel(page, model, { dpi: 203, height: labelSheets.a6.height })
  mustFit(page)
}

/** Draws a label with its upper left corner at the origin. */
function drawLabel(
  page: Page,
  model: LabelModel,
  { dpi, height }: { readonly dpi: number; readonly height: number },
): void {
  const { say } = paperWords(model.language ?? "en")
  const right = edge + width
  const rule = (y: number, weight = 1) => page.moveTo(edge, y).lineTo(right, y).lineWidth(weight).stroke("#000")
  /** Widths of modules are lengths: a printer of finer dots takes more of them. */
  const dots = (at203: number) => Math.max(2, Math.round((at203 * dpi) / 203))
  const senderEnds = drawHead(page, model)
  rule(senderEnds, 2)
  drawReceiver(page, model, senderEnds, say)
  rule(edge + 137, 2)
  drawService(page, model)
  rule(edge + 174)
  model.references.slice(0, 3).forEach((reference, index) => {
    line(page, reference.name, { x: edge, y: edge + 178 + index * 10, width: 70, size: 7.5, smallest: 5.5 })
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
  line(page, say("print.label-driver"), { x: edge, y: edge + 213, width: 34, size: 7, smallest: 5, face: "bold" })
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
  // of a lower sheet it is the tracking symbol that gives way: its height has no standard
  const lower = 6 * inch - height
  const tracked = model.master
    ? say("print.tracking-master", { number: model.trackingNumber, master: model.master })
    : say("print.tracking", { number: model.trackingNumber })
  line(page, tracked, {
    x: edge,
    y: edge + 250,
    width,
    size: 10,
    smallest: 7,
    face: "code",
    align: "center",
  })
  const bars = { x: 3 * mm, width: 4 * inch - 6 * mm, dotsPerInch: dpi }
  drawBars(page, barWidths("code128", model.trackingNumber), {
    ...bars,
    y: edge + 262,
    height: 38 - lower,
    widestDots: dots(3),
  })
  if (model.test) return drawAcross(page, model.test)
  if (model.instead)
    return line(page, model.instead, {
      x: edge,
      y: height - edge - 26 * mm,
      width,
      size: 54,
      face: "heavy",
      align: "center",
      smallest: 20,
    })
  line(page, say("print.sscc", { sscc: showSscc(model.sscc) }), {
    x: edge,
    y: edge + 304 - lower,
    width,
    size: 10,
    face: "code",
    align: "center",
  })
  // at least 32 mm high and the lowest on the label: GS1 Logistic Label Guideline (height from memory)
  drawBars(page, barWidths("gs1-128", `(00)${model.sscc}`), {
    ...bars,
    y: height - edge - 32 * mm,
    height: 32 * mm,
    widestDots: dots(4),
  })
}

/** Sender, name of the package, day, weight and size; answers where the block ends. */
function drawHead(page: Page, model: LabelModel): number {
  const lines = kept(page, model.sender, "sender")
  const [size, step] = lines.length > 6 ? [6.5, 6.7] : lines.length > 4 ? [7, 7] : [7.5, 8.5]
  lines.forEach((text, index) =>
    line(page, text, { x: edge, y: edge + index * step, width: width * 0.48, size, field: "sender" }),
  )
  const beside = { x: edge + width * 0.5, width: width * 0.5, align: "right" } as const
  line(page, model.packageName, { ...beside, y: edge - 1, size: 15, face: "bold" })
  line(page, model.shipDate, { ...beside, y: edge + 17, size: 8, smallest: 6 })
  line(page, `${model.weight}   ${model.size}`, { ...beside, y: edge + 27, size: 8 })
  return edge + Math.max(45, lines.length * step + 3)
}

/** The receiver between the sender's rule and the service's, in lines as large as fit there. */
function drawReceiver(page: Page, model: LabelModel, from: number, say: Say): void {
  const lines = kept(page, model.receiver, "receiver")
  line(page, say("print.label-to"), { x: edge, y: from + 6, width: 20, size: 8, smallest: 6, face: "bold" })
  const step = Math.min(14, (edge + 137 - from - 8) / Math.max(1, lines.length))
  const size = Math.min(11.5, step * 0.86)
  lines.forEach((text, index) => {
    const last = index === lines.length - 1
    line(page, text, {
      x: edge + 22,
      y: from + 4 + index * step,
      width: width - 22,
      size: last ? Math.min(14, step) : size,
      face: last || index === 0 ? "bold" : "read",
      smallest: 7,
      field: "receiver",
    })
  })
}

/** The lines of a block, which holds so many: one more is named as what does not fit. */
function kept(page: Page, lines: readonly string[], field: string): readonly string[] {
  for (const text of lines.slice(mostLines)) misfit(page, field, text)
  return lines.slice(0, mostLines)
}

function drawService(page: Page, model: LabelModel): void {
  const left = { x: edge, width: width * 0.62 }
  const right = { x: edge + width * 0.62, width: width * 0.38, align: "right" } as const
  line(page, model.carrier, { ...left, y: edge + 141, size: 10, field: "carrier" })
  line(page, model.service, { ...left, y: edge + 151, size: 18, face: "heavy", field: "service" })
  line(page, model.routingCode, { ...right, y: edge + 139, size: 13, face: "code" })
  line(page, model.piece, { ...right, y: edge + 153, size: 17, face: "heavy" })
}

/** Words across the label, so that nobody takes it for one to ship with; its number stays readable for whoever scans it. */
function drawAcross(page: Page, words: string): void {
  page.save()
  page.translate(2 * inch, 1.75 * inch).rotate(-36)
  page.rect(-2.2 * inch, -26, 4.4 * inch, 52).fill("#fff")
  page
    .rect(-2.2 * inch, -26, 4.4 * inch, 52)
    .lineWidth(2)
    .stroke("#000")
  page.fill("#000")
  line(page, words, {
    x: -2.1 * inch,
    y: -20,
    width: 4.2 * inch,
    size: 36,
    face: "heavy",
    align: "center",
    smallest: 18,
  })
  page.restore()
}
