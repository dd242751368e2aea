import { readFileSync } from "node:fs"
import { createRequire } from "node:module"
import { create, type Font } from "fontkit"
import PDFDocument from "pdfkit"
import { beginReady } from "./readyFaces.ts"

const resolve = createRequire(import.meta.url).resolve
const next = (face: string) =>
  resolve(`@expo-google-fonts/atkinson-hyperlegible-next/${face}/AtkinsonHyperlegibleNext_${face}.ttf`)
const mono = (face: string) =>
  resolve(`@expo-google-fonts/atkinson-hyperlegible-mono/${face}/AtkinsonHyperlegibleMono_${face}.ttf`)

/** The faces on paper; whole fonts, since those of the screen are subsets. Read and parsed once. */
const files = { read: next("400Regular"), bold: next("700Bold"), heavy: next("800ExtraBold"), code: mono("500Medium") }
export type Face = keyof typeof files
let fonts: readonly (readonly [Face, Font])[] | undefined

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

/** Notes a text that has no room, so that the document is refused. */
export function misfit(page: Page, field: string, text: string): void {
  misfitsOf.set(page, [...(misfitsOf.get(page) ?? []), { field, text }])
}

/** A text with signs that the papers' faces do not have; printed they would vanish. */
export interface NotInFaces {
  readonly text: string
  /** The signs, each once. */
  readonly signs: string
}

/** Texts with signs that can't be printed; the document is not finished then. */
export class NotPrintable extends Error {
  constructor(readonly texts: readonly NotInFaces[]) {
    super(`can't be printed: ${texts.map((one) => one.signs).join(" ")}`)
  }
}

/**
 * What becomes of signs that the faces do not have: the document is refused, or, where it tells of what has happened
 * already and must be made, `?` stands for each.
 */
export type Missing = "refuse" | "mark"
const missingOf = new WeakMap<Page, { readonly how: Missing; readonly texts: Map<string, string> }>()

/**
 * A face whose glyphs stand for what they are asked for. The library gives every text the very glyph that it made first,
 * and with it what stood for it there: a reader that copies the text out of the page would find that.
 */
function telling(font: Font): Font {
  type Glyph = ReturnType<Font["getGlyph"]>
  const getGlyph = font.getGlyph.bind(font)
  font.getGlyph = (id, signs = []) => {
    const glyph = getGlyph(id, signs)
    const same = signs.length === glyph.codePoints.length && signs.every((sign, at) => sign === glyph.codePoints[at])
    return signs.length === 0 || same ? glyph : (Object.create(glyph, { codePoints: { value: signs } }) as Glyph)
  }
  return font
}

/** A new document of one page size (points) whose bytes come from `finished`. */
export function newDocument(
  width: number,
  height: number,
  title: string,
  madeAt: Date,
  missing: Missing = "refuse",
): Page {
  fonts ??= Object.entries(files).map(([name, file]) => [name as Face, telling(create(readFileSync(file)) as Font)])
  const document = new PDFDocument({
    size: [width, height],
    margin: 0,
    autoFirstPage: true,
    // ours are registered below; the library's own would be read for nothing
    font: "",
    info: { Title: title, Producer: "Varnok", CreationDate: madeAt, ModDate: madeAt },
  })
  // a font that is parsed already is taken as it is; each document embeds the part of it that it needs
  for (const [name, font] of fonts) {
    document.registerFont(name, font as unknown as Buffer)
    beginReady(document, name, font)
  }
  missingOf.set(document, { how: missing, texts: new Map() })
  return document
}

let probe: Page | undefined

/** The signs of a text that the papers' reading face does not have, each once; empty for a text that can be printed. */
export function unprintable(text: string): string {
  probe ??= newDocument(1, 1, "", new Date(0))
  probe.font("read")
  return signsMissing(probe, plain(text))
}

/** Signs without a shape are dropped, and breaks are blanks. */
const plain = (text: string): string =>
  text
    .replace(/\s/g, " ")
    .replace(/[\p{Cf}\p{Cc}]/gu, "")
    .normalize("NFC")

interface Faced {
  readonly _font: { readonly font: { hasGlyphForCodePoint(point: number): boolean } }
}
const hasSign = (page: Page, sign: string): boolean =>
  (page as unknown as Faced)._font.font.hasGlyphForCodePoint(sign.codePointAt(0) as number)

const signsMissing = (page: Page, text: string): string =>
  [...new Set(text)].filter((sign) => !hasSign(page, sign)).join("")

/** A text as the page's present face can show it; what it can't is noted, and marked. */
function shown(page: Page, text: string): string {
  const clean = plain(text)
  const signs = signsMissing(page, clean)
  if (signs === "") return clean
  missingOf.get(page)?.texts.set(clean, signs)
  return [...clean].map((sign) => (hasSign(page, sign) ? sign : "?")).join("")
}

function notPrintable(document: Page): NotPrintable | null {
  const missing = missingOf.get(document)
  if (!missing || missing.how === "mark" || missing.texts.size === 0) return null
  return new NotPrintable([...missing.texts].map(([text, signs]) => ({ text, signs })))
}

/** Throws DoesNotFit when a text drawn so far did not fit, NotPrintable when one has signs without a shape here. */
export function mustFit(document: Page): void {
  const missing = notPrintable(document)
  if (missing) throw missing
  const misfits = misfitsOf.get(document)
  if (misfits) throw new DoesNotFit(misfits)
}

/**
 * The document's bytes. Rejects with DoesNotFit when a text did not fit its field, and with NotPrintable when one has
 * signs that the faces do not: nothing is ever cut, and nothing vanishes.
 */
export function finished(document: Page): Promise<Buffer> {
  const missing = notPrintable(document)
  if (missing) return Promise.reject(missing)
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

/**
 * Phrases in a few lines, one after another with a middle dot between, made smaller until they fit; noted as a misfit
 * when they do not. A phrase is broken only where it alone is longer than a line.
 */
export function phrases(
  page: Page,
  original: readonly string[],
  at: {
    x: number
    y: number
    width: number
    lines: number
    size: number
    smallest: number
    face?: Face
    field: string
  },
): void {
  page.font(at.face ?? "read")
  const words = original.flatMap((phrase, index) =>
    shown(page, index < original.length - 1 ? `${phrase} ·` : phrase)
      .split(" ")
      .filter(Boolean),
  )
  const broken = (size: number): string[] => {
    page.fontSize(size)
    const lines: string[] = []
    for (const word of words) {
      const longer = lines.length > 0 ? `${lines.at(-1)} ${word}` : word
      if (lines.length > 0 && page.widthOfString(longer) <= at.width) lines[lines.length - 1] = longer
      else lines.push(word)
    }
    return lines
  }
  let size = at.size
  const fits = (lines: readonly string[]) =>
    lines.length <= at.lines && lines.every((text) => page.fontSize(size).widthOfString(text) <= at.width)
  while (size > at.smallest && !fits(broken(size))) size -= 0.25
  const lines = broken(size)
  if (!fits(lines)) misfit(page, at.field, original.join(" · "))
  const step = at.size * 1.18
  lines.slice(0, at.lines).forEach((text, index) => {
    page.fontSize(size).text(text, at.x, at.y + index * step, { lineBreak: false })
  })
}

/** One line of text, made smaller (to `smallest` points) until it fits its width; noted as a misfit when it does not. */
export function line(
  page: Page,
  original: string,
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
  const text = shown(page, original)
  let size = at.size
  while (size > (at.smallest ?? 6) && page.fontSize(size).widthOfString(text) > at.width) size -= 0.25
  const wide = page.fontSize(size).widthOfString(text)
  if (wide > at.width) misfit(page, at.field ?? "", text)
  const x = at.align === "right" ? at.x + at.width - wide : at.align === "center" ? at.x + (at.width - wide) / 2 : at.x
  page.text(text, x, at.y, { lineBreak: false })
}
