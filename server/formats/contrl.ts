import type { Readable } from "node:stream"
import { reason } from "core/refusal/index.ts"
import { component, segments } from "./edifact.ts"
import { FileRefused } from "./orderRow.ts"

/** What an acknowledgment says of one interchange that was sent. */
export interface Acknowledgment {
  /** The control reference that the interchange had. */
  readonly reference: string
  readonly accepted: boolean
}

/** Messages in one interchange of acknowledgments at most. */
const most = 1_000

/**
 * Reads an interchange of acknowledgments: UN/EDIFACT CONTRL, whose UCI segment names an interchange by its reference
 * and says what becomes of it (UNCL 0083: 4 rejected, 7 acknowledged, 8 received; ISO 9735-4, from memory). Throws
 * FileRefused: no interchange, no acknowledgment in it, another action, too many.
 */
export async function readContrl(source: Readable): Promise<Acknowledgment[]> {
  const found: Acknowledgment[] = []
  for await (const segment of segments(source)) {
    if (segment.tag !== "UCI") continue
    const action = component(segment, 3)
    if (action !== "4" && action !== "7" && action !== "8")
      throw new FileRefused(reason("edi.answer-action", { segment: segment.at, action }))
    found.push({ reference: component(segment, 0), accepted: action !== "4" })
    if (found.length > most) throw new FileRefused(reason("file.too-many-rows", { limit: most }))
  }
  if (found.length === 0) throw new FileRefused(reason("edi.answer-none"))
  return found
}
