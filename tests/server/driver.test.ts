import { execFileSync } from "node:child_process"
import { randomUUID } from "node:crypto"
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { instantAt } from "core/calendar/index.ts"
import { closeCollection } from "server/dock/close.ts"
import { ordersToGo } from "server/dock/doors.ts"
import { type DriverForm, saveDriver, usualTimes } from "server/dock/driver.ts"
import { formsOf } from "server/dock/forms.ts"
import { load } from "server/dock/load.ts"
import { driverOf } from "server/papers/driver.ts"
import { collectionById } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { readBack } from "../readBack.ts"
import { as, askForLabels, codes, openRig, type Rig, readyToBuy, value, workAll } from "./rig.ts"

let rig: Rig
let door = 0
const back = readBack()
const zone = { id: 1, zone: "America/Chicago" }
beforeAll(async () => {
  rig = await openRig()
  for (const number of ["DR-1", "DR-2"]) {
    const { orderId, shipment } = await readyToBuy(rig.context, number)
    await askForLabels(rig.context, orderId, shipment, "MDN")
    await workAll(rig.db)
    const row = await rig
      .db("package as p")
      .join("shipment as h", "h.id", "p.shipment_id")
      .where("h.order_id", orderId)
      .first("p.sscc", "p.collection_id")
    door = row.collection_id
    value(await load(rig.context, door, { sscc: row.sscc }, randomUUID()))
  }
})
afterAll(async () => {
  back.end()
  await rig?.drop()
})

const stroke = Array.from({ length: 60 }, (_, at) => [20 + at * 9, at % 2 ? 30 : 170])
const signature = JSON.stringify([stroke])
const said: DriverForm = {
  name: "Otis Rook",
  units: "",
  reason: "",
  seal: "S-4471",
  trailer: "T-19",
  arrived: "08:40",
  departed: "",
  onPaper: false,
  signature: "",
}
const save = (change: Partial<DriverForm> = {}, context = rig.context) =>
  saveDriver(context, door, { ...said, ...change })
const known = async () => there(await driverOf(rig.db, zone, door))

it("refuses in words what can't be, and keeps what was there", async () => {
  value(await save())
  // it is nine o'clock
  expect(codes(await save({ arrived: "09:02" }))).toEqual(["driver.future"])
  expect(codes(await save({ departed: "08:39" }))).toEqual(["driver.order"])
  expect(codes(await save({ signature: "nonsense" }))).toEqual(["driver.bad-signature"])
  expect(codes(await save({ signature: "[[[5,5]]]" }))).toEqual(["driver.touch"])
  expect(codes(await save({ signature, name: "" }))).toEqual(["driver.name"])
  expect(codes(await save({ units: "3" }))).toEqual(["driver.difference"])
  expect(codes(await saveDriver(rig.context, 999_999, said))).toEqual(["dock.no-such-collection"])
  expect(codes(await save({}, as(rig.context, { warehouseId: 2 })))).toEqual(["dock.no-such-collection"])
  await expect(save({}, as(rig.context, { role: "sales" }))).rejects.toThrow("not allowed")
  expect(await known()).toMatchObject({ driver: { name: "Otis Rook", seal: "S-4471", units: null, strokes: [] } })
})

it("is on the form that is made at closing; one who signs afterwards is drawn on it again", async () => {
  value(await save({ units: "2" }))
  const toGo = (await ordersToGo(rig.db, 1, [door])).get(door)?.length ?? 0
  value(await closeCollection(rig.context, door, 2, toGo))
  await workAll(rig.db)
  const bytes = async () => {
    const [form] = await formsOf(rig.db, 1, [door])
    const row = there(
      await rig
        .db("document")
        .where({ id: there(form?.documentId) })
        .first("id", "bytes", "void_at"),
    )
    return row
  }
  const before = await bytes()
  for (const text of ["Otis Rook", "2 units", "Seal S-4471", "Trailer T-19", "In 08:40"])
    expect(back.words(before.bytes)).toContain(text)
  const printed = async () => Number((await rig.db("print_job").count({ n: "id" }))[0]?.n)
  const jobs = await printed()
  value(await save({ units: "3", reason: "one more on the form", departed: "08:55", signature }))
  const after = await bytes()
  expect(after.id).not.toBe(before.id)
  expect(there(await rig.db("document").where({ id: before.id }).first("void_at")).void_at).not.toBeNull()
  expect(back.words(after.bytes)).toContain("one more on the form")
  // the zigzag of 59 lines is there to be seen: more ink than before
  expect(inkOf(after.bytes)).toBeGreaterThan(inkOf(before.bytes) + 400)
  // what was printed already is printed again only when somebody asks
  expect(await printed()).toBe(jobs)
  // the same again changes nothing, and who was not asked to sign again keeps his signature
  const story = async () => Number((await rig.db("audit").where({ action: "dock.driver" }).count({ n: "id" }))[0]?.n)
  const told = await story()
  value(await save({ units: "3", reason: "one more on the form", departed: "08:55" }))
  expect([await story(), (await bytes()).id]).toEqual([told, after.id])
  expect((await known()).driver?.strokes).toEqual([stroke])
  // somebody else, whose page is older, changes one field: the others stay
  value(await saveDriver(rig.context, door, { seal: "S-9" }))
  expect(await known()).toMatchObject({
    driver: { name: "Otis Rook", seal: "S-9", trailer: "T-19", units: 3, strokes: [stroke] },
    departedAt: instantAt("2026-11-24", "08:55", zone.zone),
  })
  value(await save({ units: "2", departed: "08:55", onPaper: true }))
  expect((await known()).driver?.strokes).toEqual([])
})

/** Dark points of a paper's sheets at 100 dpi. */
function inkOf(pdf: Buffer): number {
  const folder = mkdtempSync(join(tmpdir(), "varnok-ink-"))
  try {
    writeFileSync(join(folder, "one.pdf"), pdf)
    execFileSync("pdftoppm", ["-r", "100", "-gray", "-singlefile", join(folder, "one.pdf"), join(folder, "one")])
    const picture = readFileSync(join(folder, "one.pgm"))
    return picture.subarray(picture.length - 850 * 1100).filter((grey) => grey < 128).length
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

it("learns when a truck usually comes, by its door and cut-off", async () => {
  const collection = there(await collectionById(rig.db, 1, door))
  const usual = async () => (await usualTimes(rig.db, zone, [collection])).get(door) ?? null
  await rig.db("collection").where({ id: door }).update({ arrived_at: null })
  expect(await usual()).toBeNull()
  const others = await rig
    .db("collection")
    .where({ warehouse_id: 1, door: collection.door, carrier_id: collection.carrierId })
    .whereNot({ id: door })
    .orderBy("on_date")
    .limit(3)
    .select("id", "on_date")
  for (const [at, time] of (["16:50", "17:02", "16:58"] as const).entries()) {
    const { id, on_date: day } = there(others[at])
    await rig
      .db("collection")
      .where({ id })
      .update({ arrived_at: instantAt(day, time, zone.zone) })
  }
  expect(await usual()).toBe("16:58")
  expect((await warehouseById(rig.db, 1)).zone).toBe(zone.zone)
})
