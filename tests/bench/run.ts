import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs"
import { cpus, tmpdir } from "node:os"
import { join } from "node:path"
import { gzipSync } from "node:zlib"
import autocannon from "autocannon"
import { instantAt } from "core/calendar/index.ts"
import { signIn } from "server/accounts/sessions.ts"
import { setBusinessNow } from "server/clock/index.ts"
import { connect } from "server/db/connection.ts"
import { migrate } from "server/db/migrate.ts"
import { sessionCookie } from "server/http/cookies.ts"
import { summaryById } from "server/orders/facts.ts"
import { addPackage, openShipment } from "server/packing/index.ts"
import { ensureCollections } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { loadSetup } from "../../demo/setup.ts"
import { loadTrackingCodes } from "../../demo/tracking.ts"
import { startDatabase } from "../../scripts/database.mjs"
import { start } from "../../scripts/stack.mjs"
import { there } from "../../server/db/there.ts"
import { fillOrders } from "./data.ts"
import { benchScans, fillDock } from "./dock.ts"
import { benchAllocation, benchFloor } from "./floor.ts"
import { benchEvents, benchMail, feedEvents, fillUnits, wayEvents } from "./follow.ts"
import { benchHostile } from "./hostile.ts"
import { benchDirectory, benchImport } from "./intake.ts"
import { benchLabelPdfs, benchLabels } from "./labels.ts"
import { benchClasses, benchMany, benchOrders, benchPallets } from "./packing.ts"
import { benchDay, benchLine } from "./plan.ts"
import { benchRating } from "./rating.ts"

/** Seconds that each page is asked for, and how many ask at the same time. */
const seconds = Number(process.env.VARNOK_BENCH_SECONDS ?? 8)
const connections = 4
const port = 4_970

const say = (text: string) => process.stdout.write(`${text}\n`)
// --labels: these alone
if (process.argv.includes("--labels")) {
  await benchLabelPdfs()
  await benchLabels(Number(process.env.VARNOK_BENCH_LABELS ?? 3_000))
  process.exit(0)
}
// --floor: walks and runs, with nothing but the computation
if (process.argv.includes("--floor")) {
  await benchFloor()
  process.exit(0)
}
// --packing: cartons, with nothing but the computation
if (process.argv.includes("--packing")) {
  benchOrders(1_000)
  benchMany()
  benchPallets()
  benchClasses(Number(process.env.VARNOK_BENCH_CLASSES ?? 10))
  process.exit(0)
}
const folder = mkdtempSync(join(existsSync("/dev/shm") ? "/dev/shm" : tmpdir(), "varnok-figures-"))
const database = await startDatabase(folder, { firstPort: 33_900, volatile: true })
const db = connect(database.url)
await migrate(db)
const nowhere = "http://127.0.0.1:9"
await loadSetup(
  db,
  {
    carriers: nowhere,
    printer: nowhere,
    orderSource: nowhere,
    addressService: nowhere,
    outsideWarehouse: nowhere,
    scale: nowhere,
    mail: "smtp://127.0.0.1:9",
    text: "http://127.0.0.1:9",
  },
  "demo/tariffs",
)
const now = instantAt("2026-11-24", "10:00", "America/Chicago")
await setBusinessNow(db, now)
await ensureCollections(db, await warehouseById(db, 1), now)
const app = start("app", process.execPath, ["build/server/index.js"], {
  logs: folder,
  env: { VARNOK_DATABASE: database.url, NODE_ENV: "production", VARNOK_LOG: "warn", PORT: String(port) },
})
const base = `http://127.0.0.1:${port}`
for (let tries = 0; tries < 200; tries += 1) {
  if (
    await fetch(`${base}/healthz`).then(
      (answer) => answer.ok,
      () => false,
    )
  )
    break
  await new Promise((resolve) => setTimeout(resolve, 100))
}
const cookie =
  (await sessionCookie(there(await signIn(db, "maren", "cellar-door")).token, 43_200, false)).split(";")[0] ?? ""

interface Figure {
  readonly name: string
  readonly perSecond: number
  readonly median: number
  readonly p97: number
  /** Time of the processor that the application took for each, in milliseconds; it varies less than the machine does. */
  readonly cpu: number
}

/** Milliseconds of a processor that the application has had so far. */
function appCpu(): number {
  const fields = readFileSync(`/proc/${app.pid}/stat`, "utf8")
    .replace(/^.*\) /, "")
    .split(" ")
  return (Number(fields[11]) + Number(fields[12])) * 10
}
const figures: Figure[] = []
async function page(name: string, path: string, signedIn = true): Promise<Figure> {
  const headers = signedIn ? { cookie } : undefined
  await autocannon({ url: base + path, headers, connections: 1, duration: 2 })
  const before = appCpu()
  const found = await autocannon({ url: base + path, headers, connections, duration: seconds })
  const cpu = (appCpu() - before) / found.requests.total
  if (found.non2xx > 0 || found.errors > 0) throw new Error(`${name}: ${found.non2xx} answers were no pages`)
  const alone = await autocannon({ url: base + path, headers, connections: 1, duration: Math.max(2, seconds / 2) })
  const figure = { name, perSecond: found.requests.average, median: alone.latency.p50, p97: alone.latency.p97_5, cpu }
  figures.push(figure)
  return figure
}

say(
  `${cpus().length} × ${cpus()[0]?.model.trim()}, Node ${process.version}; ${connections} connections, ${seconds} s each`,
)
const user = there(await db("user").where({ username: "maren" }).first("id", "name"))
const context = { db, now, actor: { userId: user.id, name: user.name, role: "clerk" as const, warehouseId: 1 } }
// --rating: prices alone
if (process.argv.includes("--rating")) {
  await benchRating(db, now)
  await end()
}
await fillOrders(db, 0, 300, 300)
// --orders: what is done with many orders alone
if (process.argv.includes("--orders")) {
  await benchAllocation(context)
  await end()
}
const trivial = await page("trivial page (sign-in)", "/sign-in", false)
// --follow: events and messages alone
if (process.argv.includes("--follow")) {
  await followed()
  table()
  await end()
}
// --dock: the dock alone
if (!process.argv.includes("--dock")) {
  await page("day, 300 open orders", "/")
  await pagesOfWork()
}
await dockOfTheDay()
if (process.argv.includes("--dock")) {
  table()
  await end()
}
// --pages: these alone
if (process.argv.includes("--pages")) {
  table()
  await end()
}
await fillOrders(db, 300, 1_000, 300)
if (app.pid) await benchHostile(base, app.pid, cookie)
// --hostile: these alone
if (process.argv.includes("--hostile")) {
  await end()
}
/** The pages that a clerk works on: the list, an order that is picked, one that is packed and rated, the dock. */
async function pagesOfWork(): Promise<void> {
  const warehouse = await warehouseById(db, 1)
  const numberOf = async (id: number) => there(await db("sales_order").where({ id }).first("order_number")).order_number
  // every fourth is picked: one of them is put into a carton, so that its shipment is rated
  const packed = 1_000_004
  there(await summaryById(db, warehouse, packed))
  await openShipment(context, packed)
  const filled = await addPackage(context, packed, "K12", true, "figures")
  if (!filled.ok) throw new Error("the order of the figures does not fit its carton")
  await page("list, 300 open orders", "/orders")
  await page("pick, one of 300", `/pick/${await numberOf(1_000_005)}`)
  await page("shipment, packed and rated", `/shipment/${await numberOf(packed)}`)
  await page(
    "dock, 300 open orders",
    `/dock/${there(await db("collection").where({ warehouse_id: 1 }).first("id")).id}`,
  )
}

/** The dock of a day with a hundred doors and 3 000 packages, and scans at its doors. */
async function dockOfTheDay(): Promise<void> {
  const filled = await fillDock(db, 5_000_000)
  await page("list, 3 000 packages today", "/orders")
  await page("dock, 100 doors, 3 000 packages", `/dock/${there(filled.doors[0])}`)
  await benchScans(db, base, cookie, filled, trivial.median)
}

/** Events at 20 000 an hour beside the interface, and messages over an outage. */
async function followed(): Promise<void> {
  await fillDock(db, 5_000_000)
  const numbers = await fillUnits(db, 5_000_000, 3_000)
  await loadTrackingCodes(db)
  const { carrier_id: carrierId } = there(await db("service").where({ code: "LKG" }).first("carrier_id"))
  const events = wayEvents(numbers)
  const idle = [await page("day, idle", "/"), await page("list, idle", "/orders")]
  await benchEvents(db, carrierId, events, now)
  const stop = feedEvents(db, carrierId, events, now)
  const fed = [await page("day, events beside it", "/"), await page("list, events beside it", "/orders")]
  await stop()
  for (const [at, one] of idle.entries()) {
    const beside = there(fed[at])
    say(
      `${one.name}: median ${one.median} ms, beside events ${beside.median} ms, ${(beside.median / one.median).toFixed(2)} times`,
    )
  }
  await page("needs attention", "/orders/attention")
  await benchMail(db, Number(process.env.VARNOK_BENCH_MAILS ?? 100_000))
}

function table(): void {
  say("\npage                              requests/s  of trivial   alone: median ms   97.5 % ms   CPU ms")
  for (const one of figures)
    say(
      `${one.name.padEnd(34)}${one.perSecond.toFixed(1).padStart(9)}${`${((one.perSecond / trivial.perSecond) * 100).toFixed(1)} %`.padStart(12)}${String(one.median).padStart(19)}${String(one.p97).padStart(12)}${one.cpu.toFixed(1).padStart(9)}`,
    )
}

async function end(): Promise<never> {
  await app.stop()
  await db.destroy()
  await database.stop()
  rmSync(folder, { recursive: true, force: true })
  process.exit(0)
}

/** What the list is asked for, at a thousand orders and at a hundred thousand. */
const asked: readonly (readonly [string, string])[] = [
  ["all", ""],
  ["one word of a fifth", "?find=halvard"],
  ["two words", "?find=halvard+99"],
  ["words never together", "?find=halvard+taproom"],
  ["one number", "?find=BE-871"],
  ["stage, few of all", "?stage=picked"],
  ["stage, most of all", "?stage=gone"],
  ["promise and country", "?promised=week&country=US"],
]
const small = new Map<string, Figure>()
for (const [name, query] of asked) small.set(name, await page(`orders, 1 000: ${name}`, `/orders${query}`))
await fillOrders(db, 1_000, 100_000, 300)
await page("day, 300 open of 100 000", "/")
const large = new Map<string, Figure>()
for (const [name, query] of asked) large.set(name, await page(`orders, 100 000: ${name}`, `/orders${query}`))
await page("trivial page again", "/sign-in", false)

table()

say("\nthe list at 100 000 orders against 1 000, medians of one who asks alone")
for (const [name] of asked) {
  const [few, many] = [small.get(name), large.get(name)] as [Figure, Figure]
  say(
    `${name.padEnd(24)}${`${many.median} / ${few.median} ms`.padStart(16)}${`${(many.median / few.median).toFixed(1)} times`.padStart(12)}`,
  )
}

await benchRating(db, now)
await benchFloor()
benchOrders(1_000)
benchMany()
benchPallets()
benchClasses(1)
await benchAllocation(context)
await benchDay()
await benchLine(context, 300)
await benchDirectory(context)
await benchImport(
  db,
  { base, cookie, databaseUrl: database.url, logs: folder },
  Number(process.env.VARNOK_BENCH_LINES ?? 50_000),
)

await benchLine(context, 3_000)

await benchLabelPdfs()
await benchLabels(Number(process.env.VARNOK_BENCH_LABELS ?? 3_000))

const assets = join("build", "client", "assets")
const scripts = readdirSync(assets).filter((name) => name.endsWith(".js"))
const packed = (names: readonly string[]) =>
  (names.reduce((sum, name) => sum + gzipSync(readFileSync(join(assets, name))).length, 0) / 1024).toFixed(0)
const html = await (await fetch(`${base}/`, { headers: { cookie } })).text()
const first = scripts.filter((name) => html.includes(name))
say(
  `client scripts, gzip: ${packed(first)} KB for the day's first load, ${packed(scripts)} KB in all (${scripts.length} files)`,
)
const memory = /VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${app.pid}/status`, "utf8"))?.[1]
say(`memory of the application's process after all this: ${(Number(memory) / 1024).toFixed(0)} MB`)

await app.stop()
await db.destroy()
await database.stop()
rmSync(folder, { recursive: true, force: true })
