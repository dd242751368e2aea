import { createServer, type Server } from "node:http"
import { type AddressInfo, connect, type Socket } from "node:net"
import express from "express"
import { formFault, limitOf, nameBytes, usual, withoutSession } from "server/bodies/bodyLimits.ts"
import { limitBody, limited } from "server/bodies/limitBody.ts"
import { listen } from "server/http/listen.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { sendRaw } from "../rawRequest.ts"

/** The limits before anything is parsed, as a request meets them; a route behind them counts what it is given. */
let server: Server
let port = 0
let reached: number[] = []
const times = { form: 600, bulk: 600, file: 3_000, silence: 600 }
beforeAll(async () => {
  const app = express()
  app.use(limitBody({ signedIn: async (request) => request.headers.cookie === "known", times }))
  app.use(async (request, response) => {
    let bytes = 0
    try {
      for await (const part of limited(request)) bytes += (part as Buffer).length
    } catch {
      return
    }
    reached.push(bytes)
    if (!response.headersSent) response.json({ bytes, refused: response.locals.bodyRefusal ?? null })
  })
  server = createServer(app)
  await new Promise<void>((ready) => server.listen(0, "127.0.0.1", ready))
  port = (server.address() as AddressInfo).port
})
afterAll(() => {
  server.closeAllConnections()
  server.close()
})

const form = "application/x-www-form-urlencoded"
const file = "multipart/form-data; boundary=x"
interface Told {
  readonly status: number
  readonly text: string
  readonly closed: boolean
}
/** Sends parts one after another, without saying how many unless `length` does. */
async function send(
  path: string,
  parts: Iterable<Buffer | string>,
  {
    type = form,
    cookie = "known",
    length,
    method = "POST",
  }: { type?: string; cookie?: string; length?: number; method?: string } = {},
): Promise<Told> {
  const headers = { "content-type": type, cookie, ...(length === undefined ? {} : { "content-length": length }) }
  const told = await sendRaw(`http://127.0.0.1:${port}`, method, path, headers, parts)
  return { status: told.status, text: told.text, closed: told.headers.connection === "close" }
}
const of = (bytes: number, sign = "=") => Buffer.alloc(bytes, sign)
function* many(part: Buffer, times: number) {
  for (let n = 0; n < times; n += 1) yield part
}

describe("a form", () => {
  it("goes through whole up to its route's limit, and is refused at once above it", async () => {
    expect(await send("/orders", [of(usual.bytes)])).toMatchObject({
      status: 200,
      text: expect.stringContaining(`${usual.bytes}`),
    })
    expect(await send("/orders", [of(usual.bytes + 1)])).toMatchObject({ status: 413, closed: true })
    expect(await send("/sign-in", [of(withoutSession)], { cookie: "" })).toMatchObject({ status: 200 })
    for (const path of ["/sign-in", "/SIGN-IN/", "/%73ign-in"])
      expect((await send(path, [of(withoutSession + 1)])).status).toBe(413)
  })
  it("of 10 MB or 100 MB never reaches the route, and nothing of it is said back", async () => {
    reached = []
    const mark = Buffer.from("secret".repeat(20_000))
    for (const megabytes of [10, 100]) {
      const told = await send("/orders", many(mark, (megabytes * 1024 * 1024) / mark.length))
      expect(told).toMatchObject({ status: 413, closed: true })
      expect(told.text).not.toContain("secret")
    }
    // a length that is said is refused before a byte of it comes
    expect((await send("/orders", [], { length: 100 * 1024 * 1024 })).status).toBe(413)
    expect(reached).toEqual([])
  })
  it("has so many fields, with short names and few brackets", async () => {
    const fields = (n: number) => Buffer.from(Array.from({ length: n }, () => "a=").join("&"))
    expect((await send("/orders", [fields(1_000)])).status).toBe(200)
    expect((await send("/orders", [fields(1_001)])).status).toBe(413)
    expect((await send("/sign-in", [fields(21)])).status).toBe(413)
    expect((await send("/orders/new", [fields(2_100)])).status).toBe(200)
    expect((await send("/orders", [`${"n".repeat(nameBytes + 1)}=1`])).status).toBe(413)
    expect((await send("/orders", [`a${"[a]".repeat(5)}=1`])).status).toBe(413)
    expect((await send("/orders", [`a${"%5Ba%5D".repeat(5)}=1`])).status).toBe(413)
    expect((await send("/orders", [`a=${"[".repeat(200)}`])).status).toBe(200)
  })
  it("is a form: nothing else, not packed, and not with a GET", async () => {
    for (const type of ["application/json", "text/plain", file, ""])
      expect((await send("/orders", ["{}"], { type })).status).toBe(415)
    expect((await send("/orders", ["a=1"], { method: "GET" })).status).toBe(400)
  })
  it("that trickles is given up in time, and what comes after it is answered", async () => {
    const told = await new Promise<string>((resolve) => {
      let text = ""
      const socket: Socket = connect(port, "127.0.0.1", () => {
        socket.write(
          `POST /orders HTTP/1.1\r\nhost: x\r\ncookie: known\r\ncontent-type: ${form}\r\ncontent-length: 10000\r\n\r\n`,
        )
        const drip = setInterval(() => socket.write("a"), 50)
        socket.on("data", (part) => {
          text += part
        })
        socket.on("error", () => undefined)
        socket.on("close", () => {
          clearInterval(drip)
          resolve(text)
        })
      })
    })
    expect(told).toMatch(/^HTTP\/1.1 408 /)
    expect((await send("/orders", ["a=1"])).status).toBe(200)
  })
  it("of a page of ours is refused by the page, in its words", async () => {
    const told = await send("/orders.data", [of(usual.bytes + 1)])
    expect(JSON.parse(told.text)).toMatchObject({ bytes: 0, refused: { status: 413, code: "body.large" } })
    expect(told.closed).toBe(true)
  })
})

describe("somebody who has not signed in", () => {
  it("is read no more of than a sign-in needs, whatever the route takes from others", async () => {
    reached = []
    const told = await send("/set-up/carriers/LARK/1", many(of(65_536), 60), { cookie: "" })
    expect(told).toMatchObject({ status: 200, closed: true })
    const upload = await send("/orders/intake", many(of(65_536), 60), { cookie: "", type: file })
    expect(upload).toMatchObject({ status: 200, closed: true })
    expect(reached).toEqual([0, 0])
  })
})

describe("an upload", () => {
  const limit = limitOf("/orders/intake").fileBytes
  it("goes through up to 40 MB as it comes, and ends with 413 above", async () => {
    reached = []
    expect(await send("/orders/intake", many(of(1024 * 1024), 40), { type: file })).toMatchObject({ status: 200 })
    expect(reached).toEqual([40 * 1024 * 1024])
    expect(await send("/orders/intake", many(of(1024 * 1024), 60), { type: file })).toMatchObject({
      status: 413,
      closed: true,
    })
    expect(await send("/orders/intake", [], { type: file, length: limit + 1 })).toMatchObject({ status: 413 })
    expect(reached).toHaveLength(1)
  })
  it("that falls silent is given up", async () => {
    const told = await new Promise<string>((resolve) => {
      let text = ""
      const socket = connect(port, "127.0.0.1", () =>
        socket.write(
          `POST /orders/intake HTTP/1.1\r\nhost: x\r\ncookie: known\r\ncontent-type: ${file}\r\ncontent-length: 10000\r\n\r\nabc`,
        ),
      )
      socket.on("data", (part) => {
        text += part
      })
      socket.on("error", () => undefined)
      socket.on("close", () => resolve(text))
    })
    expect(told).toMatch(/^HTTP\/1.1 408 /)
  })
  it("is taken by the routes that take files, by the router's own patterns, and by no other", () => {
    expect(limitOf("/orders/intake/12").fileBytes).toBe(limit)
    expect(limitOf("/Orders/Intake/12/").fileBytes).toBe(limit)
    expect(limitOf("/orders/intake/12.data").fileBytes).toBe(limit)
    for (const path of ["/orders", "/orders/intake/12/13", "/nowhere", "/sign-in"])
      expect(limitOf(path).fileBytes).toBe(0)
  })
})

it("a form's fields are counted in one pass", () => {
  expect(formFault(Buffer.from(""), 1)).toBeNull()
  expect(formFault(Buffer.from("a&b&c"), 3)).toBeNull()
  expect(formFault(Buffer.from("a&b&c"), 2)).toBe("many")
  // a bracket in a value says nothing; the fifth in a name is one too many
  expect(formFault(Buffer.from("a[b][c][d][e]=[[[[["), 5)).toBeNull()
  expect(formFault(Buffer.from("a[b][c][d][e][f]=1"), 5)).toBe("deep")
})

it("a port that is another's is passed over when binding says so, and two that begin at once both find one", async () => {
  const [one, two, three] = [createServer(), createServer(), createServer()]
  const ports = await Promise.all([one, two, three].map((each) => listen(each, 36_400, "127.0.0.1", 50)))
  expect(new Set(ports).size).toBe(3)
  await expect(listen(createServer(), ports[0] as number, "127.0.0.1", 1)).rejects.toThrow(/EADDRINUSE/)
  for (const each of [one, two, three]) each.close()
})
