import { addressLines } from "core/address/index.ts"
import type { DriverOnPaper } from "core/documents/index.ts"
import type { PaperParty } from "core/papers/index.ts"
import { type Strokes, signatureSize, strokePath } from "core/signature/index.ts"
import type { Say } from "words/index.ts"
import type { PaperWords } from "words/papers.ts"
import { barWidths, drawBars } from "./barcode.ts"
import { line, type Page } from "./page.ts"
import type { Paper } from "./paper.ts"
import { broken, rule } from "./table.ts"

/** How papers of several sheets are laid out: a heading, boxes with captions, tables, sums, a statement with signature. */

/** A box of a form: its caption and what stands in it. */
export interface Box {
  readonly name: string
  readonly lines: readonly string[]
  /** Its share of the row; alike where it is not said. */
  readonly share?: number
  readonly code?: boolean
  /** Ticks before lines: of a choice the one that holds. */
  readonly ticks?: readonly boolean[]
}

const pad = 5
const size = 9
const leading = 11.5

/** Title, what it is by law, number with its bars; answers where the page is free. */
export function heading(
  paper: Paper,
  title: string,
  number: string,
  { below = "", bars = true }: { readonly below?: string; readonly bars?: boolean } = {},
): number {
  const { page, left, width, top } = paper
  line(page, title, { x: left, y: top - 6, width: width - 190, size: 20, face: "heavy", smallest: 12 })
  if (below) line(page, below, { x: left, y: top + 17, width: width - 190, size: 9, smallest: 7 })
  const right = left + width - 180
  if (bars)
    drawBars(page, barWidths("code128", number), { x: right, y: top - 6, width: 180, height: 24, widestDots: 3 })
  line(page, number, { x: right, y: bars ? top + 19 : top, width: 180, size: 11, face: "code", align: "center" })
  return top + 36
}

/** Rows of boxes, each as high as its fullest; answers where the page is free. A row that has no room goes on a new sheet. */
export function boxes(paper: Paper, from: number, rows: readonly (readonly Box[])[]): number {
  let y = from
  for (const row of rows) {
    const shares = row.reduce((sum, box) => sum + (box.share ?? 1), 0)
    let x = paper.left
    const placed = row.map((box) => {
      const width = (paper.width * (box.share ?? 1)) / shares
      const at = { x, width }
      x += width
      const face = box.code ? ("code" as const) : ("read" as const)
      const room = width - 2 * pad - (box.ticks ? 12 : 0)
      const lines = box.lines.flatMap((text, index) =>
        broken(paper.page, text, room, face, size).map((part, of) => ({
          part,
          tick: of === 0 ? box.ticks?.[index] : undefined,
        })),
      )
      return { box, ...at, lines, face }
    })
    const height = Math.max(...placed.map((one) => one.lines.length)) * leading + 17
    if (y + height > paper.bottom) y = paper.newSheet()
    for (const one of placed) {
      paper.page.rect(one.x, y, one.width, height).lineWidth(0.5).stroke("#000")
      line(paper.page, one.box.name, { x: one.x + pad, y: y + 3, width: one.width - 2 * pad, size: 6.5, smallest: 5 })
      one.lines.forEach(({ part, tick }, index) => {
        const top = y + 12 + index * leading
        if (tick !== undefined) drawTick(paper, one.x + pad, top + 2, tick)
        line(paper.page, part, {
          x: one.x + pad + (one.box.ticks ? 12 : 0),
          y: top,
          width: one.width - 2 * pad - (one.box.ticks ? 12 : 0) + 0.5,
          size,
          face: one.face,
        })
      })
    }
    y += height
  }
  return y
}

function drawTick({ page }: Paper, x: number, y: number, on: boolean): void {
  page.rect(x, y, 7, 7).lineWidth(0.7).stroke("#000")
  if (on)
    page
      .moveTo(x + 1, y + 1)
      .lineTo(x + 6, y + 6)
      .moveTo(x + 6, y + 1)
      .lineTo(x + 1, y + 6)
      .lineWidth(1)
      .stroke("#000")
}

/** Amounts below one another at the right, the last one bold; answers where the page is free. */
export function sums(paper: Paper, from: number, rows: readonly (readonly [name: string, amount: string])[]): number {
  const { page, left, width } = paper
  let y = from
  rows.forEach(([name, amount], at) => {
    const bold = at === rows.length - 1
    const face = bold ? "bold" : "read"
    if (bold && rows.length > 1) {
      // clear of what hangs below the figures above it
      rule(page, { left: left + width / 2, width: width / 2 }, y + 1, 0.6, "#000")
      y += 3
    }
    line(page, name, { x: left + width / 2, y: y + 1, width: 150, size: bold ? 11 : 9.5, face })
    line(page, amount, {
      x: left + width / 2 + 110,
      y: y + 1,
      width: width / 2 - 110,
      size: bold ? 11 : 9.5,
      face,
      align: "right",
    })
    y += bold ? 18 : 13
  })
  return y
}

/** A text over the whole width; answers where the page is free. */
export function statement(paper: Paper, from: number, text: string, points = 8.5): number {
  let y = from
  for (const part of broken(paper.page, text, paper.width, "read", points)) {
    if (y + points + 4 > paper.bottom) y = paper.newSheet()
    line(paper.page, part, { x: paper.left, y, width: paper.width + 0.5, size: points })
    y += points + 3
  }
  return y
}

/** Who signs, as what, where and when, on one line each. */
export interface Signature {
  readonly name: string
  readonly title: string
  readonly placeAndDate: string
  /** A picture of the signature, PNG or JPEG. */
  readonly picture?: Buffer | null
  /** The signature as it was written on a screen. */
  readonly strokes?: Strokes
}

/** A driver as he signs, with when he left. */
export const driverSigns = (driver: DriverOnPaper | null): Signature | null =>
  driver ? { name: driver.name, title: "", placeAndDate: driver.departed, strokes: driver.strokes } : null

/** What a driver counted, with why it differs. */
export const driverCounted = (driver: DriverOnPaper | null, say: Say): Signature | null =>
  driver?.units
    ? { name: say("print.units-n", { n: Number(driver.units) }), title: "", placeAndDate: driver.reason }
    : null

/** Draws a signature into a box, at its own proportions, at the left. */
export function drawStrokes(
  page: Page,
  strokes: Strokes,
  at: { readonly x: number; readonly y: number; readonly width: number; readonly height: number },
): void {
  if (strokes.length === 0) return
  const scale = Math.min(at.width / signatureSize.width, at.height / signatureSize.height)
  page.save().translate(at.x, at.y).scale(scale)
  page.path(strokes.map(strokePath).join("")).lineWidth(4).lineCap("round").lineJoin("round").stroke("#000")
  page.restore().fillColor("#000")
}

/** Who signs what is made for a shipment: who is named, where the goods come from, on its day. */
export const signatureOf = (
  model: { readonly signer: string; readonly title?: string; readonly date: string },
  city: string,
  words: PaperWords,
  picture: Buffer | null,
): Signature => ({
  name: model.signer,
  title: model.title ?? "",
  placeAndDate: `${city}, ${words.date(model.date)}`,
  picture,
})

/** Room for one signature beside another: what each stands for, and who signs where that is known; answers where it ends. */
export function signatures(
  paper: Paper,
  from: number,
  signers: readonly { readonly role: string; readonly by?: Signature | null }[],
): number {
  const height = 62
  const y = from + height > paper.bottom ? paper.newSheet() : from
  const each = (paper.width - 16 * (signers.length - 1)) / signers.length
  const written = signers.map(({ by }) =>
    by ? [[by.name, by.title].filter(Boolean).join(", "), by.placeAndDate].filter(Boolean) : [],
  )
  const below = y + 37 + 10 * Math.max(...written.map((lines) => lines.length))
  signers.forEach(({ role, by }, at) => {
    const x = paper.left + at * (each + 16)
    if (by?.strokes) drawStrokes(paper.page, by.strokes, { x: x + 4, y, width: each - 8, height: 32 })
    if (by?.picture) paper.page.image(by.picture, x + 4, y, { fit: [each - 8, 32], valign: "bottom" })
    written[at]?.forEach((text, row) => {
      line(paper.page, text, { x, y: y + 37 + 10 * row, width: each, size: 8.5 })
    })
    rule(paper.page, { left: x, width: each }, y + 35, 0.8, "#000")
    line(paper.page, role, { x, y: below, width: each, size: 7, smallest: 5 })
  })
  return y + height + 8
}

/** A party in lines: name, street, place, telephone, and its numbers with what each is. */
export function partyLines(party: PaperParty, words: PaperWords): string[] {
  const home = party.country === "US" ? [words.country("US")] : []
  return [
    ...addressLines({ ...party, kind: "business" }),
    ...home,
    party.phone && words.say("print.phone", { phone: party.phone }),
    party.taxNumber && words.say("print.tax-number", { number: party.taxNumber }),
    party.eori && words.say("print.eori", { number: party.eori }),
  ].filter((text): text is string => !!text)
}
