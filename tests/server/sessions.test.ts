import { RouterContextProvider } from "react-router"
import { passwordLength, weakness } from "server/accounts/passwords.ts"
import {
  actorOf,
  changeOwnPassword,
  noteSeen,
  sessionLasts,
  sessionTimes,
  setSessionTimes,
  signIn,
} from "server/accounts/sessions.ts"
import { addUser, changeUser } from "server/accounts/users.ts"
import { frameContext, workContext } from "server/http/context.ts"
import { sessionCookie } from "server/http/cookies.ts"
import { countSignIn, forgetSignIns, siteOf } from "server/http/signInLimit.ts"
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest"
import { requireActor } from "../../app/shell/work.ts"
import { there } from "../../server/db/there.ts"
import { as, codes, openRig, type Rig, value } from "./rig.ts"

// streams look soon whether their session still lasts
vi.hoisted(() => {
  process.env.VARNOK_BEAT_MS = "200"
  // modules read it once; files before this one and after it have their own
  vi.resetModules()
})
const { liveStream } = await import("server/live/index.ts")

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(async () => {
  await rig.drop()
  delete process.env.VARNOK_BEAT_MS
  vi.resetModules()
})

const admin = () => as(rig.context, { role: "administrator" })
const passphrase = "seven barrels by the lake"
async function newcomer(username: string): Promise<number> {
  const form = { username, name: `${username} Aas`, role: "clerk" as const, warehouse: [1], password: passphrase }
  return value(await addUser(admin(), form)).id
}
const signedIn = async (username: string, password = passphrase, device: string | null = null) => {
  const signed = await signIn(rig.db, username, password, device)
  if (!signed) throw new Error("not signed in")
  return signed
}
const ago = (minutes: number) => new Date(Date.now() - minutes * 60_000)
const session = () => rig.db("session").orderBy("created_at", "desc").limit(1)

describe("a session", () => {
  it("ends when nobody was there for a while, by the setting, and goes on when somebody was", async () => {
    await newcomer("idle")
    const { token } = await signedIn("idle")
    expect(await sessionTimes(rig.db)).toEqual({ idleMinutes: 120, longestHours: 12 })
    await session().update({ seen_at: ago(119) })
    expect(await actorOf(rig.db, token)).not.toBeNull()
    await session().update({ seen_at: ago(121) })
    expect(await actorOf(rig.db, token)).toBeNull()
    await session().update({ seen_at: ago(119) })
    await noteSeen(rig.db, token)
    await setSessionTimes(admin(), { idleMinutes: 5, longestHours: 12 })
    expect(await actorOf(rig.db, token)).not.toBeNull()
    await session().update({ seen_at: ago(6) })
    expect(await sessionLasts(rig.db, token)).toBe(false)
    await setSessionTimes(admin(), { idleMinutes: 120, longestHours: 12 })
  })
  it("ends after its longest time though somebody is there, also when that is made shorter later", async () => {
    await newcomer("long")
    const { token, seconds } = await signedIn("long")
    expect(seconds).toBe(12 * 3_600)
    await session().update({ created_at: ago(11 * 60), seen_at: new Date() })
    expect(await actorOf(rig.db, token)).not.toBeNull()
    await setSessionTimes(admin(), { idleMinutes: 120, longestHours: 10 })
    expect(await actorOf(rig.db, token)).toBeNull()
    await setSessionTimes(admin(), { idleMinutes: 120, longestHours: 12 })
  })
  it("is kept awake by what a person does, and not by pages that read themselves again", async () => {
    await newcomer("awake")
    const { token } = await signedIn("awake")
    const comes = async (method: string, path: string) => {
      await session().update({ seen_at: ago(60) })
      const context = new RouterContextProvider()
      context.set(frameContext, { db: rig.db } as never)
      const request = new Request(`http://varnok.test${path}`, {
        method,
        headers: { cookie: await sessionCookie(token, 60, false) },
      })
      await requireActor({ request, context, params: {} } as never, async () => new Response())
      expect(context.get(workContext).actor.name).toBe("awake Aas")
      return there(await session().first("seen_at")).seen_at.getTime() > ago(1).getTime()
    }
    expect([
      await comes("GET", "/orders"),
      await comes("POST", "/orders.data"),
      await comes("POST", "/active"),
      await comes("GET", "/orders.data"),
      await comes("GET", "/live?order=7"),
    ]).toEqual([true, true, true, false, false])
  })
  it("that is over leads to the sign-in, and back to the page as it was", async () => {
    const leads = async (path: string) => {
      const context = new RouterContextProvider()
      context.set(frameContext, { db: rig.db } as never)
      const request = new Request(`http://varnok.test${path}`)
      const answer = await Promise.resolve(
        requireActor({ request, context, params: {} } as never, async () => new Response()),
      ).catch((thrown: unknown) => thrown)
      return (answer as Response).headers.get("location")
    }
    expect(await leads("/orders?find=yeast")).toBe("/sign-in?to=%2Forders%3Ffind%3Dyeast")
    expect(await leads("/orders.data?find=yeast&_routes=shell%2Croutes%2Forders")).toBe(
      "/sign-in?to=%2Forders%3Ffind%3Dyeast",
    )
  })
  it("takes its streams with it", async () => {
    await newcomer("stream")
    const { token } = await signedIn("stream")
    const stop = new AbortController()
    const reader = liveStream(rig.context, null, stop.signal, () => sessionLasts(rig.db, token)).getReader()
    let text = ""
    const ended = (async () => {
      for (;;) {
        const { done, value: part } = await reader.read()
        if (done) return
        text += new TextDecoder().decode(part)
      }
    })()
    await expect.poll(() => (text.match(/event: beat/g) ?? []).length).toBeGreaterThan(2)
    await rig.db("session").delete()
    await ended
    expect(text).toContain("event: signed-out")
    stop.abort()
  })
})

describe("trying passwords", () => {
  const tries = async (n: number, tried: { username: string; address: string; device: string | null }) => {
    let wait: number | null = null
    let taken = 0
    for (let at = 0; at < n && wait === null; at += 1) {
      wait = await countSignIn(rig.db, tried)
      if (wait === null) taken += 1
    }
    return taken
  }
  it("is limited for an account from one address, from everywhere, and for an address whatever the account", async () => {
    expect(await tries(20, { username: "anna", address: "10.0.0.1", device: null })).toBe(8)
    let taken = 0
    for (let at = 0; at < 12; at += 1)
      taken += await tries(8, { username: "berta", address: `10.1.0.${at}`, device: null })
    expect(taken).toBe(40)
    taken = 0
    for (let at = 0; at < 30; at += 1)
      taken += await tries(5, { username: `carl${at}`, address: "10.2.0.1", device: null })
    expect(taken).toBe(100)
  })
  it("locks out nobody who signs in where he always does: neither his site nor his account", async () => {
    await newcomer("dora")
    const { device } = await signedIn("dora")
    // somebody behind the same address, and many from everywhere, try every password that they know
    for (let at = 0; at < 30; at += 1) await tries(5, { username: `eve${at}`, address: "10.3.0.1", device: null })
    for (let at = 0; at < 12; at += 1) await tries(8, { username: "dora", address: `10.4.0.${at}`, device: null })
    const here = { username: "dora", address: "10.3.0.1" }
    expect(await tries(1, { ...here, device: null })).toBe(0)
    expect(await tries(1, { ...here, device })).toBe(1)
    // a browser that is known is for its own account, and is limited too
    expect(await tries(1, { ...here, username: "eve1", device })).toBe(0)
    expect(await tries(30, { ...here, device })).toBe(9)
  })
  it("counts a site of IPv6 as one, however many addresses it has, and IPv4 as itself", async () => {
    // 2001:db8::/32 is for documentation (RFC 3849)
    expect(siteOf("2001:db8:1:2:3:4:5:6")).toBe("2001:db8:1:2::/64")
    expect(siteOf("2001:db8:1:2::9")).toBe("2001:db8:1:2::/64")
    expect(siteOf("2001:db8:1:3::9")).toBe("2001:db8:1:3::/64")
    expect(siteOf("::ffff:10.6.0.1")).toBe("10.6.0.1")
    expect(siteOf("account")).toBe("account")
    let taken = 0
    for (let at = 1; at <= 30; at += 1)
      taken += await tries(5, { username: `fay${at}`, address: `2001:db8:1:2::${at.toString(16)}`, device: null })
    expect(taken).toBe(100)
  })
  it("is not what a shift does that signs in at eight", async () => {
    let wait: number | null = null
    for (let at = 0; at < 150 && wait === null; at += 1) {
      const tried = { username: `shift${at}`, address: "10.5.0.1", device: null }
      wait = await countSignIn(rig.db, tried)
      await forgetSignIns(rig.db, tried)
    }
    expect(wait).toBeNull()
  })
})

describe("a password", () => {
  const own = ["nils", "Nils", "Aas"]
  const code = (text: string) => weakness(text, own)?.code ?? "good"
  it.each([
    ["seven barrels by the lake", "good"],
    ["ἐν ἀρχῇ ἦν ὁ λόγος", "good"],
    ["x".repeat(4) + "quite long enough".repeat(3), "good"],
    ["fourteen chars", "user.password-short"],
    ["", "user.password-short"],
    ["a".repeat(201), "user.password-long"],
    // one letter, one pattern, or a common word over and over
    ["aaaaaaaaaaaaaaaa", "user.password-common"],
    ["1234567890123456", "user.password-common"],
    ["passwordpassword", "user.password-common"],
    ["QwertyQwertyQwerty", "user.password-common"],
    ["password12345678", "user.password-common"],
    ["nils nils varnok", "user.password-own"],
  ])("%j is %s", (text, expected) => expect(code(text)).toBe(expected))
  it("may be as long as NIST asks for, with any signs, and counts characters, not bytes", () => {
    expect(passwordLength.most).toBeGreaterThanOrEqual(64)
    expect(code("🥁🥁🎺🎻🪕🎷🎸🎹🪗🪘🎼🎤🎧📯")).toBe("user.password-short")
    expect(code("🥁🎺🎻🪕🎷🎸🎹🪗🪘🎼🎤🎧📯🥁🎺x")).toBe("good")
  })
  it("is the same however a keyboard makes its letters", async () => {
    await newcomer("accent")
    const id = there(await rig.db("user").where({ username: "accent" }).first("id")).id
    const change = { id, role: "clerk" as const, active: "yes" as const, warehouse: [1] }
    value(await changeUser(admin(), { ...change, password: "caf\u00e9 au bord du lac" }))
    expect(await signIn(rig.db, "accent", "cafe\u0301 au bord du lac")).not.toBeNull()
    expect(codes(await changeUser(admin(), { ...change, password: "accent accent 1" }))).toEqual([
      "user.password-common",
    ])
  })
  it("is changed by whoever knows it, and ends all other sessions", async () => {
    const id = await newcomer("frida")
    const here = await signedIn("frida")
    const there = await signedIn("frida", passphrase, here.device)
    const context = { ...rig.context, actor: { ...rig.context.actor, userId: id, name: "frida Aas" } }
    const change = (more: Record<string, string>) =>
      changeOwnPassword(context, here.token, {
        present: passphrase,
        password: "eight barrels by the lake",
        again: "eight barrels by the lake",
        ...more,
      })
    expect(codes(await change({ present: "something else, long" }))).toEqual(["password.wrong"])
    expect(codes(await change({ again: "nine barrels by the lake" }))).toEqual(["password.differs"])
    expect(codes(await change({ password: "short", again: "short" }))).toEqual(["user.password-short"])
    expect(await actorOf(rig.db, there.token)).not.toBeNull()
    value(await change({}))
    expect(await actorOf(rig.db, here.token)).not.toBeNull()
    expect(await actorOf(rig.db, there.token)).toBeNull()
    expect(await signIn(rig.db, "frida", passphrase)).toBeNull()
    expect(await signIn(rig.db, "frida", "eight barrels by the lake")).not.toBeNull()
    expect(JSON.stringify(await rig.db("audit").where({ action: "user.own-password" }))).not.toContain("barrels")
  })
})
