import type { Readable } from "node:stream"
import { reason } from "core/refusal/index.ts"
import { FileRefused, limits } from "./orderRow.ts"

/** How the bytes of a text file are read; `auto` goes by the byte-order mark, or by where the zero bytes stand. */
export const encodings = ["auto", "utf-8", "utf-16le", "utf-16be", "windows-1252"] as const
export type Encoding = (typeof encodings)[number]

/**
 * The text of a file as it arrives, without its byte-order mark. `seen` is given every chunk that was good, such as to
 * hash the file. Throws FileRefused: too large, bytes that are not of the encoding, no text at all.
 */
export async function* textOf(
  source: Readable,
  encoding: Encoding = "auto",
  seen: (chunk: Buffer) => void = () => undefined,
): AsyncGenerator<string> {
  let decoder: TextDecoder | null = null
  let detected: Exclude<Encoding, "auto"> = "utf-8"
  let held: Buffer = Buffer.alloc(0)
  let bytes = 0
  const decode = (chunk: Buffer, last: boolean): string => {
    try {
      return (decoder as TextDecoder).decode(chunk, { stream: !last })
    } catch {
      const byte = bytes - chunk.length + badByteIn(chunk, detected)
      throw new FileRefused(
        reason(detected === "utf-8" ? "file.not-utf-8" : "file.not-encoded", { byte, encoding: detected }),
      )
    }
  }
  for await (const part of source) {
    let chunk = part as Buffer
    bytes += chunk.length
    if (bytes > limits.bytes) throw new FileRefused(reason("file.too-large", { limit: limits.bytes / 1024 / 1024 }))
    seen(chunk)
    if (!decoder) {
      held = Buffer.concat([held, chunk])
      if (held.length < 4) continue
      detected = encoding === "auto" ? sniffedEncoding(held) : encoding
      decoder = new TextDecoder(detected, { fatal: true })
      chunk = held
    }
    if (!detected.startsWith("utf-16") && chunk.includes(0)) throw new FileRefused(reason("file.not-text"))
    const text = decode(chunk, false)
    if (text) yield text
  }
  if (!decoder) {
    if (held.includes(0)) throw new FileRefused(reason("file.not-text"))
    decoder = new TextDecoder("utf-8", { fatal: true })
    yield decode(held, false)
  }
  const end = decode(Buffer.alloc(0), true)
  if (end) yield end
}

/**
 * Where in a piece of a file the first bytes stand that are not of an encoding, counted from 1. A piece may begin in the
 * middle of a sign that is right.
 */
export function badByteIn(chunk: Buffer, encoding: string): number {
  const begins = encoding === "utf-8" ? [0, 1, 2, 3].find((at) => ((chunk[at] ?? 0) & 0xc0) !== 0x80) : 0
  const piece = chunk.subarray(begins ?? 0)
  const good = (length: number): boolean => {
    try {
      new TextDecoder(encoding, { fatal: true }).decode(piece.subarray(0, length), { stream: true })
      return true
    } catch {
      return false
    }
  }
  let [low, high] = [0, piece.length]
  while (low < high) {
    const middle = Math.ceil((low + high) / 2)
    if (good(middle)) low = middle
    else high = middle - 1
  }
  // what is right by itself was wrong as the end of the piece before
  return low < piece.length ? (begins ?? 0) + low + 1 : 1
}

/** A small text file as a whole. Throws FileRefused as `textOf` does, and for more than `most` signs. */
export async function wholeText(source: Readable, most: number): Promise<string> {
  let text = ""
  for await (const part of textOf(source)) {
    text += part
    if (text.length > most) throw new FileRefused(reason("file.too-large", { limit: Math.floor(most / 1_000_000) }))
  }
  return text
}

function sniffedEncoding(head: Buffer): Exclude<Encoding, "auto"> {
  const [a, b, c, d] = [...head.subarray(0, 4)] as [number, number, number, number]
  if (a === 0xff && b === 0xfe) return "utf-16le"
  if (a === 0xfe && b === 0xff) return "utf-16be"
  // without a mark: letters of the header leave every other byte zero
  if (a !== 0 && b === 0 && c !== 0 && d === 0) return "utf-16le"
  if (a === 0 && b !== 0 && c === 0 && d !== 0) return "utf-16be"
  return "utf-8"
}
