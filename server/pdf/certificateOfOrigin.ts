import type { CertificateOfOriginModel } from "core/papers/index.ts"
import { englishPapers, type PaperWords } from "words/papers.ts"
import { kilograms, unitOf } from "./invoice.ts"
import { letterPaper } from "./paper.ts"
import { boxes, heading, partyLines, signatureOf, signatures, statement } from "./sheet.ts"
import { table } from "./table.ts"

/** The exporter's certificate of origin on letter paper, with room for a chamber's stamp. */
export async function certificateOfOriginPdf(
  model: CertificateOfOriginModel,
  madeAt: Date,
  words: PaperWords = englishPapers,
  picture: Buffer | null = null,
): Promise<Buffer> {
  const { say } = words
  const title = say("print.certificate-of-origin")
  const paper = letterPaper(title, model.number, madeAt, "mark", say)
  let y = boxes(paper, heading(paper, title, model.number), [
    [
      { name: say("print.exporter-of-record"), lines: partyLines(model.exporter, words) },
      { name: say("print.consignee"), lines: partyLines(model.consignee, words) },
    ],
    [
      { name: say("print.country-of-origin"), lines: model.origins.map((code) => `${words.country(code)} (${code})`) },
      {
        name: say("print.carriage"),
        lines: [say("print.carrier-service", { carrier: model.carrier, service: model.service })],
      },
      {
        name: say("print.references"),
        lines: [
          `${say("print.invoice")}: ${model.invoiceNumber}`,
          `${say("print.packages-n", { n: model.packages })}, ${kilograms(model.gross, words)} kg`,
        ],
      },
    ],
  ])
  y = table(
    paper.page,
    [
      { name: say("print.line"), x: 0, width: 26 },
      { name: say("print.goods-description"), x: 30, width: 250 },
      { name: say("print.hs-code"), x: 284, width: 70, face: "code" as const },
      { name: say("print.country-of-origin"), x: 358, width: 60 },
      { name: say("print.quantity"), x: 420, width: 50, right: true },
      { name: say("print.net-kg"), x: 474, width: 51, right: true },
    ],
    model.lines.map((line) => [
      String(line.number),
      line.description,
      line.hsCode,
      line.origin,
      `${words.figure(String(line.quantity))} ${say(`print.unit-of.${unitOf(line.unit)}`)}`,
      kilograms(line.netWeight, words),
    ]),
    { ...paper, top: y + 8, newSheet: () => paper.newSheet() + 4 },
  )
  y = statement(paper, paper.room(y + 8, 120), say("print.origin-statement")) + 6
  const by = signatureOf(model, model.exporter.city, words, picture)
  signatures(paper, y, [{ role: say("print.place-date-signature"), by }, { role: say("print.certified-by") }])
  return paper.finish()
}
