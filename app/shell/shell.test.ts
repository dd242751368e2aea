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
  it("is for the server alone and for our own pages", async () => {
    const parts = async (cookie: Promise<string>) => (await cookie).split("; ").toSorted()
    const plain = await parts(sessionCookie(token, 43_200, false))
    expect(plain).toEqual([
      "HttpOnly",
      "Max-Age=43200",
      "Path=/",
      "SameSite=Lax",
      expect.stringMatching(/^varnok_session=/),
    ])
    expect(await parts(sessionCookie(token, 43_200, true))).toContain("Secure")
    expect(await parts(deviceCookie(token, true))).toEqual(
      expect.arrayContaining(["HttpOnly", "SameSite=Lax", "Secure"]),
    )
    expect(await parts(noSessionCookie())).toContain("Max-Age=0")
  })
  it("is read among others, and nothing else is taken for it", async () => {
    const [own = ""] = (await sessionCookie(token, 60, false)).split(";")
    expect(await sessionToken(request(`a=1; ${own}; b=2`))).toBe(token)
    expect(await sessionToken(request(`x${own}`))).toBeNull()
    const [short = ""] = (await sessionCookie("short", 60, false)).split(";")
    for (const cookie of [short, "varnok_session=%%%", "varnok_session=", `varnok_session=${token}`])
      expect(await sessionToken(request(cookie))).toBeNull()
  })
})
