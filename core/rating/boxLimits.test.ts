import { describe, expect, it } from "vitest"
import type { Service } from "../tariff/index.ts"
import { mass, massIn, size } from "../units/index.ts"
import { loadWithin } from "./boxLimits.ts"

const service = (limits: Partial<Service["limits"]>, handling: Service["goods"]["handling"] = "parcel") =>
  ({
    lengthUnit: "in",
    weighing: { unit: "lb", steps: [], least: "0" },
    goods: { handling, dangerous: "none", classes: [] },
    limits: {
      pieces: null,
      weight: null,
      total: null,
      length: null,
      lengthAndGirth: null,
      height: null,
      value: null,
      ...limits,
    },
  }) as unknown as Service
// 24 × 18 × 16 in: length + girth is 24 + 2 × (18 + 16) = 92 in
const box = { outer: size(24, 18, 16, "in"), tare: mass("2.4", "lb"), maxLoad: mass(150, "lb") }
const pounds = (limits: Partial<Service["limits"]>, handling?: Service["goods"]["handling"]) => {
  const load = loadWithin(service(limits, handling), box)
  return load && massIn(load, "lb").toDecimalPlaces(6).toNumber()
}

describe("what may be put into a box for a service", () => {
  it.each([
    ["no limit: what the box carries", {}, undefined, 150],
    ["a limit of 70 lb: 70 less the box itself", { weight: "70" }, undefined, 67.6],
    ["a limit above what the box carries", { weight: "200" }, undefined, 150],
    ["a limit below the box itself", { weight: "2" }, undefined, null],
    ["as long as the limit", { length: "24" }, undefined, 150],
    ["longer than the limit", { length: "23.9" }, undefined, null],
    ["length and girth at the limit", { lengthAndGirth: "92" }, undefined, 150],
    ["length and girth over it", { lengthAndGirth: "91.9" }, undefined, null],
    ["what goes on a pallet", { weight: "70", length: "20" }, "pallet" as const, 150],
  ])("%s", (_, limits, handling, expected) => expect(pounds(limits, handling)).toBe(expected))
})
