import type { Say } from "words/index.ts"
import { onPaper } from "words/papers.ts"
import { line } from "./page.ts"
import { letterPaper } from "./paper.ts"
import { block, rule, table } from "./table.ts"

/** What a claim says to the carrier; amounts and days as they are written. */
export interface ClaimModel {
  readonly kind: "loss" | "damage" | "shortage"
  readonly number: string
  readonly date: string
  readonly claimant: readonly string[]
  readonly carrier: readonly string[]
  /** Tracking, days and receiver of the shipment, a line each. */
  readonly shipment: readonly string[]
  readonly happened: string
  readonly goods: readonly {
    readonly sku: string
    readonly description: string
    readonly pieces: string
    readonly unitValue: string
    readonly value: string
  }[]
  /** Sums under the goods; the last is what is claimed. */
  readonly sums: readonly { readonly name: string; readonly amount: string }[]
  readonly demand: string
  readonly enclosed: readonly string[]
  readonly photos: readonly { readonly name: string; readonly bytes: Buffer }[]
}

/**
 * A claim on letter paper: what 49 CFR 370.3(b) asks of one (facts that identify the shipment, that the carrier is held
 * liable, a determined amount; from memory), and each photo on a sheet of its own.
 */
export async function claimPdf(model: ClaimModel, madeAt: Date, say: Say = onPaper): Promise<Buffer> {
  const title = say(`claim-paper.${model.kind}`)
  const paper = letterPaper(title, model.number, madeAt, "mark")
  const { page, left, width, top } = paper
  line(page, title, { x: left, y: top - 6, width: 340, size: 22, face: "heavy" })
  line(page, model.number, { x: left + width - 200, y: top - 2, width: 200, size: 15, face: "code", align: "right" })
  rule(page, paper, top + 24, 1.5, "#000")
  const half = width / 2 - 10
  const right = left + half + 20
  const own = block(page, say("print.from"), [...model.claimant, model.date], {
    x: left,
    y: top + 32,
    width: half,
    bold: true,
  })
  const carrier = block(page, say("print.to"), model.carrier, { x: right, y: top + 32, width: half, bold: true })
  const shipped = block(page, say("claim-paper.shipment"), model.shipment, {
    x: left,
    y: Math.max(own, carrier) + 6,
    width,
  })
  const happened = block(page, say("claim-paper.happened"), [model.happened], {
    x: left,
    y: shipped + 6,
    width,
  })
  const newSheet = () => paper.newSheet() + 10
  const sums = model.sums.map(({ name, amount }) => ["", name, "", "", amount])
  let y = table(
    page,
    [
      { name: say("print.item"), x: 0, width: 100, face: "code" },
      { name: say("print.goods"), x: 105, width: 200 },
      { name: say("print.pieces"), x: 310, width: 50, right: true },
      { name: say("claim-paper.unit"), x: 365, width: 75, right: true },
      { name: say("claim-paper.value"), x: 445, width: 75.4, right: true },
    ],
    [...model.goods.map((one) => [one.sku, one.description, one.pieces, one.unitValue, one.value]), ...sums],
    { ...paper, top: happened + 10, newSheet },
  )
  for (const [name, texts] of [
    [say("claim-paper.demand"), [model.demand]],
    [say("claim-paper.enclosed"), model.enclosed],
  ] as const) {
    if (texts.length === 0) continue
    y = table(
      page,
      [{ name, x: 0, width: 520.4 }],
      texts.map((text) => [text]),
      { ...paper, top: paper.room(y, 60) + 10, newSheet },
    )
  }
  for (const photo of model.photos) {
    const start = paper.newSheet()
    line(page, photo.name, { x: left, y: start, width, size: 11, face: "bold" })
    page.image(photo.bytes, left, start + 20, { fit: [width, paper.bottom - start - 30] })
  }
  return paper.finish()
}
