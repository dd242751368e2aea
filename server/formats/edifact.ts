import type { Readable } from "node:stream"
import { reason } from "core/refusal/index.ts"
import { FileRefused, limits } from "./orderRow.ts"
import { badByteIn } from "./text.ts"

/** A segment of an interchange: its tag and its data elements, each with its components. */
export interface Segment {
  readonly tag: string
  readonly elements: readonly (readonly string[])[]
  /** Place in the interchange, the first segment being 1. */
  readonly at: number
}

/** A component of a segment, or empty text where it is left out. */
export const component = (segment: Segment | undefined, element: number, part = 0): string =>
  segment?.elements[element]?.[part] ?? ""

const maxSegment = 8_192
const maxSegments = 400_000

/** How the bytes of a syntax identifier of UNB are read; UNOC is ISO 8859-1. Source: ISO 9735-1, annex A. */
const encodings: Readonly<Record<string, string>> = {
  UNOA: "utf-8",
  UNOB: "utf-8",
  UNOC: "latin1",
  UNOW: "utf-8",
  UNOY: "utf-8",
}

/**
 * Reads an interchange segment by segment and without holding it, by the syntax of ISO 9735: service string advice
 * (UNA) where there is one, release character, line ends between segments left out. Throws FileRefused: too large,
 * another character set, a segment without end, text that is no interchange.
 */
export async function* segments(
  source: Readable,
  seen: (chunk: Buffer) => void = () => undefined,
): AsyncGenerator<Segment> {
  let bytes = 0
  let text = ""
  let decoder: TextDecoder | null = null
  let held: Buffer = Buffer.alloc(0)
  let signs = { component: ":", element: "+", release: "?", end: "'" }
  let at = 0
  const decode = (chunk: Buffer, last: boolean): string => {
    if (!decoder) {
      held = Buffer.concat([held, chunk])
      if (held.length < 64 && !last) return ""
      const start = held.toString("latin1").replace(/^\xef\xbb\xbf/, "")
      const head = /^\s*(?:UNA(.{6}))?\s*UNB.(UNO[A-Z])/s.exec(start)
      if (!head) throw new FileRefused(reason("file.not-edifact"))
      const encoding = encodings[head[2] as string]
      if (!encoding) throw new FileRefused(reason("file.edifact-charset", { charset: head[2] as string }))
      if (head[1]) {
        const [c, e, , r, , t] = [...head[1]] as [string, string, string, string, string, string]
        signs = { component: c, element: e, release: r, end: t }
      }
      decoder = new TextDecoder(encoding, { fatal: true })
      chunk = held
    }
    try {
      return decoder.decode(chunk, { stream: !last })
    } catch {
      throw new FileRefused(
        reason("file.not-utf-8", { byte: bytes - chunk.length + badByteIn(chunk, decoder.encoding) }),
      )
    }
  }
  const take = function* (): Generator<Segment> {
    if (at === 0) text = text.replace(/^\ufeff?\s*(UNA.{6})?/s, "")
    for (;;) {
      const end = endOf(text, signs)
      if (end < 0) break
      const raw = text.slice(0, end).replace(/^[\r\n\s]+/, "")
      text = text.slice(end + 1)
      at += 1
      if (at > maxSegments) throw new FileRefused(reason("file.too-many-rows", { limit: maxSegments }))
      yield parsedSegment(raw, signs, at)
    }
    if (text.length > maxSegment)
      throw new FileRefused(reason("file.edifact-open", { segment: at + 1, limit: maxSegment }))
  }
  for await (const part of source) {
    const chunk = part as Buffer
    bytes += chunk.length
    if (bytes > limits.bytes) throw new FileRefused(reason("file.too-large", { limit: limits.bytes / 1024 / 1024 }))
    seen(chunk)
    text += decode(chunk, false)
    if (decoder) yield* take()
  }
  text += decode(Buffer.alloc(0), true)
  yield* take()
  if (text.trim() !== "") throw new FileRefused(reason("file.edifact-open", { segment: at + 1, limit: maxSegment }))
}

function endOf(text: string, signs: { release: string; end: string }): number {
  const limit = Math.min(text.length, maxSegment + 1)
  for (let i = 0; i < limit; i += 1) {
    if (text[i] === signs.release && signs.release !== " ") i += 1
    else if (text[i] === signs.end) return i
  }
  return -1
}

function parsedSegment(
  raw: string,
  signs: { component: string; element: string; release: string },
  at: number,
): Segment {
  const elements: string[][] = [[]]
  let value = ""
  const put = () => {
    elements.at(-1)?.push(value)
    value = ""
  }
  for (let i = 0; i < raw.length; i += 1) {
    const sign = raw[i] as string
    if (sign === signs.release && signs.release !== " ") {
      i += 1
      value += raw[i] ?? ""
    } else if (sign === signs.element) {
      put()
      elements.push([])
    } else if (sign === signs.component) put()
    else value += sign
  }
  put()
  const [tag, ...rest] = elements
  return { tag: tag?.[0] ?? "", elements: rest, at }
}
