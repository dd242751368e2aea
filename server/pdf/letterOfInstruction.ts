import { moneyText } from "core/money/index.ts"
import type { LetterOfInstructionModel } from "core/papers/index.ts"
import { englishPapers, type PaperWords } from "words/papers.ts"
import { kilograms, unitOf } from "./invoice.ts"
import { letterPaper } from "./paper.ts"
import { boxes, heading, partyLines, signatureOf, signatures, statement } from "./sheet.ts"
import { table } from "./table.ts"

/** The shipper's letter of instruction to whoever forwards freight abroad, on letter paper. */
export async function letterOfInstructionPdf(
  model: LetterOfInstructionModel,
  madeAt: Date,
  words: PaperWords = englishPapers,
  picture: Buffer | null = null,
): Promise<Buffer> {
  const { say } = words
  const title = say("print.letter-of-instruction")
  const paper = letterPaper(title, model.number, madeAt, "mark", say)
  const yes = (on: boolean) => say(on ? "print.yes" : "print.no")
  let y = boxes(paper, heading(paper, title, model.number), [
    [
      { name: say("print.exporter-of-record"), lines: partyLines(model.exporter, words) },
      {
        name: say("print.forwarder"),
        lines: [
          say("print.carrier-service", { carrier: model.carrier, service: model.service }),
          `${say("print.tracking-number")}: ${model.trackingNumber}`,
          `${say("print.invoice-date")}: ${words.date(model.date)}`,
        ],
      },
    ],
    [
      { name: say("print.ultimate-consignee"), lines: partyLines(model.consignee, words) },
      { name: say("print.notify"), lines: model.notify ? partyLines(model.notify, words) : ["–"] },
    ],
    [
      { name: say("print.delivery-terms"), lines: [`${model.incoterm} ${model.place} (Incoterms 2020)`] },
      { name: say("print.freight-charges"), lines: [say(`print.terms.${model.payer}`)] },
      { name: say("print.destination-country"), lines: [words.country(model.destination)] },
    ],
    [
      { name: say("print.packages"), lines: [say("print.packages-n", { n: model.packages })] },
      { name: say("print.gross-kg"), lines: [kilograms(model.gross, words)] },
      { name: say("print.hazardous-goods"), lines: [yes(model.hazardous)] },
      { name: say("print.licence"), lines: [model.licence] },
      { name: say("print.export-filing"), lines: [model.filing || "–"] },
    ],
  ])
  y = table(
    paper.page,
    [
      { name: say("print.domestic-foreign"), x: 0, width: 26 },
      { name: say("print.goods-description"), x: 30, width: 196 },
      { name: say("print.schedule-b"), x: 230, width: 74, face: "code" as const },
      { name: say("print.quantity"), x: 308, width: 56, right: true },
      { name: say("print.net-kg"), x: 368, width: 60, right: true },
      { name: say("print.value"), x: 432, width: 93, right: true },
    ],
    model.lines.map((line) => [
      line.domestic ? "D" : "F",
      line.description,
      line.hsCode,
      `${words.figure(String(line.quantity))} ${say(`print.unit-of.${unitOf(line.unit)}`)}`,
      kilograms(line.netWeight, words),
      words.money(moneyText(line.value).amount, line.value.currency),
    ]),
    { ...paper, top: y + 8, newSheet: () => paper.newSheet() + 4 },
  )
  y = statement(paper, paper.room(y + 8, 120), say("print.instruction-statement")) + 6
  const by = signatureOf(model, model.exporter.city, words, picture)
  signatures({ ...paper, width: 260 }, y, [{ role: say("print.place-date-signature"), by }])
  return paper.finish()
}
