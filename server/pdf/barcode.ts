import bwipjs from "bwip-js/node"
import type { Page } from "./page.ts"

/** Widths of bars and spaces in modules, a bar first. */
export function barWidths(symbology: "code128" | "gs1-128", text: string): number[] {
  const symbol = (bwipjs.raw as unknown as (options: { bcid: string; text: string }) => { sbs: number[] }[])({
    bcid: symbology,
    text,
  })[0]
  if (!symbol) throw new Error(`no symbol for ${symbology} ${text}`)
  return symbol.sbs
}

/**
 * Draws a linear symbol as vector bars, centred in a width, with a module of whole printer dots: the widest one that
 * leaves the quiet zones of ten modules on both sides. Returns the module in points.
 *
 * @param dotsPerInch of the label printer; 203 for thermal ones
 */
export function drawBars(
  page: Page,
  widths: readonly number[],
  at: { x: number; y: number; width: number; height: number; dotsPerInch?: number; widestDots?: number },
): number {
  const dot = 72 / (at.dotsPerInch ?? 203)
  const modules = widths.reduce((sum, width) => sum + width, 0)
  const dots = Math.min(at.widestDots ?? 4, Math.floor(at.width / dot / (modules + 20)))
  if (dots < 2)
    throw new RangeError(`a symbol of ${modules} modules does not fit into ${at.width} pt at two dots a module`)
  const module = dots * dot
  // bars begin on whole dots, so that a printer at this resolution need not round them
  let x = Math.round((at.x + (at.width - modules * module) / 2) / dot) * dot
  widths.forEach((width, index) => {
    if (index % 2 === 0) page.rect(x, at.y, width * module, at.height)
    x += width * module
  })
  page.fill("#000")
  return module
}

/** Draws a QR Code (ISO/IEC 18004) as squares, with its quiet zone of four modules inside the square that it is given. */
export function drawQr(page: Page, text: string, at: { x: number; y: number; size: number }): void {
  const [symbol] = (bwipjs.raw as unknown as (options: object) => { pixs: number[]; pixx: number; pixy: number }[])({
    bcid: "qrcode",
    text,
    eclevel: "M",
  })
  if (!symbol) throw new Error(`no symbol for ${text}`)
  const module = at.size / (symbol.pixx + 8)
  symbol.pixs.forEach((dark, index) => {
    if (!dark) return
    const [column, row] = [index % symbol.pixx, Math.floor(index / symbol.pixx)]
    page.rect(at.x + (column + 4) * module, at.y + (row + 4) * module, module, module)
  })
  page.fill("#000")
}
