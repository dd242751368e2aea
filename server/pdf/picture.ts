import { type Reason, reason } from "core/refusal/index.ts"
import PDFDocument from "pdfkit"
import { PNG } from "pngjs"

/** A picture of a signature, at most: bytes, and points wide and high. */
export const mostPicture = { bytes: 300 * 1024, width: 2_000, height: 1_000 } as const
/** A PNG is unpacked: it may be no larger than this. */
const mostPng = { width: 3_000, height: 3_000 } as const

interface Most {
  readonly bytes: number
  readonly width: number
  readonly height: number
}

const pngHead = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])

/**
 * A picture that papers can be drawn with: a PNG is read and written anew without what is transparent in it, so that what
 * is drawn is never what somebody sent; a JPEG is tried. Or why it can't be taken.
 */
export function pictureOf(
  bytes: Buffer,
  most: Most = mostPicture,
): { readonly picture: Buffer } | { readonly refused: Reason } {
  if (bytes.length > most.bytes) return { refused: reason("signature.too-large", { kb: most.bytes / 1024 }) }
  if (bytes.subarray(0, 8).equals(pngHead)) return png(bytes, most)
  if (bytes[0] === 0xff && bytes[1] === 0xd8) return jpeg(bytes, most)
  return { refused: reason("signature.kind") }
}

const tooWide = ({ width, height }: Most) => ({ refused: reason("signature.too-wide", { width, height }) })
const broken = { refused: reason("signature.broken") }

function png(bytes: Buffer, most: Most): { readonly picture: Buffer } | { readonly refused: Reason } {
  // the sizes stand first and once: they are looked at before anything is unpacked
  if (bytes.length < 33 || bytes.indexOf("IHDR") !== 12 || bytes.indexOf("IHDR", 16) !== -1) return broken
  const limit = { ...most, width: Math.min(most.width, mostPng.width), height: Math.min(most.height, mostPng.height) }
  if (bytes.readUInt32BE(16) > limit.width || bytes.readUInt32BE(20) > limit.height) return tooWide(limit)
  try {
    const read = PNG.sync.read(bytes)
    const { width, height, data } = read
    const white = new PNG({ width, height, colorType: 2 })
    for (let at = 0; at < data.length; at += 4) {
      const alpha = (data[at + 3] ?? 255) / 255
      for (let color = 0; color < 3; color += 1)
        white.data[at + color] = Math.round((data[at + color] ?? 0) * alpha + 255 * (1 - alpha))
      white.data[at + 3] = 255
    }
    return { picture: PNG.sync.write(white, { colorType: 2, inputHasAlpha: true, filterType: 0 }) }
  } catch {
    return broken
  }
}

/** What the types of the library leave out. */
interface Opens {
  openImage(bytes: Buffer): { readonly width: number; readonly height: number }
}

function jpeg(bytes: Buffer, most: Most): { readonly picture: Buffer } | { readonly refused: Reason } {
  try {
    const trial = new PDFDocument() as InstanceType<typeof PDFDocument> & Opens
    const { width, height } = trial.openImage(bytes)
    if (width > most.width || height > most.height) return tooWide(most)
    if (!(width > 0 && height > 0)) return broken
    trial.image(bytes, 0, 0, { fit: [100, 30] })
    return { picture: bytes }
  } catch {
    return broken
  }
}
