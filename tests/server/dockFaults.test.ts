import { randomUUID } from "node:crypto"
import { mkdtempSync, readdirSync, rmSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import type { CollectionId } from "core/ids/index.ts"
import { askSchema, book } from "server/dock/bookings.ts"
import { closeCollection } from "server/dock/close.ts"
import { sendNow } from "server/dock/depart.ts"
import { ordersToGo } from "server/dock/doors.ts"
import { load } from "server/dock/load.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { seeded } from "../../demo/seeded.ts"
import { newId, there } from "../../server/db/there.ts"
import { type FaultRig, openFaultRig, patiently } from "./faultRig.ts"
import { askForLabels, type Rig, readyToBuy, row, value, workAll } from "./rig.ts"

/**
 * A day's closing through every fault: the worker that tells carriers, addresses, sources and customers is killed at
 * moments of no system, one answer of the carriers in three is lost, the database is killed once. Each form, each
 * booking, each message is there once, and none is missing.
 */
const deaths = Number(process.env.VARNOK_DOCK_DEATHS ?? 3)

let faults: FaultRig
let rig: Rig
let out: string
beforeAll(async () => {
  out = mkdtempSync(join(tmpdir(), "varnok-out-"))
  process.env.VARNOK_OUT = out
  faults = await openFaultRig(34_200, 2_000)
  rig = faults.rig
}, 180_000)
afterAll(async () => {
  delete process.env.VARNOK_OUT
  await faults.drop()
  rmSync(out, { recursive: true, force: true })
})

interface Book {
  readonly closings: readonly { readonly form: string; readonly trackingNumbers: readonly string[] }[]
  readonly collections: readonly { readonly number: string; readonly state: string }[]
}
const bookOf = async (code: string): Promise<Book> =>
  (await (await fetch(`${rig.at.carriers}/${code}/v1/handover`)).json()) as Book

it(`closes and books exactly once, the worker killed ${deaths} times`, async () => {
  const { context, db } = rig
  const customer = newId(
    await db("customer").insert({
      code: "FAULTY",
      name: "Faulty Cellars",
      routing: JSON.stringify({ messages: [{ kind: "desadv", way: "folder", to: "faulty", receiver: "" }] }),
    }),
  )
  const packages: { sscc: string; tracking: string; collection: number }[] = []
  for (let at = 0; at < 6; at += 1) {
    const number = `DF-${at}`
    const { orderId, shipment } = await readyToBuy(
      context,
      number,
      row({ order_number: number, customer: "Faulty Cellars" }),
    )
    await askForLabels(context, orderId, shipment, at % 2 === 0 ? "LKG" : "LKX")
    await workAll(db)
    const one = there(await db("package").where({ shipment_id: shipment.id }).first())
    packages.push({
      sscc: there(one.sscc),
      tracking: there(one.tracking),
      collection: there(one.collection_id),
    })
  }
  expect(await db("sales_order").where({ customer_id: customer }).count({ n: "*" }).first()).toEqual({ n: 6 })
  const doors = [...new Set(packages.map((one) => one.collection))] as CollectionId[]
  for (const one of packages) value(await load(context, one.collection, { sscc: one.sscc }, randomUUID()))
  const before = await bookOf("LARK")
  for (const code of ["LARK", "MERI", "IRON"])
    await fetch(`${rig.at.carriers}/${code}/faults`, {
      method: "PUT",
      body: JSON.stringify({ fault: "lose-answer", every: 3 }),
    })
  for (const door of doors) {
    const on = packages.filter((one) => one.collection === door).length
    const missing = (await ordersToGo(db, 1, [door])).get(door)?.length ?? 0
    value(await closeCollection(context, door, on, missing))
    value(await sendNow(context, door))
  }
  const asked = askSchema.parse({
    door: "15",
    day: "2026-11-25",
    ready: "12:00",
    latest: "16:30",
    pieces: 2,
    weight: "240",
    contact: "Maren Holt",
    tell: "yard@northlake.example",
  })
  for (let at = 0; at < 3; at += 1)
    value(
      await book(
        context,
        {
          carrier: "LARK",
          collectionId: null,
          orderId: null,
          fee: "12.50",
          ask: { ...asked, door: `2${at}`, pieces: at + 1 },
        },
        `fault ${at}`,
      ),
    )

  const next = seeded(21)
  let running = await faults.worker()
  for (let death = 1; death <= deaths; death += 1) {
    await new Promise((resolve) => setTimeout(resolve, 200 + next() * 900))
    await running.kill()
    if (death === 2) {
      faults.kill()
      await faults.again()
    }
    running = await faults.worker()
  }
  const left = () =>
    patiently(async () =>
      Number(
        (
          await db("job")
            .whereIn("kind", ["dock.tell", "dock.collect", "mail.send", "edi.send", "outbox.send"])
            .whereNotIn("state", ["done"])
            .count({ n: "*" })
            .first()
        )?.n,
      ),
    )
  await expect.poll(left, { timeout: 240_000, interval: 300 }).toBe(0)
  await running.stop()

  const { closings, collections } = await bookOf("LARK")
  const told = closings.slice(before.closings.length)
  // one form for each door, and each package on one of them
  expect(told).toHaveLength(doors.length)
  expect(told.flatMap((one) => one.trackingNumbers).sort()).toEqual(packages.map((one) => one.tracking).sort())
  expect(await db("closing_form").whereIn("collection_id", doors).pluck("state")).toEqual(doors.map(() => "done"))
  expect(collections.slice(before.collections.length).map((one) => one.state)).toEqual(["booked", "booked", "booked"])
  expect(await db("booked_collection").where({ state: "booked" }).pluck("number")).toHaveLength(3)
  // a message for each order, one file each, and acknowledged mails once by their own id
  expect(await db("edi_message").where({ customer_id: customer }).pluck("state")).toEqual(Array(6).fill("sent"))
  expect(readdirSync(join(out, "faulty")).filter((name) => name.endsWith(".edi"))).toHaveLength(6)
  const mailbox = new URL(rig.at.mail).searchParams.get("mailbox")
  const sent = (await (await fetch(`http://127.0.0.1:${mailbox}/messages`)).json()) as { id: string }[]
  const mails = await db("mail").select("state")
  expect(mails.every((one) => one.state === "sent")).toBe(true)
  expect(sent).toHaveLength(mails.length)
  expect(new Set(sent.map((one) => one.id)).size).toBe(sent.length)
  const reports = (await (await fetch(`${rig.at.orderSource}/reports`)).json()) as { body: { orderNumber: string } }[]
  const own = reports.map((one) => one.body.orderNumber).filter((number) => number.startsWith("DF-"))
  expect(own.sort()).toEqual(["DF-0", "DF-1", "DF-2", "DF-3", "DF-4", "DF-5"])
}, 600_000)
