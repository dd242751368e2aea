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

/** For signs that the faces do not have, Greek and Cyrillic above all: a second face, read when it is first needed. */
const noto = (face: string) => resolve(`@expo-google-fonts/noto-sans/${face}/NotoSans_${face}.ttf`)
const secondFiles = {
  read: noto("400Regular"),
  bold: noto("700Bold"),
  heavy: noto("800ExtraBold"),
  code: noto("500Medium"),
} as const satisfies Record<Face, string>
const seconds = new Map<Face, Font>()
function secondOf(face: Face): Font {
  const known = seconds.get(face) ?? telling(create(readFileSync(secondFiles[face])) as Font)
  seconds.set(face, known)
  return known
}

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

const readFaces = (): readonly (readonly [Face, Font])[] => {
  fonts ??= Object.entries(files).map(([name, file]) => [name as Face, telling(create(readFileSync(file)) as Font)])
  return fonts
}

/** A new document of one page size (points) whose bytes come from `finished`. */
export function newDocument(
  width: number,
  height: number,
  title: string,
  madeAt: Date,
  missing: Missing = "refuse",
): Page {
  const document = new PDFDocument({
    size: [width, height],
    margin: 0,
    autoFirstPage: true,
    // ours are registered below; the library's own would be read for nothing
    font: "",
    info: { Title: title, Producer: "Varnok", CreationDate: madeAt, ModDate: madeAt },
  })
  // a font that is parsed already is taken as it is; each document embeds the part of it that it needs
  for (const [name, font] of readFaces()) {
    document.registerFont(name, font as unknown as Buffer)
    beginReady(document, name, font)
  }
  missingOf.set(document, { how: missing, texts: new Map() })
  return document
}

const known = new Map<Face, Map<string, "first" | "second" | "none">>()

/** Which face has a sign: the one that is asked for, the second one, or none. */
function faceOf(face: Face, sign: string): "first" | "second" | "none" {
  const own = known.get(face) ?? new Map<string, "first" | "second" | "none">()
  known.set(face, own)
  const found = own.get(sign)
  if (found) return found
  const point = sign.codePointAt(0) as number
  const first = (fonts as readonly (readonly [Face, Font])[]).find(([name]) => name === face)?.[1]
  const has = first?.hasGlyphForCodePoint(point)
    ? "first"
    : !rightToLeft.test(sign) && secondOf(face).hasGlyphForCodePoint(point)
      ? "second"
      : "none"
  own.set(sign, has)
  return has
}
/** Letters of scripts that are written from the right: papers do not set them, so they are refused by name. */
const rightToLeft = /[\p{Script=Hebrew}\p{Script=Arabic}\p{Script=Syriac}\p{Script=Thaana}]/u

/** The signs of a text that the papers' reading face does not have, each once; empty for a text that can be printed. */
export function unprintable(text: string): string {
  readFaces()
  return signsMissing("read", plain(text))
}

/** Signs without a shape are dropped, and breaks are blanks. */
const plain = (text: string): string =>
  text
    .replace(/\s/g, " ")
    .replace(/[\p{Cf}\p{Cc}]/gu, "")
    .normalize("NFC")

const signsMissing = (face: Face, text: string): string =>
  [...new Set(text)].filter((sign) => faceOf(face, sign) === "none").join("")

/** A text as a face can show it; what it can't is noted, and marked. */
function shown(page: Page, face: Face, text: string): string {
  const clean = plain(text)
  const signs = signsMissing(face, clean)
  if (signs === "") return clean
  missingOf.get(page)?.texts.set(clean, signs)
  return [...clean].map((sign) => (faceOf(face, sign) === "none" ? "?" : sign)).join("")
}

/** The runs of a text that one face shows. */
function runsOf(face: Face, text: string): { readonly second: boolean; readonly text: string }[] {
  const runs: { second: boolean; text: string }[] = []
  for (const sign of text) {
    const last = runs.at(-1)
    // a blank between two words of the second face belongs to them
    const second = sign === " " ? (last?.second ?? false) : faceOf(face, sign) === "second"
    if (last && last.second === second) last.text += sign
    else runs.push({ second, text: sign })
  }
  return runs
}

const plainRun = /^[\x20-\x7e]*$/

/** Chooses the second of a face in a document, where it is put in when it is first used. */
function secondFace(page: Page, face: Face): Page {
  const name = `${face} second`
  const had = secondsIn.get(page) ?? new Set<string>()
  secondsIn.set(page, had)
  if (!had.has(name)) {
    had.add(name)
    page.registerFont(name, secondOf(face) as unknown as Buffer)
  }
  return page.font(name)
}
const secondsIn = new WeakMap<Page, Set<string>>()

/** How wide a text is in a face, in whatever faces its signs are. */
export function widthOf(page: Page, face: Face, size: number, text: string): number {
  if (plainRun.test(text)) return page.font(face).fontSize(size).widthOfString(text)
  return runsOf(face, plain(text)).reduce(
    (sum, run) => sum + (run.second ? secondFace(page, face) : page.font(face)).fontSize(size).widthOfString(run.text),
    0,
  )
}

interface Ascending {
  readonly _font: { readonly ascender: number }
}
const ascender = (page: Page): number => (page as unknown as Ascending)._font.ascender

/** Puts one line of text at a place, on one base line whatever faces its signs are in. */
function put(page: Page, face: Face, size: number, text: string, x: number, y: number): void {
  if (plainRun.test(text)) {
    page.font(face).fontSize(size).text(text, x, y, { lineBreak: false })
    return
  }
  const first = ascender(page.font(face))
  let at = x
  for (const run of runsOf(face, text)) {
    if (run.second) secondFace(page, face)
    else page.font(face)
    const lower = ((first - ascender(page)) / 1000) * size
    page.fontSize(size).text(run.text, at, y + lower, { lineBreak: false })
    at += page.widthOfString(run.text)
  }
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
  const face = at.face ?? "read"
  const words = original.flatMap((phrase, index) =>
    shown(page, face, index < original.length - 1 ? `${phrase} ·` : phrase)
      .split(" ")
      .filter(Boolean),
  )
  const broken = (size: number): string[] => {
    const lines: string[] = []
    for (const word of words) {
      const longer = lines.length > 0 ? `${lines.at(-1)} ${word}` : word
      if (lines.length > 0 && widthOf(page, face, size, longer) <= at.width) lines[lines.length - 1] = longer
      else lines.push(word)
    }
    return lines
  }
  let size = at.size
  const fits = (lines: readonly string[]) =>
    lines.length <= at.lines && lines.every((text) => widthOf(page, face, size, text) <= at.width)
  while (size > at.smallest && !fits(broken(size))) size -= 0.25
  const lines = broken(size)
  if (!fits(lines)) misfit(page, at.field, original.join(" · "))
  const step = at.size * 1.18
  lines.slice(0, at.lines).forEach((text, index) => {
    put(page, face, size, text, at.x, at.y + index * step)
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
  const face = at.face ?? "read"
  const text = shown(page, face, original)
  let size = at.size
  while (size > (at.smallest ?? 6) && widthOf(page, face, size, text) > at.width) size -= 0.25
  const wide = widthOf(page, face, size, text)
  if (wide > at.width) misfit(page, at.field ?? "", text)
  const x = at.align === "right" ? at.x + at.width - wide : at.align === "center" ? at.x + (at.width - wide) / 2 : at.x
  put(page, face, size, text, x, at.y)
}
