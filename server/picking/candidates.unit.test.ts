import { describe, expect, it } from "vitest"
import { type Candidate, groupsOf, inGroup, isSingle, runOrderOf } from "./candidates.ts"

const stop = (bin: string, zone: string, sku: string, quantity = 1, litres = 2) => ({
  bin,
  zone,
  sku,
  quantity,
  litres,
  kilograms: 1,
})
const collection = (id: number, door: string, carrier: string) => ({
  id,
  door,
  carrier,
  cutOff: new Date("2026-11-24T20:15:00Z"),
})
const order = (
  id: number,
  customer: string,
  at: Candidate["collection"],
  ...stops: Candidate["stops"][number][]
): Candidate => ({ id, orderNumber: String(48_200 + id), customer, promisedOn: null, collection: at, stops })
const all = [
  order(1, "Elk Run", collection(7, "4", "Larkspur"), stop("A-1", "", "PH"), stop("D-1", "COLD", "YST")),
  order(2, "Elk Run", collection(8, "1", "Larkspur"), stop("D-1", "COLD", "YST", 4)),
  order(3, "Pine & Anvil", collection(9, "6", "Meridian"), stop("A-1", "", "PH"), stop("A-2", "", "PH")),
  order(4, "Pine & Anvil", null, stop("Q-1", "CAGE", "CLN", 2, 30)),
]
const ids = (some: readonly Candidate[]) => some.map((one) => one.id)

describe("orders that can go into a run", () => {
  it.each<[Parameters<typeof inGroup>[1], string, number[]]>([
    ["all", "", [1, 2, 3, 4]],
    ["collection", "8", [2]],
    ["carrier", "Larkspur", [1, 2]],
    ["customer", "Pine & Anvil", [3, 4]],
    ["item", "YST", [1, 2]],
    ["single", "", [2, 3, 4]],
    ["zone", "COLD", [1, 2]],
    ["zone", "", [1, 3]],
  ])("by %s %s", (by, value, expected) => expect(ids(inGroup(all, by, value, []))).toEqual(expected))
  it("chosen by hand", () => expect(ids(inGroup(all, "hand", "", [3, 1, 99]))).toEqual([1, 3]))
  it("by zone with only what lies there", () =>
    expect(inGroup(all, "zone", "COLD", [])[0]?.stops.map((one) => one.sku)).toEqual(["YST"]))
  it("are told apart with how many there are of each, an order once", () => {
    expect(groupsOf(all, "item").map((one) => [one.value, one.orders])).toEqual([
      ["PH", 2],
      ["YST", 2],
      ["CLN", 1],
    ])
    expect(groupsOf(all, "collection").map((one) => [one.label, one.orders])).toEqual([
      ["4", 1],
      ["1", 1],
      ["6", 1],
    ])
    expect(groupsOf(all, "all")).toEqual([])
  })
  it("of one item in two bins are orders of one item", () =>
    expect(all.filter(isSingle).map((one) => one.id)).toEqual([2, 3, 4]))
  it("need totes by their litres: 60 l are two totes of 40 that are filled to four fifths", () => {
    expect(runOrderOf({ ...(all[3] as Candidate), stops: [stop("Q-1", "CAGE", "CLN", 2, 60)] }, 40)).toMatchObject({
      bins: ["Q-1"],
      litres: 60,
      totes: 2,
    })
    expect(runOrderOf(all[2] as Candidate, null)).toMatchObject({
      bins: ["A-1", "A-2"],
      litres: 4,
      kilograms: 2,
      totes: 1,
    })
  })
})
