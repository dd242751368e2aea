import { describe, expect, it } from "vitest"
import { instantAt } from "../calendar/index.ts"
import { afterQuiet, phoneNumber, simpleState } from "./index.ts"

describe("quiet hours", () => {
  const zone = "America/Denver"
  const at = (time: string, day = "2026-11-24") => instantAt(day as never, time as never, zone)
  it("hold a message until they end, also over midnight", () => {
    expect(afterQuiet(at("20:59"), zone, "21:00", "07:00")).toEqual(at("20:59"))
    expect(afterQuiet(at("21:00"), zone, "21:00", "07:00")).toEqual(at("07:00", "2026-11-25"))
    expect(afterQuiet(at("03:10"), zone, "21:00", "07:00")).toEqual(at("07:00"))
    expect(afterQuiet(at("07:00"), zone, "21:00", "07:00")).toEqual(at("07:00"))
    expect(afterQuiet(at("12:30"), zone, "12:00", "13:00")).toEqual(at("13:00"))
    expect(afterQuiet(at("03:10"), zone, "00:00", "00:00")).toEqual(at("03:10"))
  })
  it("are the receiver's, also on the night of the change to winter time", () => {
    // 1 November 2026: at 2:00 the clocks go back to 1:00 (15 U.S.C. 260a)
    const night = at("23:00", "2026-10-31")
    expect(afterQuiet(night, zone, "21:00", "07:00")).toEqual(at("07:00", "2026-11-01"))
    expect(afterQuiet(night, zone, "21:00", "07:00").getTime() - night.getTime()).toBe(9 * 3_600_000)
  })
})

it("telephone numbers are written as text services take them, or refused", () => {
  // ITU-T E.164: + and at most 15 digits
  expect(phoneNumber("(218) 555-0142", "US")).toBe("+12185550142")
  expect(phoneNumber("1 218 555 0142", "CA")).toBe("+12185550142")
  expect(phoneNumber("+49 941 5550142", "DE")).toBe("+499415550142")
  expect(phoneNumber("0049 941 5550142", "DE")).toBe("+499415550142")
  expect(phoneNumber("0941 5550142", "DE")).toBeNull()
  expect(phoneNumber("call me", "US")).toBeNull()
  expect(phoneNumber("118-555-0142", "US")).toBeNull()
  expect(phoneNumber("+1234567890123456", "US")).toBeNull()
})

it("what a receiver is told is simple, and before it leaves it is being prepared", () => {
  expect(simpleState("announced", false)).toBe("preparing")
  expect(simpleState("announced", true)).toBe("on-the-way")
  expect(simpleState("in-customs", true)).toBe("on-the-way")
  expect(simpleState("held", true)).toBe("problem")
  expect(simpleState("returned", true)).toBe("returning")
  expect(simpleState("delivered", false)).toBe("delivered")
})
