import { readFileSync } from "node:fs"
import { Readable } from "node:stream"
import fc from "fast-check"
import { FileRefused } from "server/formats/orderRow.ts"
import { intakePreview } from "server/intake/file.ts"
import { previewFile } from "server/intake/read.ts"
import { takeIn } from "server/intake/take.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { hasOrder, openRig, type Rig } from "./rig.ts"

/**
 * Order files with bytes and pieces put out of order: each is imported with its bad rows refused, or refused in words;
 * none breaks the reader, and none loses a good order that stands in it untouched.
 */
let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const files = {
  csv: readFileSync("demo/files/orders-noon.csv"),
  edi: readFileSync("demo/files/orders-buyer.edi"),
  json: Buffer.from(
    JSON.stringify({
      orders: [
        {
          number: "F-1",
          orderedOn: "2026-11-24",
          customer: "Elk Run Taproom",
          shipTo: { street: "14 Growler Row", city: "Denver", state: "CO", postalCode: "80205" },
          lines: [{ sku: "YST-ALE-500", quantity: 2 }],
        },
      ],
    }),
  ),
}

/** What happens to a file: bytes changed, cut, doubled, or strange pieces put in. */
const pieces = [
  "\u0000",
  '"',
  "'",
  ";",
  "\r",
  "\n\n",
  "\ud83c\udf7a",
  "\u202e",
  "=1+1",
  "9".repeat(400),
  "{[",
  "UNZ+1'",
  "\ufeff",
  "é",
  "東京",
  "-1",
  "1e9",
  "x".repeat(20_000),
]
const damage = fc.array(
  fc.record({
    at: fc.double({ min: 0, max: 1, noNaN: true }),
    what: fc.oneof(
      fc.constantFrom(...pieces).map((piece) => Buffer.from(piece)),
      fc.uint8Array({ minLength: 1, maxLength: 6 }).map((bytes) => Buffer.from(bytes)),
    ),
    cut: fc.nat(40),
  }),
  { minLength: 1, maxLength: 4 },
)
const damaged = (file: Buffer, all: readonly { at: number; what: Buffer; cut: number }[]) =>
  all.reduce((so, { at, what, cut }) => {
    const place = Math.floor(at * so.length)
    return Buffer.concat([so.subarray(0, place), what, so.subarray(place + cut)])
  }, file)

describe("files that are damaged", () => {
  it.each(Object.entries(files))("%s: each is read, with its faults in words", async (name, file) => {
    await fc.assert(
      fc.asyncProperty(damage, async (all) => {
        try {
          const id = await previewFile(rig.context, "file", `fuzz.${name}`, Readable.from([damaged(file, all)]))
          await takeIn(rig.context, id)
          const preview = await intakePreview(rig.context, id)
          expect(preview?.orders.filter((one) => one.fate === "aside")).toEqual([])
        } catch (error) {
          if (!(error instanceof FileRefused)) throw error
        }
      }),
      { numRuns: 60, seed: 15 },
    )
    // whatever came, what is good comes in
    const good = "order_number,ordered_on,customer,street,city,state,postal_code,address_kind,sku,quantity\n"
    const row = `after-${name},2026-11-23,Elk Run Taproom,14 Growler Row,Denver,CO,80205,business,YST-ALE-500,1\n`
    await takeIn(
      rig.context,
      await previewFile(rig.context, "file", "good.csv", Readable.from([Buffer.from(good + row)])),
    )
    expect(await hasOrder(rig.db, `after-${name}`)).toBe(true)
  })
})
