import { type ManifestModel, poundsColumn } from "core/documents/index.ts"
import type { Say } from "words/index.ts"
import { onPaper } from "words/papers.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { line } from "./page.ts"
import { letterPaper, type Paper } from "./paper.ts"
import { table } from "./table.ts"

const columns = (say: Say) => [
  { name: say("print.package"), x: 0, width: 66 },
  { name: say("print.tracking-number"), x: 70, width: 130, face: "code" as const },
  { name: say("print.service"), x: 204, width: 100 },
  { name: say("print.receiver"), x: 308, width: 120 },
  { name: say("print.place"), x: 432, width: 66 },
  { name: say("print.lb"), x: 485.6, width: 40, right: true },
]
const rowHeight = 14

/** A manifest on letter paper: one barcode of its number, a row per package, totals by service, the driver's line. */
export async function manifestPdf(model: ManifestModel, madeAt: Date, say = onPaper): Promise<Buffer> {
  const paper = letterPaper(say("print.manifest"), model.number, madeAt, "mark")
  const rows = model.rows.map((row) => [
    row.package,
    row.trackingNumber,
    row.service,
    row.receiver,
    row.place,
    poundsColumn(row.weight),
  ])
  const y = table(paper.page, columns(say), rows, {
    ...paper,
    top: head(paper, model, say),
    newSheet: () => paper.newSheet() + 20,
  })
  totals(paper, model, paper.room(y, 90 + model.totals.length * rowHeight) + 10, say)
  return paper.finish()
}

function head({ page, left: margin, width }: Paper, model: ManifestModel, say: Say): number {
  line(page, say("print.manifest"), { x: margin, y: margin, width: 200, size: 24, face: "heavy" })
  line(page, model.carrier, { x: margin, y: margin + 30, width: 240, size: 14, face: "bold" })
  line(page, say("print.account-door", { account: model.account, door: model.door }), {
    x: margin,
    y: margin + 48,
    width: 240,
    size: 10,
  })
  line(page, say("print.closed", { at: model.closedAt, by: model.closedBy }), {
    x: margin,
    y: margin + 62,
    width: 260,
    size: 10,
  })
  model.sender.forEach((text, index) =>
    line(page, text, { x: margin, y: margin + 80 + index * 12, width: 260, size: 9 }),
  )
  const x = margin + width - 270
  drawBars(page, barWidths("code128", model.number), { x, y: margin, width: 270, height: 56, widestDots: 3 })
  line(page, model.number, { x, y: margin + 60, width: 270, size: 12, face: "code", align: "center" })
  line(page, say("print.packages-pounds", { packages: model.packages, pounds: poundsColumn(model.weight) }), {
    x,
    y: margin + 82,
    width: 270,
    size: 16,
    face: "bold",
    align: "center",
  })
  return margin + 144
}

function totals({ page, left: margin, width }: Paper, model: ManifestModel, top: number, say: Say): void {
  let y = top
  const all = { service: say("print.all"), packages: model.packages, weight: model.weight }
  for (const total of [...model.totals, all]) {
    const face = total === all ? "bold" : "read"
    line(page, total.service, { x: margin + 204, y, width: 160, size: 10, face })
    line(page, say("print.packages-n", { n: total.packages }), {
      x: margin + 340,
      y,
      width: 90,
      size: 10,
      face,
      align: "right",
    })
    line(page, `${poundsColumn(total.weight)} lb`, {
      x: margin + width - 70,
      y,
      width: 70,
      size: 10,
      face,
      align: "right",
    })
    y += rowHeight
  }
  page
    .moveTo(margin, y + 36)
    .lineTo(margin + 220, y + 36)
    .lineWidth(0.8)
    .stroke("#000")
    .fillColor("#000")
  line(page, say("print.driver-count"), { x: margin, y: y + 40, width: 220, size: 8 })
}
