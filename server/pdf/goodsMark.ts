import { markSide } from "core/dangerous/index.ts"
import type { GoodsMarkModel, Mark } from "core/papers/index.ts"
import { englishPapers, type PaperWords } from "words/papers.ts"
import { finished, inch, line, mm, newDocument, type Page } from "./page.ts"

const sheet = { width: 4 * inch, height: 6 * inch }
/** Side of a mark (49 CFR 172.315(a), from memory). */
const side = markSide.usual * mm

/** Marks on labels of 4 × 6 in, one to a label: limited quantity, lithium battery, dry ice. */
export async function goodsMarkPdf(
  model: GoodsMarkModel,
  madeAt: Date,
  words: PaperWords = englishPapers,
): Promise<Buffer> {
  const { say } = words
  const page = newDocument(sheet.width, sheet.height, say("print.goods-mark"), madeAt, "mark")
  const all = model.packages.flatMap((one) => one.marks.map((mark) => ({ name: one.name, mark })))
  all.forEach(({ name, mark }, at) => {
    if (at > 0) page.addPage()
    line(page, name, { x: 12, y: sheet.height - 26, width: sheet.width - 24, size: 12, face: "code", align: "right" })
    drawMark(page, mark, words)
  })
  return finished(page)
}

function drawMark(page: Page, mark: Mark, words: PaperWords): void {
  if (mark.kind === "limited-quantity") return drawLimited(page, mark.regime, words)
  if (mark.kind === "lithium") return drawLithium(page, mark, words)
  drawDryIce(page, mark, words)
}

/** Draws something that stands on its corner in a square that lies along the label: turned when it is stuck on. */
function onCorner(page: Page, words: PaperWords, draw: (half: number) => void): void {
  page.save()
  page.translate(sheet.width / 2, 3 * mm + side / 2).rotate(-45)
  draw(side / Math.SQRT2)
  page.restore()
  page.fillColor("#000")
  // an arrow to the corner
  page
    .moveTo(22, side + 12 * mm)
    .lineTo(12, side + 6 * mm)
    .lineTo(12, side + 9 * mm)
    .moveTo(12, side + 6 * mm)
    .lineTo(17, side + 6 * mm)
    .lineWidth(1.2)
    .stroke("#000")
  line(page, words.say("print.on-corner"), {
    x: 30,
    y: side + 7 * mm,
    width: sheet.width - 42,
    size: 9,
    smallest: 6,
  })
}

const diamond = (page: Page, half: number) => page.polygon([0, -half], [half, 0], [0, half], [-half, 0])

/** Top and bottom black, the middle white; by air with a Y (49 CFR 172.315, from memory). */
function drawLimited(page: Page, regime: "road" | "air", words: PaperWords): void {
  onCorner(page, words, (half) => {
    const edge = half - mm * Math.SQRT2
    diamond(page, edge)
      .lineWidth(2 * mm)
      .stroke("#000")
    page.polygon([0, -half], [half * 0.45, half * -0.55], [half * -0.45, half * -0.55]).fill("#000")
    page.polygon([0, half], [half * 0.45, half * 0.55], [half * -0.45, half * 0.55]).fill("#000")
    page.fillColor("#000")
    if (regime === "air") line(page, "Y", { x: -60, y: -52, width: 120, size: 90, face: "heavy", align: "center" })
  })
}

/** 100 mm × 100 mm with hatched edge, the battery sign and the UN numbers (49 CFR 173.185(c)(3), from memory). */
function drawLithium(page: Page, mark: Extract<Mark, { kind: "lithium" }>, { say }: PaperWords): void {
  const left = (sheet.width - side) / 2
  const top = 14 * mm
  page.rect(left, top, side, side).lineWidth(0.5).stroke("#000")
  const band = 5 * mm
  page.save()
  page
    .path(
      `M ${left} ${top} h ${side} v ${side} h ${-side} Z M ${left + band} ${top + band} v ${side - 2 * band} h ${side - 2 * band} v ${-(side - 2 * band)} Z`,
    )
    .clip("even-odd")
  for (let x = left - side; x < left + side; x += 8)
    page
      .moveTo(x, top + side)
      .lineTo(x + side, top)
      .lineWidth(3.5)
      .stroke("#c8102e")
  page.restore()
  // batteries beside one another, one of them broken with fumes
  const base = top + side * 0.56
  for (let at = 0; at < 5; at += 1) {
    const x = left + side * 0.24 + at * 27
    page
      .rect(x, base - 52, 20, 52)
      .lineWidth(2)
      .stroke("#000")
    page.rect(x + 6, base - 58, 8, 6).fill("#000")
  }
  page
    .moveTo(left + side * 0.24 + 56, base - 66)
    .bezierCurveTo(
      left + side * 0.5 - 20,
      base - 86,
      left + side * 0.5 + 12,
      base - 92,
      left + side * 0.5 - 4,
      base - 112,
    )
    .lineWidth(3)
    .stroke("#000")
  page.fillColor("#000")
  line(page, mark.unNumbers.join(", "), {
    x: left + band + 4,
    y: base + 14,
    width: side - 2 * band - 8,
    // figures at least 12 mm high
    size: 12 * mm * 1.42,
    face: "bold",
    align: "center",
    smallest: 14,
  })
  line(page, say("print.lithium-batteries"), {
    x: left + band + 4,
    y: base + 66,
    width: side - 2 * band - 8,
    size: 14,
    face: "bold",
    align: "center",
  })
}

/** Class 9 with UN1845, name and net mass (49 CFR 173.217 and 172.446, from memory). */
function drawDryIce(page: Page, mark: Extract<Mark, { kind: "dry-ice" }>, words: PaperWords): void {
  onCorner(page, words, (half) => {
    page.save()
    diamond(page, half).clip()
    for (let at = -3; at <= 3; at += 1) page.rect(at * (half / 4) - half / 14, -half, half / 7, half).fill("#000")
    page.restore()
    diamond(page, half - 1)
      .lineWidth(1.5)
      .stroke("#000")
    page.fillColor("#000")
    line(page, "UN1845", { x: -half * 0.7, y: 6, width: half * 1.4, size: 26, face: "bold", align: "center" })
    line(page, "9", { x: -30, y: half * 0.48, width: 60, size: 38, face: "heavy", align: "center" })
  })
  const across = { x: 12, width: sheet.width - 24, align: "center" } as const
  line(page, `UN1845, ${words.say("print.dry-ice-net", { kilograms: words.figure(mark.netKg) })}`, {
    ...across,
    y: side + 14 * mm,
    size: 18,
    face: "bold",
  })
  line(page, words.say("print.from-to", { shipper: mark.shipper, consignee: mark.consignee }), {
    ...across,
    y: side + 23 * mm,
    size: 10,
    smallest: 5,
  })
}
