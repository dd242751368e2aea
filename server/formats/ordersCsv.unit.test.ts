import { Readable } from "node:stream"
import { describe, expect, it } from "vitest"
import { FileRefused, limits } from "./orderRow.ts"
import { readOrdersCsv } from "./ordersCsv.ts"

const header = "order_number,ordered_on,customer,street,city,state,postal_code,sku,quantity"
const good = "SO-1,2026-11-23,Elk Run,14 Growler Row,Denver,CO,80205,YST-ALE-500,4"

async function read(...parts: (string | Buffer)[]) {
  const rows = []
  for await (const row of readOrdersCsv(Readable.from(parts.map((part) => Buffer.from(part))))) rows.push(row)
  return rows
}
const refusal = async (...parts: (string | Buffer)[]): Promise<string> => {
  try {
    await read(...parts)
    return "read"
  } catch (error) {
    if (error instanceof FileRefused) return error.reason.code
    throw error
  }
}

describe("RFC 4180", () => {
  it("reads quotes, commas and line breaks inside fields, and either line end", async () => {
    const rows = await read(`${header},notes\r\n${good},"says ""hi"", then\r\nleaves"\r\n${good},plain\n`)
    expect(rows.map((row) => row.row?.notes)).toEqual(['says "hi", then\r\nleaves', "plain"])
    expect(rows.map((row) => row.line)).toEqual([2, 4])
  })
  it("reads a byte-order mark, semicolons and tabs", async () => {
    expect((await read(`\ufeff${header}\n${good}`))[0]?.row?.order_number).toBe("SO-1")
    expect((await read(`${header}\n${good}`.replaceAll(",", ";")))[0]?.row?.quantity).toBe(4)
    expect((await read(`${header}\n${good}`.replaceAll(",", "\t")))[0]?.row?.city).toBe("Denver")
  })
  it("takes text that begins with = + - @ as data", async () => {
    expect((await read(`${header},notes\n${good},"=HYPERLINK(""x"")"`))[0]?.row?.notes).toBe('=HYPERLINK("x")')
  })
  it("reads UTF-16 of either order, with its mark or without", async () => {
    const text = `${header}\n${good.replace("Denver", "Zürich")}`
    const swapped = (bytes: Buffer) => Buffer.from(bytes).swap16()
    for (const bytes of [
      Buffer.from(`\ufeff${text}`, "utf16le"),
      swapped(Buffer.from(`\ufeff${text}`, "utf16le")),
      Buffer.from(text, "utf16le"),
      swapped(Buffer.from(text, "utf16le")),
    ]) {
      // also when a letter is cut in two
      const cut = text.indexOf("ü") * 2 + 1
      expect((await read(bytes.subarray(0, cut), bytes.subarray(cut)))[0]?.row?.city).toBe("Zürich")
    }
  })
  it("leaves a decimal comma alone where semicolons part the columns", async () => {
    const rows = await read(`${header},unit_price\n${good},`.replaceAll(",", ";").concat("12,50"))
    expect(rows[0]?.refusals).toMatchObject([{ code: "row.not-a-price", values: { value: "12,50" } }])
  })
  it("takes an apostrophe off that an export put before a formula", async () => {
    expect((await read(`${header},notes\n${good},"'=1+1"`))[0]?.row?.notes).toBe("=1+1")
    expect((await read(`${header},notes\n${good},'tis so`))[0]?.row?.notes).toBe("'tis so")
  })
  it("reads letters cut in two by the chunks they arrive in", async () => {
    const bytes = Buffer.from(`${header}\n${good.replace("Denver", "Montréal")}`)
    const cut = bytes.indexOf(0xc3) + 1
    expect((await read(bytes.subarray(0, cut), bytes.subarray(cut)))[0]?.row?.city).toBe("Montréal")
  })
})

describe("a bad row", () => {
  it("is refused with line, field and reason, and the others are kept", async () => {
    const rows = await read(
      `${header}\n${good}\n${good.replace(",4", ",four")}\n${good.replace("2026-11-23", "2026-02-30")}\n${good}`,
    )
    expect(rows.map((row) => row.row !== null)).toEqual([true, false, false, true])
    expect(rows[1]?.refusals).toEqual([
      { code: "row.not-a-quantity", values: { line: "3", field: "quantity", value: "four" } },
    ])
    expect(rows[2]?.refusals[0]).toMatchObject({ code: "row.not-a-date", values: { line: "4", field: "ordered_on" } })
  })
  it("is refused for missing columns and control characters", async () => {
    const rows = await read(`${header}\nSO-1,2026-11-23\n${good.replace("Denver", "Den\u0001ver")}`)
    expect(rows.map((row) => row.refusals[0]?.code)).toEqual(["row.column-count", "row.control-characters"])
  })
})

describe("a bad file", () => {
  it.each<[string, string | Buffer, string]>([
    ["without rows", `${header}\n`, "file.empty"],
    ["without a needed column", "order_number,sku\nSO-1,X", "file.columns-missing"],
    ["with a column twice", `${header},sku\n${good},Y`, "file.columns-twice"],
    ["in Latin-1", Buffer.from(`${header}\n${good.replace("Denver", "Montréal")}`, "latin1"), "file.not-utf-8"],
    ["of bytes", Buffer.from([1, 2, 0, 3]), "file.not-text"],
    ["with a quote left open", `${header}\n"${"x".repeat(limits.recordBytes * 2)}`, "file.row-too-long"],
    ["with a stray quote", `${header}\nSO-1,20"26`, "file.not-csv"],
  ])("%s", async (_, bytes, expected) => expect(await refusal(bytes)).toBe(expected))

  it("larger than the limit is refused while it arrives", async () => {
    let sent = 0
    const block = `${header.replaceAll(/[^,]+/g, "x")},${"long notes ".repeat(1000)}
`
    const source = Readable.from(
      (function* () {
        yield Buffer.from(`${header},notes\n`)
        for (;;) {
          sent += block.length
          yield Buffer.from(block)
        }
      })(),
    )
    const consume = async () => {
      for await (const row of readOrdersCsv(source)) expect(row.refusals.length).toBeGreaterThan(0)
    }
    await expect(consume().finally(() => source.destroy())).rejects.toMatchObject({
      reason: { code: "file.too-large" },
    })
    expect(sent).toBeLessThan(limits.bytes + 4 * 1024 * 1024)
  }, 60_000)
})
