import { execFileSync } from "node:child_process"
import { mkdtempSync, rmSync, writeFileSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { deflateSync } from "node:zlib"
import { PNG } from "pngjs"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { facts, made } from "../../tests/paperSamples.ts"
import { drawPapers } from "../papers/drawn.ts"
import { mostPicture, pictureOf } from "./picture.ts"

let folder: string
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "varnok-picture-"))
})
afterAll(() => rmSync(folder, { recursive: true }))

/** A picture of one color, see-through where wanted. */
function drawn(width: number, height: number, alpha = 255): Buffer {
  const picture = new PNG({ width, height })
  for (let at = 0; at < picture.data.length; at += 4) picture.data.set([0, 0, 0, alpha], at)
  return PNG.sync.write(picture)
}
const refusalOf = (bytes: Buffer): string | null => {
  const answer = pictureOf(bytes)
  return "refused" in answer ? answer.refused.code : null
}
const taken = (bytes: Buffer): Buffer => {
  const answer = pictureOf(bytes)
  if ("refused" in answer) throw new Error(answer.refused.code)
  return answer.picture
}

/** A chunk of a PNG as its specification has it: length, name, content, and a check that this test leaves at nothing. */
function chunk(name: string, content: Buffer): Buffer {
  const out = Buffer.alloc(12 + content.length)
  out.writeUInt32BE(content.length, 0)
  out.write(name, 4, "latin1")
  content.copy(out, 8)
  return out
}

describe("a picture of a signature", () => {
  it("stands on the invoice over the signer's name, as an independent reader finds it", async () => {
    const how = { language: "en", madeAt: new Date("2026-11-24T16:00:00Z"), picture: taken(drawn(300, 90)) }
    const papers = await drawPapers(facts(), made, how)
    const invoice = papers.find((one) => one.kind === "invoice")
    writeFileSync(join(folder, "invoice.pdf"), invoice?.bytes ?? "")
    const images = execFileSync("pdfimages", ["-list", join(folder, "invoice.pdf")]).toString()
    expect(images).toMatch(/image\s+300\s+90/)
  })

  it("is written anew on white, so that nothing see-through is left to be taken apart while papers are drawn", () => {
    const read = PNG.sync.read(taken(drawn(2, 1, 51)))
    // black at a fifth on white: 255 × 0.8 = 204
    expect([...read.data.subarray(0, 4)]).toEqual([204, 204, 204, 255])
    // color type 2 stands at the 26th byte: no alpha (PNG specification, IHDR)
    expect(taken(drawn(2, 1, 51))[25]).toBe(2)
  })

  it("is refused where it can't be read, and says what to do", () => {
    const good = drawn(20, 10)
    expect(refusalOf(Buffer.from("GIF89a"))).toBe("signature.kind")
    expect(refusalOf(Buffer.alloc(0))).toBe("signature.kind")
    expect(refusalOf(good.subarray(0, 20))).toBe("signature.broken")
    expect(refusalOf(good.subarray(0, good.length - 30))).toBe("signature.broken")
    const spoiled = Buffer.from(good)
    spoiled.fill(0xff, 45, 55)
    expect(refusalOf(spoiled)).toBe("signature.broken")
    expect(refusalOf(Buffer.concat([Buffer.from([0xff, 0xd8]), Buffer.alloc(40)]))).toBe("signature.broken")
    expect(refusalOf(Buffer.alloc(mostPicture.bytes + 1))).toBe("signature.too-large")
  })

  it("is refused by the size that it says before it is unpacked, once or a second time", () => {
    const head = (width: number, height: number) => {
      const content = Buffer.alloc(13)
      content.writeUInt32BE(width, 0)
      content.writeUInt32BE(height, 4)
      content.set([8, 2, 0, 0, 0], 8)
      return chunk("IHDR", content)
    }
    const signature = drawn(1, 1).subarray(0, 8)
    const body = chunk("IDAT", deflateSync(Buffer.alloc(10)))
    const end = chunk("IEND", Buffer.alloc(0))
    expect(refusalOf(Buffer.concat([signature, head(60_000, 60_000), body, end]))).toBe("signature.too-wide")
    expect(refusalOf(Buffer.concat([signature, head(1, 1), head(60_000, 60_000), body, end]))).toBe("signature.broken")
  })
})
