import { readFileSync } from "node:fs"
import { createRequire } from "node:module"
import { Readable } from "node:stream"
// the parts by themselves: its index wants a package that it does not bring
import { Configuration } from "ts-edifact/lib/configuration.js"
import { Parser } from "ts-edifact/lib/parser.js"
import { type MessageType, Tracker } from "ts-edifact/lib/tracker.js"
import { describe, expect, it } from "vitest"
import { segments } from "./edifact.ts"
import { FileRefused } from "./orderRow.ts"
import { readOrdersEdifact } from "./ordersEdifact.ts"

const sample = readFileSync("demo/files/orders-buyer.edi")
/** Segment table of ORDERS, directory D.01B, as the package ts-edifact ships it. */
const table = JSON.parse(
  readFileSync(createRequire(import.meta.url).resolve("ts-edifact/lib/messageSpec/ORDERS.struct.json"), "utf8"),
) as MessageType[]

/** The segments as the independent parser ts-edifact reads them. */
function independently(text: string): [string, string[][]][] {
  const found: [string, string[][]][] = []
  const parser = new Parser(new Configuration({ charset: "UNOC" }))
  parser.onOpenSegment = (name: string) => {
    found.push([name, []])
  }
  parser.onElement = () => {
    found.at(-1)?.[1].push([])
  }
  parser.onComponent = (value: string) => {
    found.at(-1)?.[1].at(-1)?.push(value)
  }
  parser.write(text)
  parser.end()
  return found.filter(([name]) => name !== "UNA")
}

async function ours(bytes: Buffer | string, size = 1 << 16) {
  const buffer = Buffer.from(bytes)
  const parts = Array.from({ length: Math.ceil(buffer.length / size) }, (_, at) =>
    buffer.subarray(at * size, (at + 1) * size),
  )
  const found = []
  for await (const one of segments(Readable.from(parts))) found.push(one)
  return found
}

async function rows(text: string) {
  const found = []
  for await (const row of readOrdersEdifact(Readable.from([Buffer.from(text)]))) found.push(row)
  return found
}
const refusal = async (text: string): Promise<string> => {
  try {
    await rows(text)
    return "read"
  } catch (error) {
    if (error instanceof FileRefused) return error.reason.code
    throw error
  }
}

/** An interchange of messages whose counts are right. */
function interchange(...messages: string[][]): string {
  const whole = messages.flatMap((body, index) => [
    `UNH+${index + 1}+ORDERS:D:01B:UN`,
    ...body,
    `UNT+${body.length + 2}+${index + 1}`,
  ])
  return ["UNB+UNOY:4+A+B+20261124:1005+R1", ...whole, `UNZ+${messages.length}+R1`].map((one) => `${one}'`).join("\n")
}
const head = [
  "BGM+220+X-1+9",
  "DTM+137:20261124:102",
  "NAD+BY+++Elk Run Taproom",
  "NAD+DP+++Elk Run Taproom+14 Growler Row+Denver+CO+80205+US",
]
const line = ["LIN+1", "PIA+5+YST-ALE-500:SA", "QTY+21:4:EA", "PRI+AAA:78.00"]
const good = [...head, ...line, "UNS+S", "CNT+2:1"]

describe("syntax of ISO 9735", () => {
  it("is read as an independent parser reads it, in whatever pieces it arrives", async () => {
    const text = sample.toString("latin1")
    const expected = independently(text.replace(/[^\x00-\x7f]/g, "u"))
    for (const size of [1, 7, 4096]) {
      const found = await ours(Buffer.from(text.replace(/[^\x00-\x7f]/g, "u")), size)
      expect(found.map((one) => [one.tag, one.elements])).toEqual(expected)
    }
    expect(expected.length).toBeGreaterThan(50)
  })
  it("knows other service characters, the release character, and ISO 8859-1", async () => {
    const [, , third] = await ours(
      "UNA.*,? 'UNB*UNOY.4*A*B*261124.1005*R'BGM*220*a?*b?'c.d*9'".replace("UNB", "UNH*1'UNB").replace("UNH*1'", ""),
    )
    expect(third).toBeUndefined()
    const [, second] = await ours("UNA.*,? 'UNB*UNOY.4*A*B*261124.1005*R'BGM*220*a?*b?'c.d*9'")
    expect(second?.elements).toEqual([["220"], ["a*b'c", "d"], ["9"]])
    const latin = await ours(Buffer.from("UNB+UNOC:3+A+B+261124:1005+R'FTX+Zürich'", "latin1"))
    expect(latin[1]?.elements[0]?.[0]).toBe("Zürich")
  })
})

describe("ORDERS D.01B", () => {
  it("the demo's interchange stands in the directory's segment table", () => {
    const tracker = new Tracker(table)
    let messages = 0
    for (const [tag] of independently(sample.toString("latin1").replace(/[^\x00-\x7f]/g, "u"))) {
      if (tag === "UNB" || tag === "UNZ") continue
      if (tag === "UNH") {
        tracker.reset()
        messages += 1
      }
      expect(() => tracker.accept(tag)).not.toThrow()
    }
    expect(messages).toBe(3)
    tracker.reset()
    tracker.accept("UNH")
    expect(() => tracker.accept("LIN")).toThrow()
  })
  it("gives a row for each line item, with the head on each", async () => {
    const found = await rows(sample.toString("utf8"))
    expect(found.map((row) => [row.row?.order_number, row.row?.sku, row.row?.quantity, row.refusals.length])).toEqual([
      ["BF-2201", "YST-LAG-500", 10, 0],
      ["BF-2201", "HOP-SAA-5", 2, 0],
      ["BF-2202", "CLA-15-EPDM", 24, 0],
      ["BF-2203", "MALT-PIL-50", 20, 0],
      ["BF-2203", "NO-SUCH-ITEM", 1, 0],
    ])
    expect(found[0]?.row).toMatchObject({
      customer: "Barrow & Finch Brewing",
      attention: "Cellar",
      street: "118 Mashtun Way",
      city: "Minneapolis",
      state: "MN",
      postal_code: "55413",
      ordered_on: "2026-11-24",
      promised_on: "2026-12-01",
      notes: "Ring at the cellar door, it's green",
      unit: "each",
      unit_price: "74.00",
    })
    expect(found[2]?.row).toMatchObject({
      country: "CH",
      incoterm: "DAP",
      incoterm_place: "Zürich",
      phone: "+41 44 555 01 42",
    })
  })
  it("takes a GTIN instead of an article, and a case by its unit", async () => {
    const [row] = await rows(interchange([...head, "LIN+1++09521234001010:SRV", "QTY+21:2:CT", "UNS+S"]))
    expect(row?.row).toMatchObject({ sku: "", gtin: "09521234001010", unit: "case", quantity: 2 })
  })
  it.each<[string, string[], string]>([
    // 1225 Message function code, from memory: 4 is a change in part, which would lose the lines it does not name
    ["a change in part", good.map((one) => one.replace("X-1+9", "X-1+4")), "row.edifact-function"],
    ["another count of lines", good.map((one) => one.replace("CNT+2:1", "CNT+2:2")), "row.edifact-lines"],
    ["no line", [...head, "UNS+S"], "row.edifact-no-lines"],
    ["no quantity", good.filter((one) => !one.startsWith("QTY")), "row.not-a-quantity"],
    ["a date that is none", good.map((one) => one.replace("20261124", "20261340")), "row.not-a-date"],
    ["no buyer", good.filter((one) => !one.startsWith("NAD+BY")), "row.missing"],
  ])("refuses a message with %s, and reads the one beside it", async (_, bad, code) => {
    const found = await rows(interchange(bad, good))
    expect(found[0]?.refusals.map((one) => one.code)).toContain(code)
    expect(found.at(-1)?.row?.order_number).toBe("X-1")
  })
  it("reads a cancellation, with its lines or without", async () => {
    const cancelled = good.map((one) => one.replace("X-1+9", "X-1+1"))
    expect((await rows(interchange(cancelled)))[0]?.row).toMatchObject({
      order_number: "X-1",
      source_state: "cancelled",
    })
    const [bare] = await rows(interchange([...head.map((one) => one.replace("X-1+9", "X-1+1")), "UNS+S"]))
    expect(bare?.row).toMatchObject({ order_number: "X-1", source_state: "cancelled", bare: true })
  })
  it("refuses a message whose own count or reference is wrong", async () => {
    const text = interchange(good)
    expect((await rows(text.replace(/UNT\+\d+\+1/, "UNT+99+1")))[0]?.refusals[0]?.code).toBe("row.edifact-count")
    expect((await rows(text.replace(/(UNT\+\d+\+)1/, "$17")))[0]?.refusals[0]?.code).toBe("row.edifact-reference")
    expect((await rows(text.replace("ORDERS:D:01B", "INVOIC:D:01B")))[0]?.refusals[0]?.code).toBe("row.edifact-type")
  })
  it.each<[string, (text: string) => string, string]>([
    ["cut off", (text) => text.slice(0, text.indexOf("UNZ")), "file.edifact-cut"],
    ["with another count of messages", (text) => text.replace("UNZ+1", "UNZ+2"), "file.edifact-unz"],
    ["with another reference", (text) => text.replace("UNZ+1+R1", "UNZ+1+R2"), "file.edifact-unz"],
    ["with a segment outside", (text) => text.replace("UNH", "BGM+1'UNH"), "file.edifact-outside"],
    ["without UNT", (text) => text.replace(/UNT[^']*'/, ""), "file.edifact-no-unt"],
    ["of another character set", (text) => text.replace("UNOY", "UNOE"), "file.edifact-charset"],
    ["that is none", () => "UNA is not enough", "file.not-edifact"],
    ["that never ends a segment", (text) => text.replace(/'/g, "~"), "file.edifact-open"],
    ["with a segment of a million signs", (text) => text.replace("X-1", "X".repeat(1_000_000)), "file.edifact-open"],
    ["with something after its end", (text) => `${text}\nUNB+UNOY:4+A+B+1:1+R2'`, "file.edifact-after-end"],
  ])("refuses an interchange %s", async (_, spoil, code) => {
    expect(await refusal(spoil(interchange(good)))).toBe(code)
  })
  it("is not held up by an endless file", async () => {
    let sent = 0
    const endless = new Readable({
      read() {
        sent += 1
        this.push(
          Buffer.from(sent === 1 ? (interchange(good).split("UNZ")[0] ?? "") : "UNH+9+ORDERS:D:01B:UN'".repeat(2000)),
        )
      },
    })
    const read = async () => {
      for await (const _ of readOrdersEdifact(endless)) {
        // until it is refused
      }
    }
    await expect(read()).rejects.toThrow(FileRefused)
    endless.destroy()
  })
})
