import { readFileSync } from "node:fs"
import { createRequire } from "node:module"
import PDFDocument from "pdfkit"

const resolve = createRequire(import.meta.url).resolve
const next = (face: string) =>
  resolve(`@expo-google-fonts/atkinson-hyperlegible-next/${face}/AtkinsonHyperlegibleNext_${face}.ttf`)
const mono = (face: string) =>
  resolve(`@expo-google-fonts/atkinson-hyperlegible-mono/${face}/AtkinsonHyperlegibleMono_${face}.ttf`)

/** The faces on paper; whole fonts, since those of the screen are subsets. Read once. */
const files = { read: next("400Regular"), bold: next("700Bold"), heavy: next("800ExtraBold"), code: mono("500Medium") }
export type Face = keyof typeof files
let fonts: Record<Face, Buffer> | undefined

/** Points in a unit of length on paper. */
export const inch = 72
export const mm = 72 / 25.4

export type Page = PDFKit.PDFDocument

/** A new document of one page size (points) whose bytes come from `finished`. */
export function newDocument(width: number, height: number, title: string, madeAt: Date): Page {
  fonts ??= Object.fromEntries(Object.entries(files).map(([name, file]) => [name, readFileSync(file)])) as Record<
    Face,
    Buffer
  >
  const document = new PDFDocument({
    size: [width, height],
    margin: 0,
    autoFirstPage: true,
    info: { Title: title, Producer: "Varnok", CreationDate: madeAt, ModDate: madeAt },
  })
  for (const [name, bytes] of Object.entries(fonts)) document.registerFont(name, bytes)
  return document
}

export function finished(document: Page): Promise<Buffer> {
  return new Promise((resolved, rejected) => {
    const parts: Buffer[] = []
    document.on("data", (part: Buffer) => parts.push(part))
    document.on("end", () => resolved(Buffer.concat(parts)))
    document.on("error", rejected)
    document.end()
  })
}

/** One line of text, made smaller (to `smallest` points) until it fits its width, then cut with an ellipsis. */
export function line(
  page: Page,
  text: string,
  at: {
    x: number
    y: number
    width: number
    size: number
    face?: Face
    smallest?: number
    align?: "left" | "right" | "center"
  },
): void {
  page.font(at.face ?? "read")
  let size = at.size
  while (size > (at.smallest ?? 6) && page.fontSize(size).widthOfString(text) > at.width) size -= 0.25
  let shown = text
  page.fontSize(size)
  while (shown.length > 1 && page.widthOfString(shown) > at.width) shown = `${shown.slice(0, -2)}…`
  const wide = page.widthOfString(shown)
  const x = at.align === "right" ? at.x + at.width - wide : at.align === "center" ? at.x + (at.width - wide) / 2 : at.x
  page.text(shown, x, at.y, { lineBreak: false })
}
