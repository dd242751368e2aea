import { Readable } from "node:stream"
import { describe, expect, it } from "vitest"
import { FileRefused } from "./orderRow.ts"
import { wholeText } from "./text.ts"

const refusal = (most: number, ...parts: Buffer[]) =>
  wholeText(Readable.from(parts), most).then(
    () => "read",
    (error: unknown) => (error instanceof FileRefused ? error.reason : error),
  )

describe("a small text file", () => {
  it("is whole though a sign comes in two parts", async () => {
    // é is C3 A9 in UTF-8, and 桶 is E6 A1 B6 (RFC 3629)
    const bytes = Buffer.from('{"name":"Brasserie Élan, 桶"}')
    for (let cut = 1; cut < bytes.length; cut += 1)
      expect(await wholeText(Readable.from([bytes.subarray(0, cut), bytes.subarray(cut)]), 100)).toBe(
        '{"name":"Brasserie Élan, 桶"}',
      )
  })
  it("is refused when it is too large, and the limit is said in figures", async () => {
    expect(await refusal(2_000_000, Buffer.alloc(2_000_001, "x"))).toEqual({
      code: "file.too-large",
      values: { limit: "2" },
    })
    expect(await refusal(2_000_000, Buffer.alloc(2_000_000, "x"))).toBe("read")
  })
  it("is refused when it is no UTF-8, and the first wrong byte is named, counted from 1", async () => {
    // FF is in no UTF-8, and 80 only continues (RFC 3629, section 3)
    const bytes = Buffer.from([0x61, 0x62, 0xc3, 0xa9, 0xff, 0x61])
    for (let cut = 1; cut < bytes.length; cut += 1)
      expect(await refusal(100, bytes.subarray(0, cut), bytes.subarray(cut))).toMatchObject({
        code: "file.not-utf-8",
        values: { byte: "5" },
      })
    expect(await refusal(100, Buffer.from("abcdef"), Buffer.from([0x80, 0x61]))).toMatchObject({
      values: { byte: "7" },
    })
    expect(await refusal(100, Buffer.from("abcdef"), Buffer.from([0xc3]), Buffer.from("a"))).toMatchObject({
      values: { byte: "8" },
    })
  })
})
