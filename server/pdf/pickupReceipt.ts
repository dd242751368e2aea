import type { PickupReceiptModel } from "core/documents/index.ts"
import { onPaper } from "words/papers.ts"
import { letterPaper } from "./paper.ts"
import { boxes, heading, signatures, statement } from "./sheet.ts"
import { table } from "./table.ts"

/** A receipt that is signed by whoever fetches goods, or is handed them, on letter paper. */
export async function pickupReceiptPdf(model: PickupReceiptModel, madeAt: Date, say = onPaper): Promise<Buffer> {
  const title = say("print.pickup-receipt")
  const paper = letterPaper(title, model.number, madeAt, "mark")
  const below = boxes(paper, heading(paper, title, model.number), [
    [
      { name: say("print.shipper"), lines: model.shipper },
      { name: say("print.receiver"), lines: model.receiver },
    ],
    [
      { name: say("print.order"), lines: model.orders },
      { name: say("print.handed-over"), lines: [model.at, model.by] },
      { name: say("print.identity"), lines: [model.identity, model.note].filter(Boolean) },
    ],
  ])
  const y = table(
    paper.page,
    [
      { name: say("print.package"), x: 0, width: 66 },
      { name: say("print.unit-number"), x: 70, width: 130, face: "code" as const },
      { name: say("print.goods"), x: 204, width: 270 },
      { name: say("print.lb"), x: 485.6, width: 40, right: true },
    ],
    model.packages.map((one) => [one.name, one.sscc, one.contents, one.lb]),
    { ...paper, top: below + 8, newSheet: () => paper.newSheet() + 4 },
  )
  const end = statement(paper, paper.room(y + 8, 110), say("print.received-complete"), 9.5)
  signatures(paper, end + 10, [
    {
      role: say("print.received-by"),
      by: { name: model.name, title: "", placeAndDate: model.at, strokes: model.strokes },
    },
    { role: say("print.handed-by"), by: { name: model.by, title: "", placeAndDate: "" } },
  ])
  return paper.finish()
}
