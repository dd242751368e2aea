import { purchaseOrder } from "words/format.ts"
import type { Say } from "words/index.ts"
import { type Face, line, type Page, widthOf } from "./page.ts"

export interface Column {
  readonly name: string
  readonly x: number
  readonly width: number
  readonly right?: boolean
  readonly face?: Face
}

const leading = 10

/** A text broken into lines of a width, at blanks where there are any. */
export function broken(page: Page, text: string, width: number, face: Face, size: number): string[] {
  const lines: string[] = []
  let shown = ""
  for (const word of text.split(/(?<=\s)/)) {
    if (widthOf(page, face, size, (shown + word).trimEnd()) <= width) {
      shown += word
      continue
    }
    if (shown) lines.push(shown.trimEnd())
    shown = ""
    for (const sign of word) {
      if (shown && widthOf(page, face, size, shown + sign) > width) {
        lines.push(shown)
        shown = ""
      }
      shown += sign
    }
  }
  return shown.trimEnd() || lines.length === 0 ? [...lines, shown.trimEnd()] : lines
}

export interface TablePlace {
  readonly left: number
  readonly width: number
  readonly top: number
  /** Where rows end on a sheet. */
  readonly bottom: number
  readonly size?: number
  /** Begins a new sheet and answers where its rows begin. */
  readonly newSheet: () => number
}

/**
 * A table with its heads on every sheet; a text wider than its column goes on below, so that nothing is cut. Answers
 * where the page is free again.
 */
export function table(
  page: Page,
  columns: readonly Column[],
  rows: readonly (readonly string[])[],
  place: TablePlace,
): number {
  const size = place.size ?? 9
  const heads = (top: number): number => {
    for (const column of columns)
      line(page, column.name, {
        x: place.left + column.x,
        y: top,
        width: column.width,
        size: 8,
        face: "bold",
        smallest: 5,
        align: column.right ? "right" : "left",
      })
    rule(page, place, top + 12, 1, "#000")
    return top + 17
  }
  let y = heads(place.top)
  for (const row of rows) {
    const cells = columns.map((column, index) =>
      broken(page, row[index] ?? "", column.width, column.face ?? "read", size),
    )
    const lines = Math.max(...cells.map((cell) => cell.length))
    if (y + lines * leading + 4 > place.bottom) y = heads(place.newSheet())
    // a row that is higher than a sheet goes on over the next ones
    for (let from = 0; from < lines; ) {
      const room = Math.max(1, Math.floor((place.bottom - y - 4) / leading))
      const until = Math.min(lines, from + room)
      for (const [index, column] of columns.entries())
        for (const [at, text] of (cells[index] ?? []).slice(from, until).entries())
          line(page, text, {
            x: place.left + column.x,
            y: y + at * leading,
            width: column.width + 0.5,
            size,
            face: column.face ?? "read",
            align: column.right ? "right" : "left",
          })
      y += (until - from) * leading + 4
      from = until
      if (from < lines) y = heads(place.newSheet())
    }
    rule(page, place, y - 2, 0.3, "#888")
  }
  return y
}

export function rule(
  page: Page,
  place: { readonly left: number; readonly width: number },
  y: number,
  weight: number,
  colour: string,
): void {
  page
    .moveTo(place.left, y)
    .lineTo(place.left + place.width, y)
    .lineWidth(weight)
    .stroke(colour)
    .fillColor("#000")
}

/** Lines of text below one another; answers where the next would begin. */
export function block(
  page: Page,
  title: string,
  lines: readonly string[],
  at: { x: number; y: number; width: number; size?: number; bold?: boolean },
): number {
  const size = at.size ?? 9
  line(page, title, { x: at.x, y: at.y, width: at.width, size: 7.5, face: "bold" })
  let y = at.y + 11
  for (const [index, text] of lines.entries()) {
    const face = at.bold && index === 0 ? "bold" : "read"
    for (const part of broken(page, text, at.width, face, size)) {
      line(page, part, {
        x: at.x,
        y,
        width: at.width + 0.5,
        size,
        face,
      })
      y += size + 3
    }
  }
  return y
}

/** The order on a paper, with the customer's own number where there is one. */
export const orderWords = (
  { sourceNumber, purchaseOrder: po }: { readonly sourceNumber: string; readonly purchaseOrder: string },
  say: Say,
): string => (po ? say("print.order-and-po", { order: sourceNumber, po: purchaseOrder(po) }) : sourceNumber)
