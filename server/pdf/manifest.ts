import { type ManifestModel, poundsColumn } from "core/documents/index.ts"
import type { Say } from "words/index.ts"
import { onPaper } from "words/papers.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { line } from "./page.ts"
import { letterPaper, type Paper } from "./paper.ts"
import { driverCounted, driverSigns, signatures } from "./sheet.ts"
import { table } from "./table.ts"

const columns = (say: Say) => [
  { name: say("print.package"), x: 0, width: 56 },
  { name: say("print.order"), x: 60, width: 72 },
  { name: say("print.tracking-number"), x: 136, width: 104, face: "code" as const },
  { name: say("print.service"), x: 244, width: 84 },
  { name: say("print.receiver"), x: 332, width: 88 },
  { name: say("print.place"), x: 424, width: 64 },
  { name: say("print.lb"), x: 488, width: 37, right: true },
]
const rowHeight = 14

const titleOf = ({ one, supplement }: ManifestModel, say: Say): string =>
  supplement
    ? say(one ? "print.one-form-supplement" : "print.manifest-supplement")
    : say(one ? "print.one-form" : "print.manifest")

/**
 * A manifest, or the one form that stands for all packages, on letter paper: one barcode of its number, a row per
 * package, totals by service, the driver's line. The barcode of the one form is a consignment number, GS1-128 with AI 401.
 */
export async function manifestPdf(model: ManifestModel, madeAt: Date, say = onPaper): Promise<Buffer> {
  const paper = letterPaper(titleOf(model, say), model.number, madeAt, "mark")
  const rows = model.rows.map((row) => [
    row.package,
    row.order,
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
  const below = totals(paper, model, paper.room(y, 40 + model.totals.length * rowHeight) + 10, say)
  takenOver(paper, below, model, say)
  return paper.finish()
}

function head({ page, left: margin, width }: Paper, model: ManifestModel, say: Say): number {
  const below = (text: string, y: number, size: number, face: "read" | "bold" = "read") =>
    line(page, text, { x: margin, y: margin + y, width: 250, size, face })
  line(page, titleOf(model, say), { x: margin, y: margin, width: 250, size: 20, face: "heavy" })
  below(model.service ? `${model.carrier}, ${model.service}` : model.carrier, 28, 13, "bold")
  below(say("print.account-door", { account: model.account, door: model.door }), 46, 10)
  below(say("print.closed", { at: model.closedAt, by: model.closedBy }), 60, 10)
  model.sender.forEach((text, index) =>
    line(page, text, { x: margin, y: margin + 78 + index * 12, width: 260, size: 9 }),
  )
  const x = margin + width - 270
  const summary = { x, width: 270, size: 16, face: "bold" as const, align: "center" as const }
  const counted = say("print.packages-pounds", { packages: model.packages, pounds: poundsColumn(model.weight) })
  if (model.one) {
    line(page, counted, { ...summary, y: margin + 20 })
    line(page, say("print.one-form-says"), { x, y: margin + 44, width: 270, size: 9, align: "center" })
    // one scan takes all of it over: as wide as the sheet, so that its bars are as wide as on a label
    const y = margin + 132
    const bars = barWidths("gs1-128", `(401)${model.number}`)
    drawBars(page, bars, { x: margin, y, width, height: 64, widestDots: 4 })
    line(page, `(401) ${model.number}`, { x: margin, y: y + 68, width, size: 12, face: "code", align: "center" })
    return y + 94
  }
  drawBars(page, barWidths("code128", model.number), { x, y: margin, width: 270, height: 56, widestDots: 3 })
  line(page, model.number, { x, y: margin + 60, width: 270, size: 12, face: "code", align: "center" })
  line(page, counted, { ...summary, y: margin + 82 })
  return margin + 144
}

function totals({ page, left: margin, width }: Paper, model: ManifestModel, top: number, say: Say): number {
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
  return y
}

/** What is known of who took it over, and his signature. */
function takenOver(paper: Paper, from: number, model: ManifestModel, say: Say): void {
  const { driver } = model
  const known = [
    model.booking && say("print.booking-n", { number: model.booking }),
    driver?.trailer && say("print.trailer-n", { trailer: driver.trailer }),
    driver?.seal && say("print.seal-n", { seal: driver.seal }),
    driver?.arrived && say("print.arrived-at", { time: driver.arrived }),
    driver?.departed && say("print.departed-at", { time: driver.departed }),
  ].filter(Boolean)
  const y = paper.room(from + 6, 96)
  if (known.length > 0)
    line(paper.page, known.join("   "), { x: paper.left, y, width: paper.width, size: 9.5, smallest: 7 })
  signatures(paper, y + 20, [
    { role: say("print.driver-signs"), by: driverSigns(driver) },
    { role: say("print.driver-counted"), by: driverCounted(driver, say) },
  ])
}
