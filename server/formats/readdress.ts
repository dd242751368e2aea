import { Readable } from "node:stream"
import { component, segments } from "./edifact.ts"
import { interchange, type SegmentOut } from "./edifactOut.ts"

/**
 * A message that was made for one receiver, as an interchange to another: the same segments under other references. As
 * a cancellation its BGM says so (UNCL 1225: 9 original, 1 cancellation; from memory).
 *
 * @param bytes one message in an interchange of its own, as `interchange` writes it
 */
export async function readdressed(
  bytes: Buffer,
  to: { readonly receiver: string; readonly reference: string; readonly at: Date; readonly cancels: boolean },
): Promise<Buffer> {
  const body: SegmentOut[] = []
  let sender = ""
  let type = ""
  for await (const one of segments(Readable.from([bytes]))) {
    if (one.tag === "UNB") sender = component(one, 1)
    else if (one.tag === "UNH") type = component(one, 1)
    else if (one.tag === "BGM" && to.cancels) body.push(["BGM", ...one.elements.slice(0, 2), "1"])
    else if (one.tag !== "UNT" && one.tag !== "UNZ") body.push([one.tag, ...one.elements])
  }
  return Buffer.from(interchange(type, body, { ...to, sender, receiver: to.receiver.slice(0, 35) }), "latin1")
}
