import { describe, expect, it } from "vitest"
import type { Reason } from "../refusal/index.ts"
import { howFar, howFarAll, inPrintOrder, type RunFacts, type RunLabel, runTotals } from "./index.ts"

const offer = { carrier: "Larkspur Parcel", cost: "12.50", late: false, balance: null, left: false, needs: null }
/** An order that is ready but for what a test says. */
const facts = (more: Partial<RunFacts> = {}): RunFacts => ({
  state: "rated",
  said: [],
  out: null,
  lead: null,
  stops: [],
  ordered: 3,
  picked: 3,
  packed: 3,
  packages: [{ number: 1, flaws: [] }],
  version: 4,
  ratedVersion: 4,
  offer,
  ...more,
})
const saying = (code: string): Reason => ({ code, values: {} })
const step = (more: Partial<RunFacts>) => howFar(facts(more)).step

describe("how far an order of a run is", () => {
  it("is ready when nothing is missing", () => expect(step({})).toBe("ready"))

  // each row has what the rows after it have as well: the first that keeps it is said
  it.each<[string, Partial<RunFacts>]>([
    ["out", { out: saying("order.is-cancelled"), stops: [saying("stop.held")], picked: 0 }],
    ["with", { lead: "48300", stops: [saying("stop.held")], picked: 0 }],
    ["stopped", { stops: [saying("stop.held"), saying("customs.no-code")], picked: 0 }],
    ["customs", { stops: [saying("customs.no-code"), saying("filing.over-value")], picked: 0 }],
    ["not-picked", { picked: 2, packed: 0, packages: [] }],
    ["not-packed", { packed: 2, packages: [{ number: 1, flaws: [saying("flaw.not-weighed")] }] }],
    ["size", { packages: [{ number: 1, flaws: [saying("flaw.too-large"), saying("flaw.not-weighed")] }] }],
    ["weight", { packages: [{ number: 1, flaws: [saying("flaw.not-weighed")] }], state: "failed" }],
    ["failed", { state: "failed", ratedVersion: 3 }],
    ["waiting", { state: "waiting", ratedVersion: 3 }],
    ["stale", { ratedVersion: 3, state: "refused", offer: null }],
    ["no-service", { state: "refused", offer: null }],
    ["not-packed", { offer: { ...offer, needs: "pallet", balance: "0.00" } }],
    ["papers", { said: [saying("dangerous.no-ice-mass")], offer: { ...offer, balance: "12.49" } }],
    ["balance", { offer: { ...offer, balance: "12.49" } }],
  ] as [string, Partial<RunFacts>][])("says %s first", (wanted, more) => expect(step(more)).toBe(wanted))

  it("is stale once its truck has left, and says so", () =>
    expect(howFar(facts({ offer: { ...offer, left: true } }))).toEqual({
      step: "stale",
      reasons: [{ code: "shipping-run.truck-left", values: {} }],
    }))

  it("stays bought, whatever becomes of the order", () =>
    expect(step({ state: "bought", stops: [saying("stop.held")], ratedVersion: 1 })).toBe("bought"))

  it("doubts keep nothing back", () =>
    expect(step({ packages: [{ number: 1, flaws: [saying("doubt.volume")] }] })).toBe("ready"))

  it("names the package that a flaw is of", () =>
    expect(howFar(facts({ packages: [{ number: 2, flaws: [saying("flaw.not-weighed")] }] })).reasons).toEqual([
      { code: "flaw.not-weighed", values: { package: "2" } },
    ]))
})

describe("a prepaid balance", () => {
  it("is taken by the orders in their order: 30.00 reaches for two of 12.50, the third lacks 7.50", () => {
    const prepaid = facts({ offer: { ...offer, balance: "30.00" } })
    const all = howFarAll([prepaid, prepaid, prepaid])
    expect(all.map((one) => one.step)).toEqual(["ready", "ready", "balance"])
    expect(all[2]?.reasons[0]?.values).toEqual({ carrier: "Larkspur Parcel", left: "5.00", lacks: "7.50" })
  })

  it("is taken by what is asked for, and no more by what is bought: that is off it already", () => {
    const prepaid = facts({ offer: { ...offer, balance: "13.00" } })
    expect(howFarAll([{ ...prepaid, state: "asked" }, prepaid]).map((one) => one.step)).toEqual(["asked", "balance"])
    expect(howFarAll([{ ...prepaid, state: "bought" }, prepaid]).map((one) => one.step)).toEqual(["bought", "ready"])
  })

  it("of one carrier is none of another's, nor asked where another pays", () => {
    const prepaid = facts({ offer: { ...offer, balance: "13.00" } })
    const other = facts({ offer: { ...offer, carrier: "Civic Post", balance: "13.00" } })
    const collect = facts({ offer: { ...offer, cost: null, balance: "0.00" } })
    expect(howFarAll([prepaid, other, collect]).map((one) => one.step)).toEqual(["ready", "ready", "ready"])
  })
})

it("sums by carrier, exact to the cent: ten times 0.10 are 1.00", () => {
  const tenth = { carrier: "Civic Post", packages: 1, cost: "0.10", charged: "0.30", late: true }
  const collect = { carrier: "Boreal Runner", packages: 2, cost: null, charged: null, late: false }
  expect(runTotals([...Array(10).fill(tenth), collect])).toEqual({
    all: { shipments: 11, packages: 12, late: 10, cost: "1.00", charged: "3.00" },
    carriers: [
      { carrier: "Boreal Runner", shipments: 1, packages: 2, late: 0, cost: "0.00", charged: "0.00" },
      { carrier: "Civic Post", shipments: 10, packages: 10, late: 10, cost: "1.00", charged: "3.00" },
    ],
  })
})

describe("the order in which labels print", () => {
  const at = (minute: number) => new Date(Date.UTC(2026, 10, 24, 9, minute))
  const label = (
    documentId: number,
    position: number,
    packedAt: Date | null,
    door = "4",
    cutOff = at(50),
  ): RunLabel => ({
    documentId,
    position,
    package: documentId,
    packedAt,
    door,
    cutOff,
  })
  const ids = (labels: readonly RunLabel[], by: "packing" | "doors") =>
    inPrintOrder(labels, by).map((one) => one.documentId)

  it("is that of packing, the packages of a shipment together, then what nobody closed in the run's order", () => {
    const labels = [label(1, 3, null), label(2, 2, null), label(3, 1, at(30)), label(4, 4, at(10)), label(5, 1, at(5))]
    expect(ids(labels, "packing")).toEqual([3, 5, 4, 2, 1])
  })

  it("is that of the trucks, the first to leave first, of two at once by their doors", () => {
    const labels = [
      label(1, 1, at(1), "7", at(58)),
      label(2, 2, at(2), "4", at(55)),
      label(3, 3, at(3), "3", at(58)),
      label(4, 4, at(4), "4", at(55)),
    ]
    expect(ids(labels, "doors")).toEqual([2, 4, 3, 1])
  })
})
