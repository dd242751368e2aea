import type { Readable } from "node:stream"
import { JSONParser } from "@streamparser/json"
import { reason } from "core/refusal/index.ts"
import { FileRefused, limits, type ReadRow } from "./orderRow.ts"
import { rowsOfAnything } from "./ordersJson.ts"
import { textOf } from "./text.ts"

/**
 * Reads a file of orders as JSON (RFC 8259): one, a list, or `{ "orders": […] }`, order by order and without holding
 * the list. Throws FileRefused: too large, nested too deep, no JSON, an order larger than what one may be, no orders.
 */
export async function* readOrdersJson(
  source: Readable,
  seen: (chunk: Buffer) => void = () => undefined,
): AsyncGenerator<ReadRow> {
  const depth = depthGuard(limits.depth)
  const found: unknown[] = []
  let parser: JSONParser | null = null
  /** An object that may be a single order is kept as text until it is known to be a list by name. */
  let single: string | null = null
  let size = 0
  let any = false
  let line = 1
  function* taken(): Generator<ReadRow> {
    for (const order of found.splice(0)) {
      any = true
      size = 0
      const rows = rowsOfAnything(order, line)
      line += rows.length
      yield* rows
    }
  }
  try {
    for await (const text of textOf(source, "auto", seen)) {
      depth(text)
      const begin = parser ? "" : /\S/.exec(text)?.[0]
      if (!parser && begin) {
        single = begin === "{" ? "" : null
        parser = new JSONParser({ paths: [begin === "[" ? "$.*" : "$.orders.*"], keepStack: false })
        parser.onValue = ({ value }) => void found.push(value)
      }
      // in small pieces, so that one order never grows past its limit unseen
      for (let at = 0; at < text.length; at += 65_536) {
        const piece = text.slice(at, at + 65_536)
        parser?.write(piece)
        size += piece.length
        if (found.length > 0) single = null
        if (single !== null) single += piece
        yield* taken()
        if (size > limits.jsonBytes)
          throw new FileRefused(reason("file.order-too-large", { limit: limits.jsonBytes / 1024 / 1024 }))
      }
    }
    if (!parser) throw new FileRefused(reason("file.empty"))
    if (!parser.isEnded) parser.end()
    if (!any && single !== null) {
      const value = JSON.parse(single) as { orders?: unknown }
      if (!Array.isArray(value.orders)) found.push(value)
      yield* taken()
    }
  } catch (error) {
    if (error instanceof FileRefused) throw error
    const detail = (error as Error).message.replaceAll("\n", " ").slice(0, 80)
    throw new FileRefused(reason("file.not-json", { detail }))
  }
  if (!any) throw new FileRefused(reason("file.empty"))
}

/** Counts open brackets over the pieces of a text; throws FileRefused when they are nested deeper than `most`. */
function depthGuard(most: number): (text: string) => void {
  let depth = 0
  let inText = false
  let escaped = false
  return (text) => {
    for (let i = 0; i < text.length; i += 1) {
      const sign = text.charCodeAt(i)
      if (escaped) escaped = false
      else if (inText) {
        if (sign === 0x5c) escaped = true
        else if (sign === 0x22) inText = false
      } else if (sign === 0x22) inText = true
      else if (sign === 0x5b || sign === 0x7b) {
        depth += 1
        if (depth > most) throw new FileRefused(reason("file.too-deep", { limit: most }))
      } else if (sign === 0x5d || sign === 0x7d) depth -= 1
    }
  }
}
