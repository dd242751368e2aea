import type { Say } from "words/index.ts"
import { onPaper } from "words/papers.ts"
import { finished, inch, line, type Missing, newDocument, type Page } from "./page.ts"

const size = { width: 8.5 * inch, height: 11 * inch }
const margin = 0.6 * inch

/** A paper of one or more letter sheets, each with its number at the foot. */
export interface Paper {
  readonly page: Page
  readonly left: number
  readonly width: number
  readonly top: number
  /** Where rows end, so that the foot stays free. */
  readonly bottom: number
  /** Ends the sheet and begins another; answers where it begins. */
  readonly newSheet: () => number
  /** Begins a new sheet when less than so many points are left below `y`; answers where to go on. */
  readonly room: (y: number, points: number) => number
  /** Ends the last sheet; the bytes of all. */
  readonly finish: () => Promise<Buffer>
}

/** A new paper, called by its title and number; `mark` for one that must be made whatever stands on it. */
export function letterPaper(
  title: string,
  number: string,
  madeAt: Date,
  missing: Missing = "refuse",
  say: Say = onPaper,
): Paper {
  const page = newDocument(size.width, size.height, `${title} ${number}`, madeAt, missing)
  const width = size.width - 2 * margin
  let sheet = 1
  const foot = () =>
    line(page, say("print.sheet", { number, n: sheet }), {
      x: margin,
      y: size.height - margin + 6,
      width,
      size: 8,
      align: "right",
    })
  const newSheet = () => {
    foot()
    page.addPage()
    sheet += 1
    return margin
  }
  return {
    page,
    left: margin,
    width,
    top: margin,
    bottom: size.height - margin - 20,
    newSheet,
    room: (y, points) => (y + points > size.height - margin ? newSheet() : y),
    finish: () => {
      foot()
      return finished(page)
    },
  }
}
