import type { BillOfLadingModel } from "core/papers/index.ts"
import { type Mass, massIn, showEdges } from "core/units/index.ts"
import { sayCode } from "words/index.ts"
import { englishPapers, type PaperWords } from "words/papers.ts"
import { line } from "./page.ts"
import { letterPaper } from "./paper.ts"
import { boxes, heading, partyLines, signatures, statement } from "./sheet.ts"
import { orderWords, table } from "./table.ts"

export const pounds = (value: Mass, words: PaperWords): string => words.figure(massIn(value, "lb"), 1)

/**
 * A straight bill of lading on letter paper: shipper, consignee, carrier with its number and code, who is billed, a row for
 * each handling unit with its pieces apart, hazardous goods with their description, statements, signatures. The fields are
 * common practice of the trade; the hazardous entries follow 49 CFR 172.202.
 */
export async function billOfLadingPdf(
  model: BillOfLadingModel,
  madeAt: Date,
  words: PaperWords = englishPapers,
): Promise<Buffer> {
  const { say } = words
  const { lading } = model
  const title = say("print.bill-of-lading")
  const paper = letterPaper(title, model.number, madeAt, "mark", say)
  const paid = model.account
    ? say("print.freight-account", { terms: say(`print.terms.${model.payer}`), account: model.account })
    : say(`print.terms.${model.payer}`)
  let y = boxes(paper, heading(paper, title, model.number, { below: say("print.short-form") }), [
    [
      { name: say("print.shipper"), lines: partyLines(model.shipper, words) },
      {
        name: say("print.carrier"),
        lines: [
          say("print.carrier-service", { carrier: model.carrier, service: model.service }),
          ...(model.carrierCode ? [say("print.carrier-code", { code: model.carrierCode })] : []),
          `${say("print.pro-number")}: ${model.proNumber || "____________________"}`,
          `${say("print.ship-date")}: ${words.date(model.shipDate)}`,
          `${say("print.order")}: ${orderWords(model, say)}`,
        ],
      },
    ],
    [
      { name: say("print.consignee"), lines: partyLines(model.consignee, words) },
      {
        name: say("print.freight-charges"),
        lines: [paid, ...(lading.billTo ? [say("print.bill-to"), ...lading.billTo.split("\n")] : [])],
      },
    ],
    [
      {
        name: say("print.at-delivery"),
        lines: [
          model.accessorials.length > 0
            ? model.accessorials.map((code) => sayCode(`charge.${code}`, {}, words.language) ?? code).join(", ")
            : say("print.at-delivery-none"),
          ...(lading.appointment ? [`${say("print.appointment")}: ${lading.appointment}`] : []),
          ...(lading.instructions ? [lading.instructions] : []),
        ],
      },
      {
        name: say("print.trailer-and-seal"),
        lines: [
          `${say("print.trailer")}: ${lading.trailer || "____________"}`,
          `${say("print.seal")}: ${lading.seal || "____________"}`,
          say(lading.stackable ? "print.stackable" : "print.not-stackable"),
        ],
      },
    ],
  ])
  y = table(
    paper.page,
    [
      { name: say("print.unit"), x: 0, width: 52 },
      { name: say("print.kind"), x: 56, width: 42 },
      { name: say("print.pieces"), x: 100, width: 56 },
      { name: say("print.hazardous"), x: 160, width: 20 },
      { name: say("print.articles"), x: 184, width: 150 },
      { name: say("print.size-in"), x: 338, width: 74 },
      { name: say("print.item-number"), x: 414, width: 44 },
      { name: say("print.class"), x: 460, width: 24, right: true },
      { name: say("print.gross-lb"), x: 486, width: 39, right: true },
    ],
    model.units.map((unit) => [
      unit.name,
      say(unit.kind === "pallet" ? "print.pallet" : "print.carton"),
      say(unit.kindOfPieces === "carton" ? "print.cartons-n" : "print.pieces-n", { n: unit.pieces }),
      unit.hazardous ? "X" : "",
      unit.description,
      showEdges(unit.size, "in"),
      unit.itemNumber,
      unit.freightClass,
      pounds(unit.weight, words),
    ]),
    { ...paper, top: y + 8, newSheet: () => paper.newSheet() + 4 },
  )
  if (model.hazardous.length > 0) {
    y = paper.room(y + 6, 50)
    y = table(
      paper.page,
      [
        { name: say("print.hazardous"), x: 0, width: 24 },
        { name: say("print.basic-description"), x: 28, width: 300 },
        { name: say("print.total-quantity"), x: 332, width: 70, right: true },
        { name: say("print.packages"), x: 410, width: 115 },
      ],
      model.hazardous.map((one) => [
        "X",
        one.description,
        one.quantity,
        `${say(one.kind === "pallet" ? "print.pallets-n" : "print.cartons-n", { n: one.packages })}: ${one.names.join(", ")}`,
      ]),
      { ...paper, top: y, newSheet: () => paper.newSheet() + 4 },
    )
    line(paper.page, `${say("print.emergency-phone")}: ${model.emergencyPhone}`, {
      x: paper.left,
      y: y + 3,
      width: paper.width,
      size: 11,
      face: "bold",
    })
    y += 18
  }
  y = paper.room(y + 8, 190)
  line(paper.page, say("print.units-pieces", { units: model.units.length, pieces: model.pieces }), {
    x: paper.left,
    y,
    width: paper.width / 2,
    size: 12,
    face: "bold",
  })
  line(paper.page, say("print.pounds-gross", { pounds: pounds(model.weight, words) }), {
    x: paper.left + paper.width / 2,
    y,
    width: paper.width / 2,
    size: 12,
    face: "bold",
    align: "right",
  })
  y = statement(paper, y + 20, say("print.value-statement", { value: lading.value || "________________" })) + 4
  const unNumbers = model.excepted.join(", ")
  if (unNumbers) y = statement(paper, y, say("print.excepted-hazardous", { unNumbers })) + 4
  const none = model.hazardous.length === 0
  if (none && !unNumbers) y = statement(paper, y, say("print.no-hazardous")) + 4
  y = statement(paper, y, say(none ? "print.good-order" : "print.certification.road")) + 10
  signatures(paper, y, [
    { role: say("print.shipper-signs") },
    {
      role: say("print.driver-signs"),
      by: lading.driver ? { name: lading.driver, title: "", placeAndDate: "", strokes: lading.strokes } : null,
    },
    {
      role: say("print.driver-counted"),
      by: lading.counted ? { name: lading.counted, title: "", placeAndDate: "" } : null,
    },
  ])
  return paper.finish()
}
