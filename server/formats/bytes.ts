import type { Readable } from "node:stream"
import { reason } from "core/refusal/index.ts"
import { FileRefused } from "./orderRow.ts"

/** All bytes of a file that is small enough. Throws FileRefused where it is larger than `most`, before more is held. */
export async function wholeBytes(source: Readable, most: number): Promise<Buffer> {
  const parts: Buffer[] = []
  let held = 0
  for await (const part of source) {
    held += (part as Buffer).length
    if (held > most) throw new FileRefused(reason("file.too-large", { limit: Math.floor(most / 1024 / 1024) }))
    parts.push(part as Buffer)
  }
  return Buffer.concat(parts)
}
