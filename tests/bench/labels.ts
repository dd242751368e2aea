import { randomUUID } from "node:crypto"
import { existsSync, mkdtempSync, readFileSync, rmSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { PassThrough, Readable } from "node:stream"
import { instantAt } from "core/calendar/index.ts"
import type { LabelModel } from "core/documents/index.ts"
import type { Knex } from "knex"
import PDFDocument from "pdfkit"
import type { Context } from "server/actors/index.ts"
import { setBusinessNow } from "server/clock/index.ts"
import { connect } from "server/db/connection.ts"
import { migrate } from "server/db/migrate.ts"
import type { BookingRequest } from "server/gateways/carrier.ts"
import { previewFile } from "server/intake/read.ts"
import { takeIn } from "server/intake/take.ts"
import { labelPdf } from "server/pdf/label.ts"
import { pick, pickStops } from "server/picking/index.ts"
import { ensureCollections } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { buyRun } from "server/shipping/runs.ts"
import { makeRun } from "server/shippingRuns/make.ts"
import { prepareRun } from "server/shippingRuns/prepare.ts"
import { runById } from "server/shippingRuns/read.ts"
import { loadSetup } from "../../demo/setup.ts"
import { startDatabase } from "../../scripts/database.mjs"
import { type Program, reachable, start, startStandins } from "../../scripts/stack.mjs"
import { there } from "../../server/db/there.ts"
import { header, row } from "../server/rows.ts"

const say = (text: string) => process.stdout.write(`${text}\n`)
const answerMs = 50
/** Bookings that a worker has at carriers at once: its lanes that may wait outside. */
const atOnce = 4
const inOneRun = 300

/**
 * A run of 300 shipments bought by one worker, the carriers answering in 50 ms, beside these answers alone at the same
 * parallelism; then more runs of the same, for what the worker's memory does from 30 labels to `labels`.
 */
export async function benchLabels(labels: number): Promise<void> {
  const folder = mkdtempSync(join(existsSync("/dev/shm") ? "/dev/shm" : tmpdir(), "varnok-labels-"))
  const database = await startDatabase(folder, { firstPort: 33_950, volatile: true })
  const db = connect(database.url)
  await migrate(db)
  const { addresses, programs } = await startStandins(folder, 0)
  process.env.VARNOK_REACHABLE = reachable(addresses)
  await loadSetup(db, addresses, "demo/tariffs")
  const now = instantAt("2026-11-24", "09:00", "America/Chicago")
  await setBusinessNow(db, now)
  await ensureCollections(db, await warehouseById(db, 1), now)
  await db("stock").update({ on_hand: 10_000_000 })
  await db("packaging_stock").update({ on_hand: 1_000_000 })
  await db("carrier").whereNotNull("prepaid_balance").update({ prepaid_balance: "1000000" })
  // queued for printing, as far as the figure goes
  await db("printer").update({ held: true })
  for (const code of await db("carrier").pluck("code"))
    await fetch(`${addresses.carriers}/${code}/faults`, {
      method: "PUT",
      body: JSON.stringify({ fault: null, answerMs }),
    })
  const user = there(await db("user").where({ username: "maren" }).first("id", "name"))
  const context: Context = { db, now, actor: { userId: user.id, name: user.name, role: "clerk", warehouseId: 1 } }
  try {
    say(`\nlabels: runs of ${inOneRun} shipments, carriers answering in ${answerMs} ms, one worker`)
    let worker: Program | null = null
    let at30 = 0
    for (let bought = 0; bought < labels; bought += inOneRun) {
      const runId = await readyRun(context, bought)
      const ready = there(await runById(db, 1, runId)).ready.all
      if (ready.shipments !== inOneRun) {
        const run = there(await runById(db, 1, runId))
        const steps = [...new Set(run.rows.map((one) => `${one.step} ${JSON.stringify(one.reasons)}`))]
        throw new Error(`${ready.shipments} of ${inOneRun} can be bought: ${steps.slice(0, 5).join("; ")}`)
      }
      worker ??= await started(database.url, addresses, folder)
      const began = performance.now()
      await buyRun(context, runId, { shipments: ready.shipments, cost: ready.cost })
      const first = bought === 0
      for (let [done, queued] = [0, 0]; done < inOneRun || queued < bought + inOneRun; ) {
        await new Promise((resolve) => setTimeout(resolve, 50))
        done = await boughtOf(db, runId)
        queued = Number((await db("print_job").count({ n: "id" }).first())?.n)
        if (first && done >= 30 && at30 === 0) at30 = memoryOf(worker)
      }
      const took = performance.now() - began
      if (first) {
        const alone = await answersAlone(db, addresses.carriers)
        say(
          `bought, made and queued in ${(took / 1000).toFixed(1)} s; the answers alone, ${atOnce} at once: ${(alone / 1000).toFixed(1)} s (${(took / alone).toFixed(1)} times)`,
        )
      }
      say(
        `${String(bought + inOneRun).padStart(6)} labels: ${(took / 1000).toFixed(1)} s for the last ${inOneRun}, worker ${memoryOf(worker)} MB (at 30: ${at30} MB)`,
      )
    }
    await worker?.stop()
  } finally {
    await Promise.all(programs.map((one) => one.stop()))
    await db.destroy()
    await database.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}

/** A worker that is at work: one that begins with the run would be timed with it. */
async function started(
  databaseUrl: string,
  addresses: Parameters<typeof reachable>[0],
  logs: string,
): Promise<Program> {
  const worker = start("worker", process.execPath, ["build/server/worker.js"], {
    logs,
    env: {
      VARNOK_DATABASE: databaseUrl,
      VARNOK_REACHABLE: reachable(addresses),
      NODE_ENV: "production",
      VARNOK_LOG: "warn",
    },
  })
  await new Promise((resolve) => setTimeout(resolve, 3_000))
  return worker
}

/** A run of so many orders that are picked, packed as suggested and rated. */
async function readyRun(context: Context, from: number): Promise<number> {
  const { db } = context
  const rows = Array.from({ length: inOneRun }, (_, index) =>
    row({ order_number: `LB-${from + index}`, quantity: "1" }),
  )
  const file = Readable.from([Buffer.from([header, ...rows].join("\n"))])
  await takeIn(context, await previewFile(context, "file", "labels.csv", file))
  const orders: number[] = await db("sales_order")
    .where("source_number", "like", "LB-%")
    .orderBy("id", "desc")
    .limit(inOneRun)
    .pluck("id")
  for (const id of orders)
    for (const stop of await pickStops(db, id)) {
      const taken = {
        scanId: randomUUID(),
        allocationId: stop.allocationId,
        bin: stop.bin,
        item: stop.sku,
        times: stop.quantity,
      }
      const outcome = await pick(context, id, taken)
      if (!outcome.ok) throw new Error(JSON.stringify(outcome.reasons))
    }
  const made = await makeRun(context, orders.reverse(), { rule: "cheapest", pack: true }, randomUUID())
  if (!made.ok) throw new Error(JSON.stringify(made.reasons))
  const waits = () => db("shipping_run_order").where({ run_id: made.value.id, state: "waiting" }).first("order_id")
  while (await waits()) await prepareRun(db, { runId: made.value.id })
  return made.value.id
}

const boughtOf = async (db: Knex, runId: number): Promise<number> =>
  Number((await db("shipping_run_order").where({ run_id: runId, state: "bought" }).count({ n: "order_id" }).first())?.n)

/** Time that the same bookings take by themselves, asked for by somebody who does nothing else. */
async function answersAlone(db: Knex, carriers: string): Promise<number> {
  const rows = await db("buy_intent as i")
    .join("service as s", "s.id", "i.service_id")
    .join("carrier as c", "c.id", "s.carrier_id")
    .select("i.request", "c.code")
  const waiting = rows.map((one) => ({
    code: one.code as string,
    request: typeof one.request === "string" ? one.request : JSON.stringify(one.request as BookingRequest),
  }))
  const began = performance.now()
  await Promise.all(
    Array.from({ length: atOnce }, async () => {
      for (let one = waiting.pop(); one; one = waiting.pop())
        await fetch(`${carriers}/${one.code}/v1/bookings/${randomUUID()}`, { method: "PUT", body: one.request })
    }),
  )
  return performance.now() - began
}

const memoryOf = (program: Program): number =>
  Math.round(Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${program.pid}/status`, "utf8"))?.[1]) / 1024)

const label: LabelModel = {
  carrier: "Larkspur Parcel",
  service: "Larkspur Ground",
  sender: ["Northlake Ferment Supply", "1 Fermenter Quay", "Duluth MN 55802", "218-555-0100"],
  receiver: ["Elk Run Taproom", "Back door", "14 Growler Row", "Denver CO 80205"],
  shipDate: "Ships 2026-11-24",
  weight: "27.9 lb",
  size: "23.5 × 16 × 16.9 in",
  piece: "1 of 2",
  references: [{ name: "Our order", text: "48254" }],
  driver: [],
  routingCode: "L5-80205",
  trackingNumber: "LA000000000123",
  sscc: "095212340000480013",
  packageName: "48254-1",
}

/** An empty page of the same library and size. */
const emptyPage = (): Promise<void> =>
  new Promise((resolve) => {
    const page = new PDFDocument({ size: [288, 432], margin: 0 })
    page.pipe(new PassThrough().resume()).on("end", () => resolve())
    page.end()
  })

/** Label PDFs a second beside empty pages, in turns in one process, one at a time. */
export async function benchLabelPdfs(): Promise<void> {
  const now = new Date("2026-11-24T15:00:00Z")
  // each label another number, as labels are
  const one = (n: number) => labelPdf({ ...label, trackingNumber: `LA${String(n).padStart(12, "0")}` }, now)
  for (let n = 0; n < 20; n += 1) await one(n)
  let [labels, empty] = [0, 0]
  for (let round = 0; round < 5; round += 1) {
    const began = performance.now()
    for (let n = 0; n < 80; n += 1) await one(round * 80 + n)
    labels += performance.now() - began
    const then = performance.now()
    for (let n = 0; n < 80; n += 1) await emptyPage()
    empty += performance.now() - then
  }
  const [perSecond, pages] = [400_000 / labels, 400_000 / empty]
  say(
    `\nlabel PDFs: ${perSecond.toFixed(0)} a second, one process, one at a time; empty pages: ${pages.toFixed(0)} (${((perSecond / pages) * 100).toFixed(0)} %)`,
  )
}
