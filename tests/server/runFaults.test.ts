import { randomUUID } from "node:crypto"
import { closePool } from "server/compute/pool.ts"
import { reconcile } from "server/shipping/reconcile.ts"
import { buyRun } from "server/shipping/runs.ts"
import { makeRun, prepareAgain } from "server/shippingRuns/make.ts"
import { prepareRun } from "server/shippingRuns/prepare.ts"
import { runById } from "server/shippingRuns/read.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { seeded } from "../../demo/seeded.ts"
import { there } from "../../server/db/there.ts"
import { type FaultRig, openFaultRig, patiently } from "./faultRig.ts"
import { pickAll, type Rig, row, takeFile, value } from "./rig.ts"

/**
 * A shipping run through every fault: its worker killed at moments of no system, one answer in ten lost, the database
 * killed once in the middle, a second person pressing at the same time. Every label is bought once and printed once. It
 * is 16 shipments with 2 deaths; `npm run test:faults` makes it 200 with ten.
 */
const shipments = Number(process.env.VARNOK_RUN_SHIPMENTS ?? 16)
const deaths = Number(process.env.VARNOK_RUN_DEATHS ?? 2)

let faults: FaultRig
let rig: Rig
beforeAll(async () => {
  faults = await openFaultRig(33_900, 3_000)
  rig = faults.rig
}, 180_000)
afterAll(async () => {
  await faults.drop()
  await closePool()
})

const bought = (id: number) =>
  patiently(async () =>
    Number((await rig.db("shipping_run_order").where({ run_id: id, state: "bought" }).count({ n: "*" }).first())?.n),
  )
it(`buys and prints a run of ${shipments} exactly once, its worker killed ${deaths} times`, async () => {
  const { context, db } = rig
  await db("stock").update({ on_hand: 100_000 })
  await db("packaging_stock").update({ on_hand: 100_000 })
  // 200 labels cost more than a demo account has
  await db("carrier").whereNotNull("prepaid_balance").update({ prepaid_balance: "100000" })
  await takeFile(
    context,
    ...Array.from({ length: shipments }, (_, index) => row({ order_number: `RF-${index}`, quantity: "1" })),
  )
  const orders: number[] = await db("sales_order").where("source_number", "like", "RF-%").orderBy("id").pluck("id")
  for (const id of orders) await pickAll(context, id)
  const { id } = value(await makeRun(context, orders, { rule: "cheapest", pack: true }, randomUUID()))
  await prepareRun(db, { runId: id })
  const { all } = there(await runById(db, 1, id)).ready
  expect(all.shipments).toBe(shipments)
  const carriers: string[] = await db("carrier").pluck("code")
  for (const code of carriers)
    await fetch(`${rig.at.carriers}/${code}/faults`, {
      method: "PUT",
      body: JSON.stringify({ fault: "lose-answer", every: 10 }),
    })

  const seen = { shipments: all.shipments, cost: all.cost }
  const [mine, theirs] = await Promise.all([buyRun(context, id, seen), buyRun(context, id, seen)])
  expect([mine.ok, theirs.ok]).toEqual([true, true])
  const next = seeded(18)
  let running = await faults.worker()
  for (let death = 1; death <= deaths; death += 1) {
    const until = Math.floor((shipments * death) / (deaths + 2))
    await expect.poll(() => bought(id), { timeout: 240_000, interval: 50 }).toBeGreaterThanOrEqual(until)
    // somewhere within what it does for a shipment or two
    await new Promise((resolve) => setTimeout(resolve, next() * 250))
    await running.kill()
    if (death === Math.ceil(deaths / 2)) {
      faults.kill()
      await faults.again()
    }
    running = await faults.worker()
  }
  await expect.poll(() => bought(id), { timeout: 240_000, interval: 200 }).toBe(shipments)
  const unprinted = () => patiently(async () => (await db("print_job").whereIn("state", ["waiting", "sent"])).length)
  const prints = () => patiently(async () => (await db("print_job").where({ state: "printed" })).length)
  await expect.poll(prints, { timeout: 240_000, interval: 200 }).toBe(shipments)
  await expect.poll(unprinted, { timeout: 240_000, interval: 200 }).toBe(0)
  await running.stop()

  const { carriers: sums, differences } = await reconcile(db)
  expect(differences).toEqual([])
  expect(sums.reduce((sum, one) => sum + one.booked, 0)).toBe(shipments)
  const run = there(await runById(db, 1, id))
  expect([run.state, run.bought.all.cost]).toEqual(["open", all.cost])
  // in the order of the run, each once
  const labels = (await faults.printed()).filter((one) => one.queue === "labels" && !one.waits).map((one) => one.name)
  expect(labels).toHaveLength(shipments)
  const names = await db("print_job as p")
    .join("document as d", "d.id", "p.document_id")
    .whereIn("p.name", labels)
    .select("p.name", "d.name as label")
  const labelOf = new Map(names.map((one) => [one.name as string, one.label as string]))
  expect(labels.map((name) => labelOf.get(name))).toEqual(run.rows.map((one) => `${one.orderNumber}-1`))
  // and asking once more finds nothing left to do
  value(await prepareAgain(context, id, null))
  expect((await runById(db, 1, id))?.ready.all.shipments).toBe(0)
}, 900_000)
