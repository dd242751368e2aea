import { deviceCookie, noSessionCookie, sessionCookie, sessionToken } from "server/http/cookies.ts"
import { describe, expect, it } from "vitest"
import { clock, longDay, shortDay, signed } from "words/format.ts"

describe("dates and times read alike on server and browser", () => {
  it("names days without a zone", () => {
    expect([shortDay("2026-11-27"), longDay("2026-11-24")]).toEqual(["Fri, Nov 27", "Tuesday, November 24"])
  })
  it("shows the warehouse's clock without a leading zero", () => {
    expect(clock(new Date("2026-11-24T15:05:00Z"), "America/Chicago")).toBe("9:05")
    expect(clock(new Date("2026-11-24T15:05:00Z"), "America/Los_Angeles")).toBe("7:05")
  })
  it("writes a margin with its sign, never better than it is", () => {
    expect([signed(8.9), signed(-18.2), signed(0.4), signed(-0.4)]).toEqual(["+8", "−18", "+0", "+0"])
  })
})

describe("the session cookie", () => {
  const token = "abcDEF_123-".repeat(4)
  const request = (cookie: string) => new Request("http://varnok.example/", { headers: { cookie } })
  it("is for the server alone and for our own pages", () => {
    expect(sessionCookie(token, 43_200, false)).toBe(
      `varnok_session=${token}; Path=/; HttpOnly; SameSite=Lax; Max-Age=43200`,
    )
    expect(sessionCookie(token, 43_200, true)).toMatch(/; Secure$/)
    expect(deviceCookie(token, true)).toMatch(/^varnok_device=.*; HttpOnly; SameSite=Lax; Max-Age=\d+; Secure$/)
    expect(noSessionCookie()).toMatch(/Max-Age=0/)
  })
  it("is read among others, and nothing else is taken for it", () => {
    expect(sessionToken(request(`a=1; varnok_session=${token}; b=2`))).toBe(token)
    expect(sessionToken(request(`xvarnok_session=${token}`))).toBeNull()
    expect(sessionToken(request("varnok_session=short"))).toBeNull()
  })
})
