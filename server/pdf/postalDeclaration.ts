import { moneyText } from "core/money/index.ts"
import { type PostalDeclarationModel, smallDeclaration } from "core/papers/index.ts"
import { sumMass } from "core/units/index.ts"
import { englishPapers, type PaperWords } from "words/papers.ts"
import { kilograms } from "./invoice.ts"
import { letterPaper } from "./paper.ts"
import { boxes, heading, partyLines, signatureOf, signatures, statement } from "./sheet.ts"
import { table } from "./table.ts"

/** Categories of items that the post knows (UPU, from memory), and the purposes that go as each. */
const categories = ["gift", "documents", "sale", "sample", "return", "other"] as const
const categoryOf = (purpose: PostalDeclarationModel["purpose"]): (typeof categories)[number] =>
  purpose === "repair" || purpose === "replacement" ? "other" : purpose

/** The postal customs declarations of a shipment, CN22 or CN23, each package's on sheets of its own. */
export async function postalDeclarationPdf(
  model: PostalDeclarationModel,
  madeAt: Date,
  words: PaperWords = englishPapers,
  picture: Buffer | null = null,
): Promise<Buffer> {
  const { say } = words
  const paper = letterPaper(say("print.postal-declaration"), model.packages[0]?.name ?? "", madeAt, "mark", say)
  model.packages.forEach((one, at) => {
    if (at > 0) paper.newSheet()
    const small = one.form === "CN22"
    const total = sumMass(one.lines.map((line) => line.net))
    const row = [
      { name: say("print.sender"), lines: partyLines(model.sender, words) },
      { name: say("print.addressee"), lines: partyLines(model.consignee, words) },
    ]
    const importer = model.importer !== model.consignee && model.importer.company !== model.consignee.company
    let y = boxes(
      paper,
      heading(paper, `${say("print.postal-declaration")} ${one.form}`, one.tracking || one.name, {
        below: say(small ? "print.cn22-for" : "print.cn23-for", { kg: smallDeclaration.kg, sdr: smallDeclaration.sdr }),
      }),
      [
        row,
        ...(importer ? [[{ name: say("print.importer-of-record"), lines: partyLines(model.importer, words) }]] : []),
        [
          {
            name: say("print.category-of-item"),
            lines: categories.map((category) => say(`print.postal.${category}`)),
            ticks: categories.map((category) => category === categoryOf(model.purpose)),
          },
          {
            name: say("print.references"),
            lines: [
              `${say("print.package")}: ${one.name}`,
              ...(small ? [] : [`${say("print.invoice")}: ${model.invoiceNumber}`]),
              ...(model.licence ? [`${say("print.licence")}: ${model.licence}`] : []),
              `${say("print.gross-kg")}: ${kilograms(one.gross, words)}`,
            ],
          },
        ],
      ],
    )
    y = table(
      paper.page,
      [
        { name: say("print.goods-description"), x: 0, width: 190 },
        { name: say("print.quantity"), x: 194, width: 50, right: true },
        { name: say("print.net-kg"), x: 250, width: 60, right: true },
        { name: `${say("print.value")}, ${model.currency}`, x: 316, width: 80, right: true },
        { name: say("print.hs-code"), x: 404, width: 70, face: "code" as const },
        { name: say("print.origin"), x: 478, width: 46 },
      ],
      [
        ...one.lines.map((line) => [
          line.description,
          words.figure(String(line.quantity)),
          kilograms(line.net, words),
          words.figure(moneyText(line.value).amount),
          line.hsCode,
          line.origin,
        ]),
        [say("print.total"), "", kilograms(total, words), words.figure(moneyText(one.value).amount), "", ""],
      ],
      { ...paper, top: y + 8, newSheet: () => paper.newSheet() + 4 },
    )
    y = statement(paper, paper.room(y + 8, 110), say("print.postal-statement")) + 4
    const by = signatureOf(model, model.sender.city, words, picture)
    signatures({ ...paper, width: 260 }, y, [{ role: say("print.place-date-signature"), by }])
  })
  return paper.finish()
}
