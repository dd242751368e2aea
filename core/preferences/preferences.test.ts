import { describe, expect, it } from "vitest"
import { hiddenBy, noPreferences, type Preferences, type Preferred, preferencesSchema, preferred } from "./index.ts"

const of = (kind: Preferred["by"]["kind"], body: Partial<Preferences>): Preferred => ({
  by: { kind, name: kind },
  body: { ...noPreferences, ...body },
})

describe("what is preferred", () => {
  const all = [
    of("warehouse", { labelForm: "4x6", options: ["signature"], hiddenCarriers: ["MERI"] }),
    of("bench", { labelForm: "half-letter", hiddenServices: ["LKX"] }),
    of("user", { hiddenServices: ["MDS"] }),
  ]
  it("is the person's before the bench's before the warehouse's, each thing by itself", () => {
    expect(preferred(all, "labelForm")).toEqual({ value: "half-letter", by: { kind: "bench", name: "bench" } })
    expect(preferred(all, "options")).toEqual({ value: ["signature"], by: { kind: "warehouse", name: "warehouse" } })
    expect(preferred([...all, of("user", { labelForm: "a6" })], "labelForm")?.value).toBe("a6")
    expect(preferred([], "options")).toBeNull()
  })
  it("hides a service by itself or with its carrier, and says who", () => {
    expect(hiddenBy(all, { code: "LKX", carrierCode: "LARK" })?.kind).toBe("bench")
    expect(hiddenBy(all, { code: "MDS", carrierCode: "MERI" })?.kind).toBe("user")
    expect(hiddenBy(all, { code: "MDN", carrierCode: "MERI" })?.kind).toBe("warehouse")
    expect(hiddenBy(all, { code: "LKG", carrierCode: "LARK" })).toBeNull()
  })
  it("is bounded, and knows its own words only", () => {
    expect(preferencesSchema.safeParse({ labelForm: "b5" }).success).toBe(false)
    expect(preferencesSchema.safeParse({ options: ["fly"] }).success).toBe(false)
    expect(preferencesSchema.safeParse({ hiddenServices: Array.from({ length: 501 }, () => "LKG") }).success).toBe(
      false,
    )
    expect(preferencesSchema.safeParse({ hiddenServices: ["x".repeat(9)] }).success).toBe(false)
  })
})
