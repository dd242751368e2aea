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

/** Texts that did not fit their fields while a document was drawn; it is not finished then. */
export class DoesNotFit extends Error {
  constructor(readonly misfits: readonly { readonly field: string; readonly text: string }[]) {
    super(`does not fit: ${misfits.map((one) => `${one.field} “${one.text}”`).join(", ")}`)
  }
}
const misfitsOf = new WeakMap<Page, { field: string; text: string }[]>()

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

/** Throws DoesNotFit when a text drawn so far did not fit. */
export function mustFit(document: Page): void {
  const misfits = misfitsOf.get(document)
  if (misfits) throw new DoesNotFit(misfits)
}

/** The document's bytes. Rejects with DoesNotFit when a text did not fit its field: nothing is ever cut. */
export function finished(document: Page): Promise<Buffer> {
  const misfits = misfitsOf.get(document)
  if (misfits) return Promise.reject(new DoesNotFit(misfits))
  return new Promise((resolved, rejected) => {
    const parts: Buffer[] = []
    document.on("data", (part: Buffer) => parts.push(part))
    document.on("end", () => resolved(Buffer.concat(parts)))
    document.on("error", rejected)
    document.end()
  })
}

/** One line of text, made smaller (to `smallest` points) until it fits its width; noted as a misfit when it does not. */
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
    /** What the field is called, for a refusal. */
    field?: string
    align?: "left" | "right" | "center"
  },
): void {
  page.font(at.face ?? "read")
  let size = at.size
  while (size > (at.smallest ?? 6) && page.fontSize(size).widthOfString(text) > at.width) size -= 0.25
  const wide = page.fontSize(size).widthOfString(text)
  if (wide > at.width) misfitsOf.set(page, [...(misfitsOf.get(page) ?? []), { field: at.field ?? "", text }])
  const x = at.align === "right" ? at.x + at.width - wide : at.align === "center" ? at.x + (at.width - wide) / 2 : at.x
  page.text(text, x, at.y, { lineBreak: false })
}
