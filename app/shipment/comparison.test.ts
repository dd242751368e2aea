import type { LocalDate } from "core/calendar/index.ts"
import { describe, expect, it } from "vitest"
import { dodged } from "./dodge.ts"
import { ledgerWays, sorted } from "./ledger.ts"
import { cheapest, fastest } from "./serviceChoice.ts"

const offer = (
  code: string,
  amount: string | null,
  date: LocalDate | "",
  more: {
    late?: boolean
    down?: boolean
    short?: { left: string; lacks: string; currency: string }
    payer?: "receiver"
  } = {},
) => ({
  code,
  name: code,
  contract: amount === null ? null : { amount, currency: "USD" },
  list: amount === null ? null : { amount: String(1000 - Number(amount)), currency: "USD" },
  arrives: amount === null || date === "" ? null : { date, time: "12:00" as const },
  late: more.late ?? false,
  down: more.down ?? false,
  short: more.short ?? null,
  payer: more.payer ?? null,
})

describe("one key", () => {
  const offers = [
    offer("LATE", "5.00", "2026-12-04", { late: true }),
    offer("SLOW", "9.00", "2026-12-02"),
    offer("SOON", "9.00", "2026-12-01"),
    offer("FAST", "90.00", "2026-11-25"),
    offer("DOWN", "1.00", "2026-11-24", { down: true }),
    offer("POOR", "1.00", "2026-11-24", { short: { left: "0", lacks: "1", currency: "USD" } }),
    offer("NONE", null, ""),
  ]
  it("chooses the cheapest in time, the earlier of two at one price", () => expect(cheapest(offers)?.code).toBe("SOON"))
  it("chooses the one that arrives first of those that can be bought", () => expect(fastest(offers)?.code).toBe("FAST"))
  it("chooses the cheapest of all where none is in time, and what is down where nothing else is there", () => {
    expect(cheapest(offers.filter((one) => one.late || one.down))?.code).toBe("LATE")
    expect(cheapest(offers.filter((one) => one.down))?.code).toBe("DOWN")
    expect([cheapest([]), fastest([offer("NONE", null, "")])]).toEqual([null, null])
  })
  it("goes by what is published where another pays", () => {
    const theirs = [
      offer("A", "10.00", "2026-12-01", { payer: "receiver" }),
      offer("B", "20.00", "2026-12-01", { payer: "receiver" }),
    ]
    expect(cheapest(theirs)?.code).toBe("B")
  })
})

describe("the ledger", () => {
  const rows = [
    offer("LATE", "5.00", "2026-12-04", { late: true }),
    offer("DEAR", "90.00", "2026-11-25"),
    offer("CHEAP", "9.00", "2026-12-01"),
  ]
  it("has those in time first, by cost or by arrival", () => {
    expect(sorted(rows, "contract").map((one) => one.code)).toEqual(["CHEAP", "DEAR", "LATE"])
    expect(sorted(rows, "arrives").map((one) => one.code)).toEqual(["DEAR", "CHEAP", "LATE"])
  })
  it("is remembered in the address, and what is not changed stays", () => {
    const ways = ledgerWays(new URLSearchParams("service=LKG&hide=MERI"))
    expect([ways.sort, [...ways.hidden]]).toEqual(["contract", ["MERI"]])
    expect(ways.to({ sort: "arrives" })).toBe("?service=LKG&hide=MERI&sort=arrives")
    expect(ways.to({ hidden: new Set() })).toBe("?service=LKG")
    expect(ways.to({ hidden: new Set(["SWIF", "MERI"]), service: "MDS" })).toBe("?service=MDS&hide=MERI%2CSWIF")
  })
})

describe("circles on the plot", () => {
  const far = (spots: readonly { x: number; y: number }[]) =>
    spots.every((a, i) => spots.every((b, j) => i >= j || Math.hypot(a.x - b.x, a.y - b.y) >= 22.999))
  it("stay where they are when they do not cover one another", () => {
    const spots = [
      { x: 50, y: 50 },
      { x: 80, y: 50 },
    ]
    expect(dodged(spots, 23, [0, 300])).toEqual(spots)
  })
  it("are moved aside at their own height, within the bounds, the first not at all", () => {
    const spots = [1, 2, 3, 4].map(() => ({ x: 20, y: 50 }))
    const placed = dodged(spots, 23, [12, 300])
    expect(placed[0]).toEqual(spots[0])
    expect(far(placed)).toBe(true)
    expect(placed.every((one) => one.y === 50 && one.x >= 12)).toBe(true)
  })
})
