import { moneyText, unitAmount } from "core/money/index.ts"
import type { InvoiceModel } from "core/papers/index.ts"
import { type Mass, massIn } from "core/units/index.ts"
import { englishPapers, type PaperWords } from "words/papers.ts"
import { letterPaper } from "./paper.ts"
import { boxes, heading, partyLines, signatureOf, signatures, statement, sums } from "./sheet.ts"
import { orderWords, table } from "./table.ts"

const columns = ({ say }: PaperWords) => [
  { name: say("print.line"), x: 0, width: 22 },
  { name: say("print.goods-description"), x: 26, width: 158 },
  { name: say("print.hs-code"), x: 188, width: 60, face: "code" as const },
  { name: say("print.origin"), x: 252, width: 32 },
  { name: say("print.quantity"), x: 288, width: 48, right: true },
  { name: say("print.net-kg"), x: 340, width: 50, right: true },
  { name: say("print.unit-value"), x: 394, width: 60, right: true },
  { name: say("print.value"), x: 458, width: 67, right: true },
]

export const kilograms = (value: Mass, words: PaperWords): string => words.figure(massIn(value, "kg"), 2)

/**
 * The commercial invoice, or pro forma, on letter paper: parties, references, terms of delivery, goods by line with code,
 * origin, value and net weight, sums by code and origin, declaration. Fields and their order: UN Layout Key (UNECE
 * Recommendations 1 and 6).
 */
export async function invoicePdf(
  model: InvoiceModel,
  madeAt: Date,
  words: PaperWords = englishPapers,
  picture: Buffer | null = null,
): Promise<Buffer> {
  const { say } = words
  const title = say(model.proForma ? "print.pro-forma" : "print.invoice")
  const paper = letterPaper(title, model.number, madeAt, "mark", say)
  const party = (one: InvoiceModel["consignee"]) => partyLines(one, words)
  const others = (
    [
      ["print.seller", model.seller],
      ["print.buyer", model.buyer],
      ["print.importer-of-record", model.importer],
      ["print.notify", model.notify],
    ] as const
  ).flatMap(([name, one]) => (one ? [{ name: say(name), lines: party(one) }] : []))
  const two = <T>(all: readonly T[]): T[][] => (all.length === 0 ? [] : [all.slice(0, 2), ...two(all.slice(2))])
  const below = boxes(paper, heading(paper, title, model.number), [
    [
      { name: say("print.exporter-of-record"), lines: party(model.exporter) },
      {
        name: say("print.references-and-dates"),
        lines: [
          `${say("print.invoice-date")}: ${words.date(model.date)}`,
          `${say("print.order")}: ${orderWords(model, say)}`,
          `${say("print.tracking-number")}: ${model.trackingNumber}`,
          ...(model.oneStop ? [`${say("print.one-stop")}: ${model.oneStop}`] : []),
          ...(model.filing ? [`${say("print.export-filing")}: ${model.filing}`] : []),
          ...(model.licence ? [`${say("print.licence")}: ${model.licence}`] : []),
        ],
      },
    ],
    [
      { name: say(model.importer ? "print.consignee" : "print.importer"), lines: party(model.consignee) },
      {
        name: say("print.terms-and-carriage"),
        lines: [
          `${say("print.delivery-terms")}: ${model.incoterm} ${model.place} (Incoterms 2020)`,
          `${say("print.carriage")}: ${say("print.carrier-service", { carrier: model.carrier, service: model.service })}`,
          `${say("print.dispatch-country")}: ${words.country(model.originCountry)}`,
          `${say("print.destination-country")}: ${words.country(model.destinationCountry)}`,
          `${say("print.export-reason")}: ${say(`print.purpose.${model.purpose}`)}`,
        ],
      },
    ],
    ...two(others),
  ])
  const goods = model.lines.map((one) => [
    String(one.number),
    `${one.description} (${one.sku})`,
    one.hsCode,
    one.origin,
    `${words.figure(String(one.quantity))} ${say(`print.unit-of.${unitOf(one.unit)}`)}`,
    kilograms(one.netWeight, words),
    words.figure(unitAmount(one.unitValue)),
    words.figure(moneyText(one.value).amount),
  ])
  const newSheet = () => paper.newSheet() + 4
  let y = table(paper.page, columns(words), goods, { ...paper, top: below + 8, newSheet })
  const money = (value: InvoiceModel["total"]) => words.money(moneyText(value).amount, model.currency)
  const charges = model.charges.map(({ kind, amount }) => [say(`print.charge.${kind}`), money(amount)] as const)
  const rows = [
    [say("print.goods"), money(model.goods)] as const,
    ...charges,
    [say("print.total"), money(model.total)] as const,
  ]
  y = paper.room(y + 6, rows.length * 14 + 24)
  const packages = [
    say(model.kindOfPackages === "pallet" ? "print.pallets-n" : "print.cartons-n", { n: model.packages }),
    say("print.gross-weight", { weight: `${kilograms(model.grossWeight, words)} kg` }),
    say("print.net-weight", { weight: `${kilograms(model.netWeight, words)} kg` }),
  ]
  const left = statement({ ...paper, width: paper.width / 2 - 20 }, y, packages.join(" · "), 9.5)
  y = Math.max(left, sums(paper, y, rows)) + 4
  if (model.sums.length > 1) {
    y = paper.room(y, 34 + 14)
    y = table(
      paper.page,
      [
        { name: say("print.sums-by-code"), x: 0, width: 130, face: "code" as const },
        { name: say("print.origin"), x: 140, width: 60 },
        { name: say("print.quantity"), x: 210, width: 80, right: true },
        { name: say("print.net-kg"), x: 300, width: 90, right: true },
        { name: say("print.value"), x: 400, width: 125, right: true },
      ],
      model.sums.map((one) => [
        one.hsCode,
        one.origin,
        words.figure(String(one.quantity)),
        kilograms(one.netWeight, words),
        words.figure(moneyText(one.value).amount),
      ]),
      { ...paper, top: y, newSheet },
    )
  }
  y = paper.room(y + 8, 110)
  if (model.remarks) y = statement(paper, y, model.remarks) + 4
  y = statement(paper, y, say(model.proForma ? "print.pro-forma-declaration" : "print.declaration")) + 4
  const by = signatureOf(model, model.exporter.city, words, picture)
  signatures({ ...paper, width: 260 }, y, [{ role: say("print.place-date-signature"), by }])
  return paper.finish()
}

const units = ["C62", "KGM", "GRM", "LTR", "MTR", "MTK", "PR", "SET", "MIL"] as const
export const unitOf = (unit: string): (typeof units)[number] => units.find((one) => one === unit) ?? "C62"
