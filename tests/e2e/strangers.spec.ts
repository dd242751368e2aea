import { execFileSync } from "node:child_process"
import { existsSync, readFileSync } from "node:fs"
import { expect } from "@playwright/test"
import { actsIn } from "../acts.ts"
import { megabytes, sendRaw } from "../rawRequest.ts"
import { signIn, test, url } from "./hands.ts"

/** Every address of the application is sent what nobody sends; it answers each in time, and never with a fault of ours. */
const form = "application/x-www-form-urlencoded"

const send = (method: string, path: string, headers: Record<string, string>, parts?: Iterable<string | Buffer>) =>
  sendRaw(url(), method, path, headers, parts)

/** The patterns of all routes, read from where they are written. */
const patterns = [...readFileSync("app/routes.ts", "utf8").matchAll(/\broute\("([^"]+)"/g)].map((one) => `/${one[1]}`)
const filled = (pattern: string, word: string) => pattern.replace(/:[a-z]+\??/gi, word)

/** Four at a time. */
async function sideBySide<T>(all: readonly T[], each: (one: T) => Promise<void>): Promise<void> {
  const left = all.values()
  await Promise.all(
    Array.from({ length: 4 }, async () => {
      for (const one of left) await each(one)
    }),
  )
}

let cookie = ""
test.beforeEach(async ({ page }) => {
  await signIn(page, "ada")
  cookie = (await page.context().cookies()).map((one) => `${one.name}=${one.value}`).join("; ")
})
/** Whatever is sent, the application goes on answering others. */
const answersOthers = async () => {
  expect((await send("GET", "/healthz", {})).status).toBe(200)
  expect((await send("GET", "/sign-in", {})).status).toBe(200)
}

test("numbers that are none, words too long and signs from nowhere in every address are 400 or 404, never a fault", async () => {
  test.setTimeout(600_000)
  expect(patterns.length).toBeGreaterThan(50)
  const words = [
    "NaN",
    "-1",
    "1e99",
    "99999999999999999999",
    "x".repeat(300),
    "%00",
    "%F0%9F%92%A9",
    "..%2f..%2fetc",
    "%27%20OR%201=1",
    "%E0%A4%A",
  ]
  const strange: string[] = []
  const paths: string[] = []
  for (const pattern of patterns.filter((one) => one !== "/live" && one !== "/sign-out")) {
    for (const word of pattern.includes(":") ? words : [""]) {
      const query = `?find=${encodeURIComponent("x".repeat(500))}&from=NaN&before=-5&page=1e99&run=NaN&order=NaN&orderNumber=${word}`
      paths.push(filled(pattern, word) + query, `${filled(pattern, word)}.data${query}`)
    }
  }
  await sideBySide(paths, async (path) => {
    const { status } = await send("GET", path, { cookie })
    if (status >= 500) strange.push(`GET ${path.slice(0, 60)} ${status}`)
  })
  expect(strange).toEqual([])
  await answersOthers()
})

test("forms with figures that are none, in every field that routes have, are refused and never a fault", async () => {
  test.setTimeout(600_000)
  const named = new Set<string>()
  const intents = new Map<string, string[]>()
  const text = readFileSync("app/routes.ts", "utf8")
  const acting = (file: string): string => {
    const own = readFileSync(`app/${file}`, "utf8")
    const beside = `app/${file.replace(/\.tsx$/, "")}Actions.server.ts`
    return own + (existsSync(beside) ? readFileSync(beside, "utf8") : "")
  }
  for (const [, pattern, file] of text.matchAll(/\broute\("([^"]+)", "([^"]+)"\)/g)) {
    const source = acting(file as string)
    for (const [, name] of source.matchAll(/\b(?:get|getAll|text|word)\("([\w-]+)"\)/g)) named.add(name as string)
    for (const [, name] of source.matchAll(/\b(\w+): field\.\w+/g)) named.add(name as string)
    for (const [, name] of source.matchAll(/\bname="([\w-]+)"/g)) named.add(name as string)
    intents.set(`/${pattern}`, [...new Set(actsIn(source)), ""])
  }
  const values = [
    "NaN",
    "-1",
    "1e400",
    "9".repeat(30),
    "x".repeat(3_000),
    "\u0000",
    "💩",
    "2026-13-45",
    "[]",
    "{",
    "东京",
  ]
  const strange: string[] = []
  const tries: [string, string, string][] = []
  for (const [pattern, all] of intents) {
    if (["/sign-in", "/sign-out", "/live", "/warehouse"].includes(pattern)) continue
    // figures that are none in every act; of the other values each act is given one, in turn
    for (const intent of all)
      for (const value of [values[0], values[1 + (tries.length % (values.length - 1))]])
        tries.push([pattern, intent, value as string])
  }
  await sideBySide(tries, async ([pattern, intent, value]) => {
    const body = new URLSearchParams([...named].filter((name) => name !== "intent").map((name) => [name, value]))
    body.set("intent", intent)
    const path = filled(pattern, pattern.includes(":orderNumber") ? "48283" : "1")
    const { status } = await send("POST", path, { cookie, "content-type": form }, [body.toString()])
    if (status >= 500) strange.push(`${path} ${intent} ${value.slice(0, 12)} ${status}`)
  })
  expect(strange).toEqual([])
  await answersOthers()
})

test("every address refuses what is too much, at once and in words, and goes on", async () => {
  test.setTimeout(600_000)
  const strange: string[] = []
  for (const pattern of patterns) {
    const path = filled(pattern, "1")
    const bodies: [string, Record<string, string>, Iterable<string | Buffer>][] = [
      ["10 MB", { "content-type": form }, megabytes(10, "a=&")],
      ["a field of 50 MB", { "content-type": form, "content-length": String(50 * 1024 * 1024) }, []],
      ["100 000 fields", { "content-type": form }, ["a=&".repeat(100_000)]],
      ["deep brackets", { "content-type": form }, [`a${"[b]".repeat(60)}=1`]],
      ["a kind of its own", { "content-type": "application/x-other" }, ["{}"]],
      ["packed", { "content-type": form, "content-encoding": "gzip" }, ["x"]],
    ]
    for (const [name, headers, parts] of bodies) {
      const { status, text } = await send("POST", path, { cookie, ...headers }, parts)
      if (status !== 413 && status !== 415) strange.push(`${path} ${name}: ${status}`)
      if (/a=&a=&|\[b\]/.test(text)) strange.push(`${path} ${name}: says it back`)
    }
  }
  expect(strange).toEqual([])
  // nobody who has not signed in is read more of than a sign-in needs
  const stranger = await send(
    "POST",
    "/orders/intake",
    { "content-type": "multipart/form-data; boundary=x" },
    megabytes(20, "x"),
  )
  expect(stranger.status).toBe(302)
  await answersOthers()
})

test("files that are none of what is asked for are refused in words, wherever files are taken", async () => {
  const paths = [
    "/orders/intake",
    "/orders/intake/1",
    "/set-up/addresses",
    "/set-up/carriers",
    "/set-up/carriers/LARK/1",
  ]
  const more = ["/set-up/floor-plan", "/set-up/screening", "/set-up/sources/file"]
  const contents: Buffer[] = [
    Buffer.alloc(0),
    Buffer.from([0x50, 0x4b, 3, 4, 0, 0, 0xff, 0xfe]),
    Buffer.from('{"a":'),
    Buffer.from("[".repeat(50_000)),
    Buffer.from("code,name\n".repeat(3), "utf16le"),
    Buffer.from(`line,sku,code,name,list\n1,${"x".repeat(40_000)},"\n`),
    Buffer.from('{"bins":[{"code":1e999,"x":null}],"aisles":{}}'),
    Buffer.from("tracking,delivered\n\u0000,2026-13-45\n"),
  ]
  const strange: string[] = []
  await sideBySide(
    [...paths, ...more].flatMap((path) =>
      contents.flatMap((content) => ["", "deliveries"].map((kind) => ({ path, content, kind }))),
    ),
    async ({ path, content, kind }) => {
      const fields = { kind, carrier: "LARK", table: "zones", version: "1", list: "x", source: "file" }
      const parts = Object.entries(fields).map(
        ([name, text]) => `--x\r\ncontent-disposition: form-data; name="${name}"\r\n\r\n${text}\r\n`,
      )
      const head =
        '--x\r\ncontent-disposition: form-data; name="file"; filename="a.csv"\r\ncontent-type: text/csv\r\n\r\n'
      const body = [...parts, head, content, "\r\n--x--\r\n"]
      const { status } = await send("POST", path, { cookie, "content-type": "multipart/form-data; boundary=x" }, body)
      if (status >= 500) strange.push(`${path} ${content.subarray(0, 12).toString("latin1")} ${status}`)
    },
  )
  expect(strange).toEqual([])
  await answersOthers()
})

test("a page of ours says in its own words that a form was too large, and keeps what others know from caches", async ({
  page,
}) => {
  await page.goto(`${url()}/orders`)
  const shown = await send("GET", "/orders", { cookie })
  expect(shown.headers["cache-control"]).toBe("no-store")
  expect((await send("GET", "/orders.data", { cookie })).headers["cache-control"]).toBe("no-store")
  await page.evaluate(() => {
    const sent = document.createElement("form")
    sent.method = "post"
    const field = document.createElement("input")
    field.name = "text"
    field.value = "x".repeat(300_000)
    sent.append(field)
    document.body.append(sent)
    sent.submit()
  })
  await expect(page.locator("body")).toContainText("larger than 256 KB")
})

test("while the database hangs, pages and the health check say so in time, and all is well when it is back", async ({
  page,
}) => {
  test.setTimeout(180_000)
  const database = Number(readFileSync(`${process.env.VARNOK_FOLDER}/database/mariadb.pid`, "utf8"))
  await page.goto(`${url()}/orders`)
  process.kill(database, "SIGSTOP")
  try {
    // a signal has not stopped every thread of the database when it is sent: a first question may still be answered
    await expect.poll(async () => (await send("GET", "/healthz", {})).status).toBe(503)
    const [shown, api] = await Promise.all([
      send("GET", "/orders", { cookie }),
      send("GET", "/api/v1/orders/1", { authorization: "Bearer vk_none-none-none" }),
    ])
    expect(shown.status).toBe(503)
    expect(shown.headers["retry-after"]).toBe("10")
    expect(shown.text).toContain("The database is not answering")
    expect(api.status).toBe(503)
  } finally {
    process.kill(database, "SIGCONT")
  }
  await expect.poll(async () => (await send("GET", "/orders", { cookie })).status, { timeout: 60_000 }).toBe(200)
  await answersOthers()
})

test("after all that was done here, by us and by strangers, the ledgers are equal and stock is the sum of its movements", () => {
  const told = execFileSync(
    process.execPath,
    ["scripts/data.mjs", "reconcile", "--data", process.env.VARNOK_FOLDER as string],
    { encoding: "utf8" },
  )
  expect(told).toContain("the ledgers are equal")
  expect(told).toContain("stock is the sum of its movements")
})
