import { PNG } from "pngjs"
import { afterAll, describe, expect, it } from "vitest"
import { readBack } from "../../tests/readBack.ts"
import { type ClaimModel, claimPdf } from "./claim.ts"

const back = readBack()
afterAll(() => back.end())

const model: ClaimModel = {
  kind: "damage",
  number: "CL-7",
  date: "November 24, 2026",
  claimant: ["Northlake Supply", "400 Canal Park Drive", "Duluth MN 55802"],
  carrier: ["Larkspur Parcel"],
  shipment: ["Tracking LA000000000079", "Shipped November 19, 2026"],
  happened: "Carton wet, two jars broken.",
  goods: [
    {
      sku: "BOT-AMB-500",
      description: "Amber bottle 500 mL, case of 12",
      pieces: "2",
      unitValue: "13.20",
      value: "26.40",
    },
  ],
  sums: [
    { name: "Goods", amount: "$26.40" },
    { name: "Freight", amount: "$15.47" },
    { name: "Claimed", amount: "$41.87" },
  ],
  demand: "We claim payment of $41.87.",
  enclosed: ["wet.png"],
  photos: [],
}
const words = async (more: Partial<ClaimModel> = {}) => {
  const text = back.words(await claimPdf({ ...model, ...more }, new Date("2026-11-24T16:42:00Z")))
  // a form feed ends each sheet
  return { text, sheets: text.split("\f").filter((sheet) => sheet.trim()) }
}
const rowsOf = (text: string) => text.split("\n").map((line) => line.trim().replace(/\s{2,}/g, " | "))
const photo = (name: string) => ({ name, bytes: PNG.sync.write(new PNG({ width: 400, height: 300 })) })

describe("the paper of a claim", () => {
  it("identifies the shipment, names the loss, and asks for a determined amount, on one sheet", async () => {
    const { text, sheets } = await words()
    expect(sheets).toHaveLength(1)
    // 49 CFR 370.3(b): facts that identify the shipment, the assertion of liability, a specified amount (from memory)
    for (const said of [
      "Claim for damage",
      "CL-7",
      ...model.claimant,
      ...model.carrier,
      ...model.shipment,
      model.happened,
      model.demand,
      "wet.png",
    ])
      expect(text).toContain(said)
    expect(rowsOf(text)).toEqual(
      expect.arrayContaining([
        "BOT-AMB-500 | Amber bottle 500 mL, case of 12 | 2 | 13.20 | 26.40",
        "Goods | $26.40",
        "Freight | $15.47",
        "Claimed | $41.87",
      ]),
    )
  })

  it.each([
    ["loss", "Claim for loss"],
    ["shortage", "Claim for shortage"],
  ] as const)("says what it is for: %s", async (kind, title) => {
    expect((await words({ kind })).text).toContain(title)
  })

  it("goes over as many sheets as its goods need, each line once, the sums after the last", async () => {
    const goods = Array.from({ length: 120 }, (_, at) => ({
      sku: `SKU-${1000 + at}`,
      description: `Goods of line ${1000 + at}`,
      pieces: "1",
      unitValue: "2.00",
      value: "2.00",
    }))
    const { text, sheets } = await words({ goods })
    expect(sheets.length).toBeGreaterThan(2)
    for (const { sku } of goods) expect(text.split(sku).length - 1).toBe(1)
    // every sheet says whose it is and which of how many
    for (const sheet of sheets) expect(sheet).toContain("CL-7")
    expect(text.indexOf("$41.87")).toBeGreaterThan(text.indexOf("SKU-1119"))
    expect(text.indexOf(model.demand)).toBeGreaterThan(text.indexOf("$41.87"))
  })

  it("tells a long story whole, and cuts no description", async () => {
    const happened = Array.from({ length: 120 }, (_, at) => `word${at}`).join(" ")
    const description =
      "Conical fermenting tank of stainless steel with a racking arm, two valves, a thermowell and a jacket"
    const { text } = await words({
      happened,
      goods: [{ sku: "TANK-105", description, pieces: "1", unitValue: "1234567.891234", value: "1234567.89" }],
    })
    for (let at = 0; at < 120; at += 1) expect(text).toMatch(new RegExp(`\\bword${at}\\b`))
    const flat = text.replace(/\s+/g, " ")
    for (const word of description.split(/[ ,]+/)) expect(flat).toContain(word)
    expect(text).toContain("1234567.891234")
    expect(text).toContain("1234567.89")
  })

  it("has each photo on a sheet of its own, under its name", async () => {
    const photos = [photo("wet.png"), photo("broken.png")]
    const { sheets } = await words({ photos, enclosed: photos.map((one) => one.name) })
    expect(sheets).toHaveLength(3)
    expect(sheets[0]).toContain("broken.png")
    expect([sheets[1]?.includes("wet.png"), sheets[2]?.includes("broken.png")]).toEqual([true, true])
  })

  it("is the same for the same claim at the same time", async () => {
    const at = new Date("2026-11-24T16:42:00Z")
    const [one, two] = [await claimPdf(model, at), await claimPdf(model, at)]
    expect(one.equals(two)).toBe(true)
  })
})
