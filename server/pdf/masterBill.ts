import type { MasterBillModel } from "core/documents/index.ts"
import { englishPapers, type PaperWords } from "words/papers.ts"
import { pounds } from "./billOfLading.ts"
import { letterPaper } from "./paper.ts"
import { boxes, driverCounted, driverSigns, heading, signatures, statement } from "./sheet.ts"
import { table } from "./table.ts"

/** A master bill of lading on letter paper: the truck's shipments with their own bills, and their sums. */
export async function masterBillPdf(
  model: MasterBillModel,
  madeAt: Date,
  words: PaperWords = englishPapers,
): Promise<Buffer> {
  const { say } = words
  const paper = letterPaper(say("print.master-bill"), model.number, madeAt, "mark", say)
  const hazardous = model.bills.some((one) => one.hazardous)
  const top = heading(paper, say("print.master-bill"), model.number, { below: say("print.master-below") })
  let y = boxes(paper, top, [
    [
      { name: say("print.shipper"), lines: model.shipper },
      {
        name: say("print.carrier"),
        lines: [
          model.carrier,
          `${say("print.ship-date")}: ${words.date(model.shipDate)}`,
          ...(model.driver?.trailer ? [say("print.trailer-n", { trailer: model.driver.trailer })] : []),
          ...(model.driver?.seal ? [say("print.seal-n", { seal: model.driver.seal })] : []),
        ],
      },
    ],
    ...(hazardous ? [[{ name: say("print.emergency-phone"), lines: [model.emergencyPhone] }]] : []),
  ])
  y = table(
    paper.page,
    [
      { name: say("print.underlying"), x: 0, width: 84, face: "code" as const },
      { name: say("print.pro-number"), x: 88, width: 100, face: "code" as const },
      { name: say("print.consignee"), x: 192, width: 130 },
      { name: say("print.place"), x: 326, width: 70 },
      { name: say("print.hazardous"), x: 400, width: 20 },
      { name: say("print.units"), x: 420, width: 30, right: true },
      { name: say("print.pieces"), x: 452, width: 34, right: true },
      { name: say("print.gross-lb"), x: 486, width: 39, right: true },
    ],
    model.bills.map((one) => [
      one.number,
      one.proNumber,
      one.consignee,
      one.place,
      one.hazardous ? "X" : "",
      words.figure(String(one.units)),
      words.figure(String(one.pieces)),
      pounds(one.weight, words),
    ]),
    { ...paper, top: y + 8, newSheet: () => paper.newSheet() + 4 },
  )
  y = paper.room(y + 8, 130)
  y = statement(
    paper,
    y,
    `${say("print.units-pieces", { units: model.units, pieces: model.pieces })}, ${say("print.pounds-gross", {
      pounds: pounds(model.weight, words),
    })}`,
    12,
  )
  signatures(paper, y + 14, [
    { role: say("print.shipper-signs") },
    { role: say("print.driver-signs"), by: driverSigns(model.driver) },
    { role: say("print.driver-counted"), by: driverCounted(model.driver, say) },
  ])
  return paper.finish()
}
