import type { RoundSheetModel } from "core/documents/index.ts"
import { onPaper } from "words/papers.ts"
import { line } from "./page.ts"
import { letterPaper } from "./paper.ts"
import { heading } from "./sheet.ts"
import { broken, rule } from "./table.ts"

/** Height of a stop at least: room for a signature. */
const leastHeight = 46

/** The stops of a round of our own vehicle on letter paper, each with room for who took the goods to sign. */
export async function roundSheetPdf(model: RoundSheetModel, madeAt: Date, say = onPaper): Promise<Buffer> {
  const title = say("print.round-sheet")
  const paper = letterPaper(title, model.number, madeAt, "mark")
  const top = heading(paper, title, model.number)
  line(
    paper.page,
    say("print.round-stops", { door: model.door, day: model.day, n: model.stops.length, miles: model.miles }),
    { x: paper.left, y: top, width: paper.width, size: 10 },
  )
  const { page } = paper
  const columns = { stop: 0, to: 34, packages: 236, lb: 340, sign: 400 }
  const heads = (y: number): number => {
    const head = (text: string, x: number, width: number, align: "left" | "right" = "left") =>
      line(page, text, { x: paper.left + x, y, width, size: 8, face: "bold", align })
    head(say("print.stop"), columns.stop, 30)
    head(say("print.deliver-to"), columns.to, 190)
    head(say("print.package"), columns.packages, 100)
    head(say("print.lb"), columns.lb, 44, "right")
    head(say("print.received-sign"), columns.sign, paper.width - columns.sign)
    rule(page, paper, y + 12, 1, "#000")
    return y + 18
  }
  let y = heads(top + 22)
  for (const stop of model.stops) {
    const address = stop.lines.flatMap((text) => broken(page, text, 190, "read", 9))
    const packages = broken(page, stop.packages.join(" "), 100, "code", 9)
    const height = Math.max(leastHeight, Math.max(address.length, packages.length) * 11 + 6)
    if (y + height > paper.bottom) y = heads(paper.newSheet() + 4)
    line(page, String(stop.position), { x: paper.left, y, width: 30, size: 16, face: "heavy" })
    for (const [at, text] of address.entries())
      line(page, text, {
        x: paper.left + columns.to,
        y: y + at * 11,
        width: 190.5,
        size: 9,
        face: at === 0 ? "bold" : "read",
      })
    for (const [at, text] of packages.entries())
      line(page, text, { x: paper.left + columns.packages, y: y + at * 11, width: 100.5, size: 9, face: "code" })
    line(page, stop.lb, { x: paper.left + columns.lb, y, width: 44, size: 9, align: "right" })
    // where whoever takes the goods signs
    rule(page, { left: paper.left + columns.sign, width: paper.width - columns.sign }, y + height - 8, 0.6, "#000")
    rule(page, paper, y + height, 0.3, "#888")
    y += height + 6
  }
  return paper.finish()
}
