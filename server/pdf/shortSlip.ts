import type { SlipModel } from "core/documents/index.ts"
import type { Say } from "words/index.ts"
import { inch, line, type Page } from "./page.ts"

const margin = 0.5 * inch
const step = 11

/**
 * A packing slip in the part of a sheet below a label: what is in the package, and the message. What has no room goes on
 * on a sheet of its own.
 */
export function shortSlip(
  page: Page,
  model: SlipModel,
  sheet: { readonly width: number; readonly height: number; readonly slipFrom: number | null },
  say: Say,
): void {
  const left = margin
  const width = sheet.width - 2 * margin
  const bottom = sheet.height - margin
  let y = head(page, model, { left, width, top: (sheet.slipFrom ?? 0) + 14 }, say)
  for (const row of model.rows) {
    if (y + step > bottom) {
      page.addPage()
      y = head(page, model, { left, width, top: margin }, say)
    }
    line(page, row.line, { x: left, y, width: 16, size: 8.5 })
    line(page, row.sku, { x: left + 18, y, width: 92, size: 8.5, face: "code" })
    line(page, row.lots ? `${row.description} (${row.lots})` : row.description, {
      x: left + 114,
      y,
      width: width - 114 - 120,
      size: 8.5,
      smallest: 5,
    })
    const figures = [row.ordered, row.shipped, row.backOrdered] as const
    figures.forEach((figure, at) =>
      line(page, String(figure), { x: left + width - 120 + at * 40, y, width: 38, size: 8.5, align: "right" }),
    )
    y += step
  }
  for (const text of model.message ? model.message.split("\n") : []) {
    if (y + step > bottom) {
      page.addPage()
      y = margin
    }
    y += step
    line(page, text, { x: left, y, width, size: 9, smallest: 5 })
  }
}

/** Whose slip it is, and the heads of its columns; answers where rows begin. */
function head(
  page: Page,
  model: SlipModel,
  { left, width, top }: { readonly left: number; readonly width: number; readonly top: number },
  say: Say,
): number {
  const [name = ""] = model.letterhead
  line(page, name, { x: left, y: top, width: width * 0.5, size: 11, face: "heavy" })
  line(page, `${say("print.slip")} ${model.number}`, {
    x: left + width * 0.5,
    y: top,
    width: width * 0.5,
    size: 11,
    face: "bold",
    align: "right",
  })
  const facts = model.facts.map((fact) => `${fact.name} ${fact.text}`).join("   ")
  line(page, facts, { x: left, y: top + 15, width, size: 8, smallest: 5 })
  const y = top + 30
  const heads = [say("print.ordered"), say("print.here"), say("print.to-come")]
  heads.forEach((text, at) =>
    line(page, text, { x: left + width - 120 + at * 40, y, width: 38, size: 7, align: "right", smallest: 4.5 }),
  )
  page
    .moveTo(left, y + 10)
    .lineTo(left + width, y + 10)
    .lineWidth(0.7)
    .stroke("#000")
  return y + 14
}
