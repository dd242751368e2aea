import { createHmac, hkdfSync } from "node:crypto"
import { canKeepSecrets, isTokenFor, NoKey, seal, tokenFor, unseal } from "server/secrets/index.ts"
import { afterEach, describe, expect, it } from "vitest"

const own = process.env.VARNOK_KEY
afterEach(() => {
  process.env.VARNOK_KEY = own
})

describe("a secret that is kept", () => {
  it("is read again, and never kept twice alike", () => {
    for (const secret of ["whsec_abc", "", "Schlüssel für Jörg", "x".repeat(4_000)]) {
      const [one, two] = [seal("webhook", secret), seal("webhook", secret)]
      expect(unseal("webhook", one)).toBe(secret)
      expect(one.equals(two)).toBe(false)
      if (secret) expect(one.includes(Buffer.from(secret))).toBe(false)
    }
  })

  it("is read by nobody who has another key, for no other purpose, and not where a bit of it was changed", () => {
    const sealed = seal("webhook", "whsec_abc")
    expect(() => unseal("carrier events", sealed)).toThrow()
    for (let at = 0; at < sealed.length; at += 1) {
      const changed = Buffer.from(sealed)
      changed[at] = (changed[at] as number) ^ 1
      expect(() => unseal("webhook", changed)).toThrow()
    }
    expect(() => unseal("webhook", sealed.subarray(0, 20))).toThrow()
    process.env.VARNOK_KEY = Buffer.alloc(32, 7).toString("base64")
    expect(() => unseal("webhook", sealed)).toThrow()
  })

  it("wants a key of 32 bytes", () => {
    for (const key of ["", "no", Buffer.alloc(31).toString("base64"), Buffer.alloc(33).toString("base64")]) {
      process.env.VARNOK_KEY = key
      expect(canKeepSecrets()).toBe(false)
      expect(() => seal("webhook", "x")).toThrow(NoKey)
    }
    process.env.VARNOK_KEY = Buffer.alloc(32, 1).toString("base64")
    expect(canKeepSecrets()).toBe(true)
  })
})

describe("a token", () => {
  it("is made of what it is for, by a key that is drawn for its purpose (RFC 5869) and HMAC with SHA-256", () => {
    const key = hkdfSync("sha256", Buffer.from(own as string, "base64"), "varnok", "bounce", 32)
    const expected = createHmac("sha256", Buffer.from(key)).update("17").digest().subarray(0, 16)
    expect(Buffer.from(tokenFor("bounce", "17"), "base64url")).toEqual(expected)
  })

  it("fits nothing else", () => {
    const token = tokenFor("receiver", "17")
    expect(isTokenFor("receiver", "17", token)).toBe(true)
    for (const [purpose, of, said] of [
      ["receiver", "18", token],
      ["bounce", "17", token],
      ["receiver", "17", `${token}x`],
      ["receiver", "17", token.slice(0, -1)],
      ["receiver", "17", token.toUpperCase()],
      ["receiver", "17", ""],
    ] as const)
      expect(isTokenFor(purpose, of, said)).toBe(false)
  })
})
