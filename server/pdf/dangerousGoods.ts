import type { DangerousGoodsModel } from "core/papers/index.ts"
import { englishPapers, type PaperWords } from "words/papers.ts"
import { kilograms } from "./invoice.ts"
import { letterPaper } from "./paper.ts"
import { boxes, heading, partyLines, signatureOf, signatures, statement } from "./sheet.ts"
import { table } from "./table.ts"

/** The red hatching beside a declaration by air (ICAO Technical Instructions, from memory). */
function hatch({ page }: ReturnType<typeof letterPaper>): void {
  const { height, width } = page.page
  for (const x of [14, width - 26])
    for (let y = 40; y < height - 40; y += 18)
      page.polygon([x, y], [x + 12, y], [x + 12, y + 9], [x, y + 9]).fill("#c8102e")
  page.fillColor("#000")
}

/**
 * The shipper's declaration of dangerous goods on letter paper: by road the shipping paper of 49 CFR 172.200 ff., by air
 * with the hatching and the certification of its counterpart.
 */
export async function dangerousGoodsPdf(
  model: DangerousGoodsModel,
  madeAt: Date,
  words: PaperWords = englishPapers,
  picture: Buffer | null = null,
): Promise<Buffer> {
  const { say } = words
  const title = say(`print.dangerous-goods.${model.regime}`)
  const paper = letterPaper(title, model.number, madeAt, "mark", say)
  const air = model.regime === "air"
  if (air) hatch(paper)
  const top = heading(paper, title, model.number, { below: say("print.dangerous-goods-copies") })
  let y = boxes(paper, top, [
    [
      { name: say("print.shipper"), lines: partyLines(model.shipper, words) },
      {
        name: say("print.carriage"),
        lines: [
          say("print.carrier-service", { carrier: model.carrier, service: model.service }),
          `${say("print.tracking-number")}: ${model.trackingNumber}`,
          `${say("print.invoice-date")}: ${words.date(model.date)}`,
          ...(air ? [say("print.cargo-aircraft")] : []),
        ],
      },
    ],
    [
      { name: say("print.consignee"), lines: partyLines(model.consignee, words) },
      { name: say("print.emergency-phone"), lines: [model.emergencyPhone] },
    ],
  ])
  y = table(
    paper.page,
    [
      { name: say("print.hazardous"), x: 0, width: 24 },
      { name: say("print.basic-description"), x: 28, width: 270 },
      { name: say("print.total-quantity"), x: 302, width: 70, right: true },
      { name: say("print.packages"), x: 380, width: 145 },
    ],
    model.entries.map((entry) => [
      "X",
      entry.description,
      entry.quantity,
      `${say(entry.kind === "pallet" ? "print.pallets-n" : "print.cartons-n", { n: entry.packages })}: ${entry.names.join(", ")}`,
    ]),
    { ...paper, top: y + 8, newSheet: () => paper.newSheet() + 4 },
  )
  y = paper.room(y + 8, 130)
  y = statement(
    paper,
    y,
    `${say("print.packages-n", { n: model.packages })}, ${kilograms(model.gross, words)} kg. ${say(
      `print.certification.${model.regime}`,
    )}`,
  )
  const by = signatureOf(model, model.shipper.city, words, picture)
  signatures({ ...paper, width: 260 }, y + 6, [{ role: say("print.place-date-signature"), by }])
  return paper.finish()
}
