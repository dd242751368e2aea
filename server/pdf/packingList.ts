import type { PackingListModel } from "core/papers/index.ts"
import { showEdges } from "core/units/index.ts"
import { englishPapers, type PaperWords } from "words/papers.ts"
import { kilograms } from "./invoice.ts"
import { letterPaper } from "./paper.ts"
import { boxes, heading, partyLines } from "./sheet.ts"
import { orderWords, table } from "./table.ts"

/** What is in every package, with weights and sizes, on letter paper. */
export async function packingListPdf(
  model: PackingListModel,
  madeAt: Date,
  words: PaperWords = englishPapers,
): Promise<Buffer> {
  const { say } = words
  const title = say("print.packing-list")
  const paper = letterPaper(title, model.number, madeAt, "mark", say)
  const below = boxes(paper, heading(paper, title, model.number), [
    [
      { name: say("print.shipper"), lines: partyLines(model.exporter, words) },
      { name: say("print.consignee"), lines: partyLines(model.consignee, words) },
    ],
    [
      { name: say("print.invoice-date"), lines: [words.date(model.date)] },
      { name: say("print.order"), lines: [orderWords(model, say)] },
      { name: say("print.tracking-number"), lines: [model.trackingNumber], code: true },
    ],
    [
      { name: say("print.packages"), lines: [say("print.packages-n", { n: model.handled })] },
      { name: say("print.gross-kg"), lines: [kilograms(model.gross, words)] },
      { name: say("print.net-kg"), lines: [kilograms(model.net, words)] },
    ],
  ])
  const rows = model.packages.flatMap((one) => {
    const head = [
      one.on ? say("print.package-on", { name: one.name, pallet: one.on }) : one.name,
      say(one.kind === "pallet" ? "print.pallet" : "print.carton"),
      showEdges(one.size, "cm"),
      kilograms(one.gross, words),
      kilograms(one.net, words),
    ]
    const [first, ...others] = one.contents.map((content) => [
      `${content.description} (${content.sku})`,
      words.figure(String(content.quantity)),
    ])
    return [[...head, ...(first ?? ["", ""])], ...others.map((content) => ["", "", "", "", "", ...content])]
  })
  table(
    paper.page,
    [
      { name: say("print.package"), x: 0, width: 72 },
      { name: say("print.kind"), x: 76, width: 44 },
      { name: say("print.size-cm"), x: 124, width: 76 },
      { name: say("print.gross-kg"), x: 202, width: 50, right: true },
      { name: say("print.net-kg"), x: 256, width: 50, right: true },
      { name: say("print.goods-description"), x: 314, width: 160 },
      { name: say("print.quantity"), x: 478, width: 47, right: true },
    ],
    rows,
    { ...paper, top: below + 8, newSheet: () => paper.newSheet() + 4 },
  )
  return paper.finish()
}
