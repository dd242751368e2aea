import * as fc from "fast-check"
import { describe, expect, it } from "vitest"
import { allocateStock, byRight, type Claimant, type StockPlace } from "./index.ts"

const need = { sku: "ELD-FLW-100", quantity: 10, perCase: 1, usableOn: "2026-12-01", minimumLife: 0 }
const lot = (expiresOn: string | null, more: Partial<NonNullable<StockPlace["lot"]>> = {}) => ({
  code: `L${expiresOn}`,
  state: "released" as const,
  receivedOn: "2026-05-01",
  expiresOn,
  ...more,
})
const place = (id: number, free: number, more: Partial<StockPlace> = {}): StockPlace => ({
  id,
  bin: `B${id}`,
  binOrder: id,
  blocked: false,
  lot: null,
  free,
  ...more,
})
const takes = (quantity: number, places: StockPlace[], more: Partial<typeof need> = {}) =>
  allocateStock({ ...need, quantity, ...more }, places).takes.map((take) => [take.stockId, take.quantity])

describe("which lot", () => {
  it("the first expiring before the older", () =>
    expect(
      takes(10, [
        place(1, 50, { lot: lot("2028-01-01") }),
        place(2, 50, { lot: lot("2027-01-01", { receivedOn: "2026-09-01" }) }),
      ]),
    ).toEqual([[2, 10]]))
  it("the oldest where nothing expires", () =>
    expect(
      takes(10, [
        place(1, 50, { lot: lot(null, { receivedOn: "2026-02-02" }) }),
        place(2, 50, { lot: lot(null, { receivedOn: "2026-01-01" }) }),
      ]),
    ).toEqual([[2, 10]]))
  it("goes on with the next where the first has not enough", () =>
    expect(takes(10, [place(1, 4, { lot: lot("2027-01-01") }), place(2, 50, { lot: lot("2028-01-01") })])).toEqual([
      [1, 4],
      [2, 6],
    ]))
  it.each<[string, StockPlace, string]>([
    ["not released", place(1, 50, { lot: lot("2028-01-01", { state: "unreleased" }) }), "stop.lot-unreleased"],
    ["blocked", place(1, 50, { lot: lot("2028-01-01", { state: "blocked" }) }), "stop.lot-blocked"],
    ["expired", place(1, 50, { lot: lot("2026-11-30") }), "stop.lot-expired"],
    ["in a damaged bin", place(1, 50, { blocked: true }), "stop.bin-blocked"],
  ])("never one that is %s, and says so", (_, bad, code) => {
    expect(allocateStock(need, [bad, place(2, 3)])).toMatchObject({
      takes: [{ stockId: 2, quantity: 3 }],
      lacking: 7,
      passedOver: [{ code }],
    })
    // nothing lacks: nobody needs to know
    expect(allocateStock(need, [bad, place(2, 30)]).passedOver).toEqual([])
  })
  it("none that lives shorter than the customer wants: 180 days from 1 December are 30 May", () => {
    const short = place(1, 50, { lot: lot("2027-05-29") })
    const long = place(2, 50, { lot: lot("2027-05-30") })
    expect(
      allocateStock({ ...need, minimumLife: 180 }, [short]).passedOver.map((why) => [why.code, why.values.until]),
    ).toEqual([["stop.lot-too-old", "2027-05-30"]])
    expect(takes(10, [short, long], { minimumLife: 180 })).toEqual([[2, 10]])
  })
})

describe("which bins of one date", () => {
  it("whole cases before one is broken: 14 of cases of 12 are a case and two loose pieces of another bin", () =>
    expect(takes(14, [place(1, 24), place(2, 5)], { perCase: 12 })).toEqual([
      [1, 12],
      [2, 2],
    ]))
  it("one bin where it has the loose pieces too", () =>
    expect(takes(14, [place(1, 26), place(2, 5)], { perCase: 12 })).toEqual([[1, 14]]))
  it("a case is opened where there is no other way", () =>
    expect(takes(14, [place(1, 24), place(2, 1)], { perCase: 12 })).toEqual([[1, 14]]))
  it("the fewest bins, then the first in the aisles", () => {
    expect(takes(10, [place(1, 4), place(2, 6), place(3, 10)])).toEqual([[3, 10]])
    expect(takes(10, [place(5, 20), place(4, 20)])).toEqual([[4, 10]])
  })
  it("of very many small bins as many as it takes", () => {
    const many = Array.from({ length: 40 }, (_, index) => place(index + 1, 1 + (index % 3)))
    const found = allocateStock({ ...need, quantity: 70 }, many)
    expect(found.takes.reduce((sum, take) => sum + take.quantity, 0)).toBe(70)
  })
})

it("never takes more than is free, and says exactly what lacks", () => {
  const any = fc.record({
    free: fc.nat(40),
    expires: fc.constantFrom(null, "2026-11-01", "2027-01-01", "2028-01-01"),
    blocked: fc.boolean(),
    state: fc.constantFrom("released" as const, "unreleased" as const),
  })
  fc.assert(
    fc.property(
      fc.array(any, { maxLength: 16 }),
      fc.integer({ min: 1, max: 200 }),
      fc.constantFrom(1, 6, 12),
      (all, quantity, perCase) => {
        const places = all.map((one, index) =>
          place(index + 1, one.free, { blocked: one.blocked, lot: lot(one.expires, { state: one.state }) }),
        )
        const found = allocateStock(
          { sku: need.sku, quantity, perCase, usableOn: "2026-12-01", minimumLife: 0 },
          places,
        )
        const usable = places.filter(
          (one) => !one.blocked && one.lot?.state === "released" && (one.lot.expiresOn ?? "9") >= "2026-12-01",
        )
        const taken = found.takes.reduce((sum, take) => sum + take.quantity, 0)
        expect(new Set(found.takes.map((take) => take.stockId)).size).toBe(found.takes.length)
        for (const take of found.takes) {
          const from = usable.find((one) => one.id === take.stockId)
          expect(take.quantity).toBeGreaterThan(0)
          expect(take.quantity).toBeLessThanOrEqual(from?.free ?? 0)
        }
        expect(taken + found.lacking).toBe(quantity)
        expect(taken).toBe(
          Math.min(
            quantity,
            usable.reduce((sum, one) => sum + one.free, 0),
          ),
        )
        // nothing later is taken while something of an earlier date is left
        const lastTaken =
          found.takes
            .map((take) => usable.find((one) => one.id === take.stockId)?.lot?.expiresOn ?? "9")
            .sort()
            .at(-1) ?? ""
        for (const one of usable)
          if ((one.lot?.expiresOn ?? "9") < lastTaken)
            expect(found.takes.find((take) => take.stockId === one.id)?.quantity ?? 0).toBe(one.free)
      },
    ),
    { numRuns: 400 },
  )
})

it("ranks by collection, then priority, then who came first", () => {
  const claim = (id: number, leaves: string | null, priority: number, received: string): Claimant => ({
    id,
    leavesAt: leaves ? new Date(leaves) : null,
    priority,
    receivedAt: new Date(received),
  })
  const all = [
    claim(1, null, 2, "2026-11-01"),
    claim(2, "2026-11-25", 0, "2026-11-03"),
    claim(3, "2026-11-25", 1, "2026-11-04"),
    claim(4, "2026-11-24", 0, "2026-11-05"),
    claim(5, "2026-11-25", 0, "2026-11-02"),
  ]
  expect(all.sort(byRight).map((one) => one.id)).toEqual([4, 3, 5, 2, 1])
})
