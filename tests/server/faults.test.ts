import { join } from "node:path"
import { moneyText } from "core/money/index.ts"
import { migrate } from "server/db/migrate.ts"
import { addPackage, closePackages, openShipment } from "server/packing/index.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { buy, offersFor } from "server/shipping/buy.ts"
import { reconcile } from "server/shipping/reconcile.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { backup, restore } from "../../scripts/data.mjs"
import { sql } from "../../scripts/database.mjs"
import { type FaultRig, openFaultRig, patiently } from "./faultRig.ts"
import { carrierAt, fault, pickAll, type Rig, row, takeFile, value } from "./rig.ts"

/**
 * A run of labels through every fault at once: the database killed and started again, workers killed, carriers that
 * answer late, not at all or unreadably, a printer that loses its answers. Nothing is lost and nothing doubled. The run
 * is 50 labels; `npm run test:faults` makes it longer, with more deaths.
 */
const labels = Number(process.env.VARNOK_FAULT_LABELS ?? 50)
const deaths = Number(process.env.VARNOK_FAULT_DEATHS ?? 1)

let faults: FaultRig
let rig: Rig
beforeAll(async () => {
  faults = await openFaultRig(33_800, 9_000)
  rig = faults.rig
}, 180_000)
afterAll(() => faults.drop())

const count = (state: "bought" | "open") =>
  patiently(async () => Number((await rig.db("shipment").where({ state }).count({ n: "id" }).first())?.n))
it(`labels ${labels} shipments exactly once through every fault`, async () => {
  const { context, db } = rig
  await db("stock").update({ on_hand: 100_000 })
  await takeFile(
    context,
    ...Array.from({ length: labels }, (_, index) => row({ order_number: `FT-${index}`, quantity: "1" })),
  )
  const warehouse = await warehouseById(db, 1)
  const services = ["LKG", "SWM", "CVP"]
  const orders = await db("sales_order").where("source_number", "like", "FT-%").orderBy("id").pluck("id")
  for (const [index, orderId] of orders.entries()) {
    await pickAll(context, orderId)
    value(await openShipment(context, orderId))
    value(await addPackage(context, orderId, "K02", true))
    const shipment = value(await closePackages(context, orderId))
    const { offers } = await offersFor(db, warehouse, shipment, context.now)
    const offer = offers.find((one) => one.service.code === services[index % services.length])
    if (!offer?.rate) throw new Error(`not offered: ${JSON.stringify(offer?.refusals)}`)
    value(
      await buy(context, orderId, {
        version: shipment.version,
        serviceCode: offer.service.code,
        expected: moneyText(offer.rate.contract),
      }),
    )
  }
  await fault(carrierAt(rig, "LARK"), "lose-answer", 4)
  await fault(carrierAt(rig, "SWIF"), "malformed", 3)
  await fault(carrierAt(rig, "CIVI"), "slow", 1)
  await fault(rig.at.printer, "lose-answer", 3)

  const running = [await faults.worker(), await faults.worker()]
  for (let death = 1; death <= deaths; death += 1) {
    const until = Math.floor((labels * death) / (deaths + 1))
    await expect.poll(() => count("bought"), { timeout: 240_000, interval: 100 }).toBeGreaterThanOrEqual(until)
    faults.kill()
    await running.shift()?.kill()
    await faults.again()
    running.push(await faults.worker())
  }
  await expect.poll(() => count("bought"), { timeout: 240_000, interval: 200 }).toBe(labels)
  await expect
    .poll(() => patiently(async () => (await db("print_job").whereIn("state", ["waiting", "sent"])).length), {
      timeout: 240_000,
      interval: 200,
    })
    .toBe(0)
  await Promise.all(running.map((one) => one.stop()))

  const { carriers, differences } = await reconcile(db)
  expect(differences).toEqual([])
  expect(carriers.reduce((sum, one) => sum + one.booked, 0)).toBe(labels)
  const names = (await faults.printed()).filter((one) => one.queue === "labels").map((one) => one.name)
  expect(names).toHaveLength(labels)
  expect(new Set(names).size).toBe(labels)
  expect(await db("document").where({ kind: "label" }).count({ n: "id" }).first()).toEqual({ n: labels })
}, 900_000)

it("backs up and restores: every table the same, and the ledgers equal", async () => {
  const file = join(rig.folder, "backup.sql.gz")
  const sums = () => {
    const tables = sql(faults.socket, "SELECT table_name FROM information_schema.tables WHERE table_schema = 'varnok'")
      .trim()
      .split("\n")
      .slice(1)
    return sql(
      faults.socket,
      `CHECKSUM TABLE ${tables
        .sort()
        .map((name) => `varnok.\`${name}\``)
        .join(", ")}`,
    )
  }
  const before = sums()
  await backup(faults.socket, file)
  await rig.db("charge").delete()
  await rig.db("sales_order").update({ notes: "spoiled" })
  expect(sums()).not.toBe(before)
  expect((await reconcile(rig.db)).differences).not.toEqual([])
  await restore(faults.socket, file)
  expect(sums()).toBe(before)
  expect((await reconcile(rig.db)).differences).toEqual([])
  expect(await migrate(rig.db)).toEqual([])
}, 300_000)

it("refuses to restore what is no backup, and changes nothing", async () => {
  const { writeFileSync } = await import("node:fs")
  const { gzipSync } = await import("node:zlib")
  const bad = join(rig.folder, "bad.sql.gz")
  writeFileSync(bad, "this is no archive")
  await expect(restore(faults.socket, bad)).rejects.toThrow("nothing was changed")
  writeFileSync(bad, gzipSync("CREATE TABLE other (id INT PRIMARY KEY); INSERT INTO other VALUES (1);"))
  await expect(restore(faults.socket, bad)).rejects.toThrow("no backup of Varnok")
  writeFileSync(bad, gzipSync("CREATE TABLE half (id INT PRIMARY KEY; nonsense"))
  await expect(restore(faults.socket, bad)).rejects.toThrow("nothing was changed")
  expect((await reconcile(rig.db)).differences).toEqual([])
}, 120_000)
