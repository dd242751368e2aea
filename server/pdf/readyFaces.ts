import { deflateSync } from "node:zlib"
import type { Font } from "fontkit"
import PDFDocument from "pdfkit"

/** Signs that nearly every paper is written in: a face with these is packed once and goes into every document as it is. */
const usual = `${Array.from({ length: 95 }, (_, at) => String.fromCharCode(32 + at)).join("")}×–’“”`

/** What the library keeps of a face in a document, as far as it is ours to know (pdfkit 0.20, `font/embedded`). */
interface Embedded {
  readonly font: Font
  readonly subset: { readonly glyphs: number[]; readonly mapping: Record<number, number>; encode(): Uint8Array }
  unicode: (readonly number[])[]
  widths: number[]
  readonly document: { ref(data?: object): Ref }
  encode(text: string): unknown
  embed(): void
  layoutRun(text: string): unknown
  layoutCached(text: string): unknown
  toUnicodeCmap(): unknown
}
interface Ref {
  readonly data: Record<string, unknown>
  end(bytes?: Uint8Array): void
}

/** A face with the usual signs, as every document holds it. */
interface Ready {
  readonly glyphs: readonly number[]
  readonly unicode: readonly (readonly number[])[]
  readonly widths: readonly number[]
  /** The face itself and what its signs stand for, packed. */
  readonly file: Uint8Array
  readonly cmap: Uint8Array
  /** Texts as they were laid out: labels say many of them again. */
  readonly shaped: Map<string, unknown>
}
/** Texts that a face remembers at most. */
const mostShaped = 4_000
const ready = new WeakMap<Font, Ready>()

const embeddedOf = (document: PDFKit.PDFDocument, name: string): Embedded => {
  document.font(name)
  return (document as unknown as { readonly _font: Embedded })._font
}

/** Draws the usual signs in a document that is thrown away, and packs what it would hold of the face. */
function readied(font: Font): Ready {
  const draft = new PDFDocument({ font: "", autoFirstPage: false })
  draft.registerFont("face", font as unknown as Buffer)
  const face = embeddedOf(draft, "face")
  face.encode(usual)
  return {
    glyphs: [...face.subset.glyphs],
    unicode: [...face.unicode],
    widths: [...face.widths],
    file: deflateSync(face.subset.encode()),
    cmap: deflateSync(cmapOf(face)),
    shaped: new Map(),
  }
}

/** What the signs of a face stand for, as the library writes it. */
function cmapOf(face: Embedded): Uint8Array {
  let text: Uint8Array | string = ""
  const { document } = face
  const ref = document.ref
  const end = (bytes?: Uint8Array | string) => {
    text = bytes ?? ""
  }
  document.ref = () => ({ data: {}, end })
  face.toUnicodeCmap()
  document.ref = ref
  return Buffer.from(text)
}

/**
 * Begins a face of a document with the usual signs in it. Where the document says nothing else, what is kept of them is
 * written as it is: taking a face apart and packing its parts is most of the time that a label takes. Where it has other
 * signs too, the library does what it does anyway.
 */
export function beginReady(document: PDFKit.PDFDocument, name: string, font: Font): void {
  const own = ready.get(font) ?? readied(font)
  ready.set(font, own)
  const face = embeddedOf(document, name)
  own.glyphs.forEach((glyph, at) => {
    face.subset.glyphs[at] = glyph
    face.subset.mapping[glyph] = at
  })
  face.unicode = [...own.unicode]
  face.widths = [...own.widths]
  face.layoutCached = (text) => {
    const known = own.shaped.get(text) ?? face.layoutRun(text)
    if (own.shaped.size >= mostShaped) own.shaped.clear()
    own.shaped.set(text, known)
    return known
  }
  const [embed, toUnicodeCmap] = [face.embed.bind(face), face.toUnicodeCmap.bind(face)]
  const asReady = () => face.subset.glyphs.length === own.glyphs.length
  const packed = (bytes: Uint8Array) => {
    const ref = face.document.ref({ Filter: "FlateDecode" })
    ref.end(bytes)
    return ref
  }
  face.toUnicodeCmap = () => (asReady() ? packed(own.cmap) : toUnicodeCmap())
  face.embed = () => {
    if (!asReady()) return embed()
    // the first object that it asks for is the face itself
    const { document, subset } = face
    const [ref, encode] = [document.ref, subset.encode]
    document.ref = (data) => {
      document.ref = ref
      const file = document.ref({ ...data, Filter: "FlateDecode" })
      return Object.assign(Object.create(file), { end: () => file.end(own.file) })
    }
    subset.encode = () => own.file
    try {
      embed()
    } finally {
      document.ref = ref
      subset.encode = encode
    }
  }
}
