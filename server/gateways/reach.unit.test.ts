import { createServer, type Server } from "node:http"
import type { AddressInfo } from "node:net"
import { coded } from "core/refusal/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { sayTrouble } from "words/reasons.ts"
import { connectionTrouble, mayReach, NotReachable, reach } from "./reach.ts"

let server: Server
let base = ""
let asked: string[] = []
beforeAll(async () => {
  server = createServer((request, response) => {
    asked.push(request.url ?? "")
    if (request.url === "/away") return void response.writeHead(302, { location: `${base}/secret` }).end()
    if (request.url === "/large") return void response.end("x".repeat(10_000))
    if (request.url === "/words") return void response.end("the secret of the house")
    response.end('{"ok":true}')
  })
  await new Promise<void>((ready) => server.listen(0, "127.0.0.1", ready))
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterAll(() => server.close())

const under = async <T>(setting: string, act: () => Promise<T>): Promise<T> => {
  const before = process.env.VARNOK_REACHABLE
  process.env.VARNOK_REACHABLE = setting
  try {
    return await act()
  } finally {
    process.env.VARNOK_REACHABLE = before
  }
}
const why = (error: unknown) => error as Error

describe("addresses within our own walls", () => {
  // RFC 1918, RFC 3927, RFC 4193, RFC 4291, RFC 6598 and RFC 5735 name them
  it.each([
    "127.0.0.1",
    "10.1.2.3",
    "172.16.0.1",
    "172.31.255.255",
    "192.168.1.1",
    "169.254.169.254",
    "100.64.0.1",
    "0.0.0.0",
    "::1",
    "::",
    "fe80::1",
    "fd00::1",
    "::ffff:127.0.0.1",
    "::ffff:7f00:1",
  ])("%s is not reached", (address) => under("", async () => expect(mayReach(address, 80)).toBe(false)))
  it.each(["8.8.8.8", "172.32.0.1", "192.169.0.1", "2001:4860:4860::8888", "::ffff:8.8.8.8"])("%s is", (address) =>
    under("", async () => expect(mayReach(address, 80)).toBe(true)),
  )
  it("are reached where the setting names them, at the port that it names", () =>
    under("127.0.0.1:4810, 10.1.0.0/16, [::1]:4811", async () => {
      expect([
        mayReach("127.0.0.1", 4810),
        mayReach("127.0.0.1", 4811),
        mayReach("10.1.9.9", 22),
        mayReach("10.2.0.1", 22),
        mayReach("::1", 4811),
        mayReach("::1", 80),
      ]).toEqual([true, false, true, false, true, false])
    }))
  it("are told, when the setting can't be read", () =>
    under("localhost", async () => expect(() => mayReach("127.0.0.1", 80)).toThrow(/localhost/)))
})

describe("an address that is fetched", () => {
  it("is not asked at all within our walls: as an address, as a name, or in another way of writing it", async () => {
    asked = []
    const port = new URL(base).port
    for (const host of ["127.0.0.1", "localhost", "[::ffff:127.0.0.1]", "2130706433", "0x7f.1", "127.1"])
      await under("", () =>
        expect(reach(`http://${host}:${port}/`, { timeLimitMs: 2_000 })).rejects.toThrow(NotReachable),
      )
    expect(asked).toEqual([])
  })
  it("is no other than http or https, and has no password in it", async () => {
    for (const url of ["file:///etc/passwd", "ftp://127.0.0.1/", base.replace("http://", "http://a:b@")])
      await expect(reach(url, { timeLimitMs: 2_000 })).rejects.toThrow(NotReachable)
  })
  it("leads nowhere else", async () => {
    asked = []
    const error = why(await reach(`${base}/away`, { timeLimitMs: 2_000 }).catch((one: unknown) => one))
    expect(error).toBeInstanceOf(NotReachable)
    expect(asked).toEqual(["/away"])
  })
  it("is read up to a limit, and what it says is in no message", async () => {
    await expect(reach(`${base}/large`, { timeLimitMs: 2_000, most: 5_000 })).rejects.toThrow(
      coded({ code: "reach.too-much", values: { most: "5000" } }),
    )
    const words = await reach(`${base}/words`, { timeLimitMs: 2_000 })
    expect(() => words.json()).toThrow(coded({ code: "reach.not-json", values: {} }))
    expect((await reach(base, { timeLimitMs: 2_000 })).json()).toEqual({ ok: true })
  })
})

describe("a connection that fails", () => {
  it("is told in words, not in those of a program", async () => {
    const closed = createServer()
    await new Promise<void>((ready) => closed.listen(0, "127.0.0.1", ready))
    const { port } = closed.address() as AddressInfo
    await new Promise((done) => closed.close(done))
    await under("127.0.0.0/8", async () => {
      const error = await reach(`http://127.0.0.1:${port}/`, { timeLimitMs: 5_000 }).catch(why)
      expect(sayTrouble((error as Error).message)).toBe("nothing answers at its address")
    })
  })
  // Node's errors: the code stands on the error, or on one of its causes
  it.each([
    [Object.assign(new Error("read ECONNRESET"), { code: "ECONNRESET" }), "the connection broke off"],
    [new DOMException("The operation was aborted due to timeout", "TimeoutError"), "no answer in time"],
    [new TypeError("fetch failed", { cause: { code: "EAI_AGAIN" } }), "its address can't be looked up"],
    [new TypeError("fetch failed"), "no connection"],
    [new Error("HTTP 503"), "HTTP 503"],
    [undefined, "no connection"],
  ])("%s", (error, words) => expect(sayTrouble(connectionTrouble(error))).toBe(words))
})
