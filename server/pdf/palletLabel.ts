import type { PalletLabelModel } from "core/papers/index.ts"
import { massIn } from "core/units/index.ts"
import { englishPapers, type PaperWords } from "words/papers.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { finished, inch, line, newDocument } from "./page.ts"
import { partyLines } from "./sheet.ts"

const sheet = { width: 4 * inch, height: 6 * inch }
const edge = 12

/** A label of 4 × 6 in for each pallet: where it goes, and that it is one of so many. */
export async function palletLabelPdf(
  model: PalletLabelModel,
  madeAt: Date,
  words: PaperWords = englishPapers,
): Promise<Buffer> {
  const { say } = words
  const page = newDocument(sheet.width, sheet.height, say("print.pallet-label"), madeAt, "mark")
  const width = sheet.width - 2 * edge
  model.pallets.forEach((pallet, index) => {
    if (index > 0) page.addPage()
    const rule = (y: number) =>
      page
        .moveTo(edge, y)
        .lineTo(edge + width, y)
        .lineWidth(1.5)
        .stroke("#000")
    partyLines(model.shipper, words)
      .slice(0, 4)
      .forEach((text, at) => line(page, text, { x: edge, y: edge + at * 10, width: width * 0.6, size: 8, smallest: 5 }))
    line(page, pallet.name, { x: edge, y: edge, width, size: 15, face: "bold", align: "right" })
    rule(62)
    line(page, say("print.label-to"), { x: edge, y: 68, width: 30, size: 9, face: "bold" })
    partyLines(model.consignee, words)
      .slice(0, 7)
      .forEach((text, at) =>
        line(page, text, {
          x: edge + 30,
          y: 66 + at * 17,
          width: width - 30,
          size: 14,
          face: at === 0 ? "bold" : "read",
          smallest: 6,
        }),
      )
    rule(190)
    line(page, say("print.pallet-of", { n: pallet.place, of: pallet.of }), {
      x: edge,
      y: 196,
      width,
      size: 44,
      face: "heavy",
      align: "center",
      smallest: 20,
    })
    line(
      page,
      say("print.pieces-pounds", { pieces: pallet.pieces, pounds: words.figure(massIn(pallet.weight, "lb"), 1) }),
      {
        x: edge,
        y: 250,
        width,
        size: 14,
        align: "center",
      },
    )
    rule(274)
    line(page, model.carrier, { x: edge, y: 280, width, size: 14, face: "bold" })
    if (model.purchaseOrder)
      line(page, `${say("print.your-order")}: ${model.purchaseOrder}`, {
        x: edge,
        y: 298,
        width,
        size: 10,
        smallest: 6,
      })
    line(page, `${say("print.pro-number")}: ${model.proNumber}`, { x: edge, y: 314, width, size: 12, face: "code" })
    if (model.proNumber)
      drawBars(page, barWidths("code128", model.proNumber), { x: edge, y: 330, width, height: 30, widestDots: 3 })
    line(page, model.number, { x: edge, y: 366, width, size: 12, face: "code" })
    drawBars(page, barWidths("code128", model.number), { x: edge, y: 382, width, height: 36, widestDots: 3 })
  })
  return finished(page)
}
