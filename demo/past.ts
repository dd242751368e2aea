import { randomUUID } from "node:crypto"
import { Readable } from "node:stream"
import { instantAt, type LocalTime } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"
import type { Context } from "server/actors/index.ts"
import { setBusinessNow } from "server/clock/index.ts"
import { closeCollection } from "server/dock/close.ts"
import { sendNow } from "server/dock/depart.ts"
import { ordersToGo } from "server/dock/doors.ts"
import { load as loadOnTruck } from "server/dock/load.ts"
import { previewFile } from "server/intake/read.ts"
import { takeIn } from "server/intake/take.ts"
import { collectionById, ensureCollections } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { pullEvents } from "server/tracking/pull.ts"
import { workOnce } from "server/worker/index.ts"
import { there } from "../server/db/there.ts"
import { customers, type DemoCustomer } from "./customers.ts"
import { csv, type DemoOrder, one } from "./orders.ts"
import { duluth } from "./setup.ts"

const zone = "America/Chicago"
const day = "2026-11-19"

/** What a carrier's people scanned: code, day and time there, place with its offset from UTC, and what else the event says. */
type Scan = readonly [
  code: string,
  at: string,
  place: readonly [city: string, state: string, postalCode: string, offset: string],
  more?: { estimatedDelivery?: string; receivedBy?: string; picture?: string; description?: string },
]

const duluthHub = ["Duluth", "MN", "55802", "-06:00"] as const
const twinCities = ["Minneapolis", "MN", "55401", "-06:00"] as const
const chicago = ["Chicago", "IL", "60601", "-06:00"] as const
const denver = ["Denver", "CO", "80202", "-07:00"] as const

/**
 * Orders that left on the Thursday before, all by one ground service, each with what became of it: most came in, and some
 * need somebody.
 */
const shipments: readonly {
  readonly number: number
  readonly customer: string
  readonly promised: string
  readonly lines: DemoOrder["lines"]
  readonly scans: readonly Scan[]
}[] = [
  {
    number: 70101,
    customer: "BARFIN",
    promised: "2026-11-23",
    lines: one("PH-METER", 2),
    scans: [
      ["PU", "2026-11-19T17:40", duluthHub],
      ["ARR", "2026-11-20T03:10", twinCities],
      ["OFD", "2026-11-23T08:05", twinCities],
      ["DEL", "2026-11-23T11:32", twinCities, { receivedBy: "J. Lindqvist", picture: "door" }],
    ],
  },
  {
    number: 70102,
    customer: "SAWALE",
    promised: "2026-11-23",
    lines: one("HYD-TRI", 3),
    scans: [
      ["PU", "2026-11-19T17:40", duluthHub],
      ["OFD", "2026-11-20T09:15", duluthHub],
      ["DEL", "2026-11-20T14:48", duluthHub, { receivedBy: "front desk" }],
    ],
  },
  {
    number: 70103,
    customer: "ELKRUN",
    promised: "2026-11-25",
    lines: one("REF-BRIX-32", 1),
    scans: [
      ["PU", "2026-11-19T17:41", duluthHub],
      ["ARR", "2026-11-20T03:10", twinCities],
      ["DEP", "2026-11-20T22:00", twinCities],
      ["ARR", "2026-11-23T06:20", denver],
      ["ADR", "2026-11-23T15:05", denver, { description: "No such number in the street" }],
    ],
  },
  {
    number: 70104,
    customer: "TERNLK",
    promised: "2026-11-23",
    lines: one("SAM-VAL-15", 2),
    scans: [
      ["PU", "2026-11-19T17:41", duluthHub],
      ["ARR", "2026-11-20T04:02", twinCities],
      ["DLY", "2026-11-23T07:30", twinCities, { estimatedDelivery: "2026-11-25", description: "Missed connection" }],
    ],
  },
  {
    number: 70105,
    customer: "GOOSEB",
    promised: "2026-11-25",
    lines: one("CLA-15-EPDM", 12),
    scans: [
      ["PU", "2026-11-19T17:42", duluthHub],
      ["ARR", "2026-11-20T09:40", chicago],
      ["NHM", "2026-11-23T16:20", chicago, { description: "Closed, second attempt on Tuesday" }],
      ["OFD", "2026-11-24T08:10", chicago],
    ],
  },
  { number: 70106, customer: "PINANV", promised: "2026-11-24", lines: one("HOP-SAA-5", 1), scans: [] },
  {
    number: 70107,
    customer: "QUAROA",
    promised: "2026-11-25",
    lines: one("BOT-AMB-500", 2),
    scans: [
      ["PU", "2026-11-19T17:42", duluthHub],
      ["ARR", "2026-11-20T09:41", chicago],
      ["DMG", "2026-11-23T10:12", chicago, { description: "Carton wet, contents rattle" }],
      ["ARR", "2026-11-24T05:00", chicago],
    ],
  },
  {
    number: 70108,
    customer: "OTTALE",
    promised: "2026-11-27",
    lines: one("TAN-GRP-1", 3),
    scans: [
      ["PU", "2026-11-19T17:43", duluthHub],
      ["ARR", "2026-11-23T11:00", chicago],
      ["DEP", "2026-11-24T04:30", chicago, { estimatedDelivery: "2026-11-25" }],
    ],
  },
]

const named = (code: string) => there(customers.find((customer) => customer.code === code)) as DemoCustomer

/** The steps of a morning that are needed here. */
export interface Steps {
  readonly ship: (context: Context, orderId: OrderId, service: string) => Promise<void>
  readonly must: <T>(outcome: { ok: true; value: T } | { ok: false; reasons: readonly unknown[] }) => T
}

/**
 * Ships some orders on the Thursday before, with the numbers before those of the morning, and has the carriers' people
 * scan them since. What they took from the shelves is put there again, so that the morning finds it as it was.
 */
export async function lastThursday(db: Knex, actor: Context["actor"], { ship, must }: Steps): Promise<void> {
  const at = async (time: LocalTime): Promise<Context> => {
    const now = instantAt(day, time, zone)
    await setBusinessNow(db, now)
    return { db, actor, now }
  }
  const warehouse = there(await db("warehouse").where({ id: duluth }).first("order_serial"))
  const before = await shelves(db)
  await db("warehouse")
    .where({ id: duluth })
    .update({ order_serial: warehouse.order_serial - shipments.length })
  await contacts(db)
  const morning = await at("07:00")
  await ensureCollections(db, await warehouseById(db, duluth), morning.now)
  const orders = shipments.map(
    (shipment): DemoOrder => ({
      number: `SO-${shipment.number}`,
      po: `PO ${shipment.number - 64_000}`,
      customer: named(shipment.customer),
      promised: shipment.promised,
      lines: shipment.lines,
    }),
  )
  const file = Readable.from([Buffer.from(csv(orders, day))])
  await takeIn(morning, await previewFile(morning, "file", "orders-thursday.csv", file))
  const context = await at("08:00")
  for (const shipment of shipments) {
    const order = there(
      await db("sales_order")
        .where({ source_number: `SO-${shipment.number}` })
        .first("id"),
    )
    await ship(context, order.id, "LKG")
  }
  const loaded = await db("package").where({ state: "labelled" }).orderBy("id").select("sscc", "collection_id")
  for (const door of new Set(loaded.map((one) => there(one.collection_id)))) {
    const own = loaded.filter((one) => one.collection_id === door)
    const { cutOff } = there(await collectionById(db, duluth, door))
    await setBusinessNow(db, cutOff)
    const closing = { db, actor, now: cutOff }
    for (const one of own) must(await loadOnTruck(closing, door, { sscc: there(one.sscc) }, randomUUID()))
    const late = (await ordersToGo(db, duluth, [door])).get(door) ?? []
    must(await closeCollection(closing, door, own.length, late.length))
    must(await sendNow(closing, door))
  }
  while (await workOnce(db)) {
    // until the queue is empty
  }
  await putBack(db, before, context.now)
  await db("warehouse").where({ id: duluth }).update({ order_serial: warehouse.order_serial })
  await scan(db)
}

/** Who of some customers is told what becomes of their orders. */
async function contacts(db: Knex): Promise<void> {
  const usual = ["left", "delayed", "ready", "delivered"] as const
  for (const [code, role, name, address, topics] of [
    ["BARFIN", "receiving", "Jo Lindqvist", "dock@barrowfinch.example", [...usual, "out-for-delivery"]],
    ["BARFIN", "purchasing", "A. Finch", "buying@barrowfinch.example", ["received", "left"]],
    ["ELKRUN", "receiving", "", "cellar@elkrun.example", usual],
    ["TERNLK", "receiving", "", "winery@ternlake.example", usual],
    ["GOOSEB", "purchasing", "", "orders@gooseberry.example", usual],
    ["OTTALE", "receiving", "", "beer@otteralehouse.example", usual],
  ] as const) {
    const customer = await db("customer").where({ code }).first("id")
    if (!customer) continue
    await db("customer_contact").insert({
      customer_id: customer.id,
      role,
      name,
      way: "mail",
      address,
      topics: JSON.stringify(topics),
    })
  }
}

/** Has the carriers' people scan the packages, and reads what they have told until now. */
async function scan(db: Knex): Promise<void> {
  for (const { number, scans } of shipments) {
    const units = await db("tracked_unit as u")
      .join("sales_order as o", "o.id", "u.order_id")
      .join("carrier as k", "k.id", "u.carrier_id")
      .where("o.source_number", `SO-${number}`)
      .select("u.tracking", "k.base_url")
    for (const unit of units)
      await fetch(`${unit.base_url}/v1/events`, {
        method: "POST",
        body: JSON.stringify(
          scans.map(([code, at, [city, state, postalCode, offset], more = {}]) => ({
            trackingNumber: unit.tracking,
            code,
            occurredAt: `${at}:00${offset}`,
            place: { city, state, postalCode, country: "US" },
            ...more,
          })),
        ),
      })
  }
  await setBusinessNow(db, instantAt("2026-11-24", "06:30", zone))
  for (const carrier of await db("tracked_unit").whereNotNull("carrier_id").distinct("carrier_id"))
    await pullEvents(db, there(carrier.carrier_id))
}

interface Shelves {
  readonly stock: ReadonlyMap<number, number>
  readonly cartons: readonly {
    readonly packaging_id: number
    readonly warehouse_id: number
    readonly on_hand: number
  }[]
}

const shelves = async (db: Knex): Promise<Shelves> => ({
  stock: new Map((await db("stock").select("id", "on_hand")).map((row) => [row.id, Number(row.on_hand)])),
  cartons: await db("packaging_stock").select("packaging_id", "warehouse_id", "on_hand"),
})

async function putBack(db: Knex, before: Shelves, now: Date): Promise<void> {
  const after = await shelves(db)
  for (const [id, was] of before.stock) {
    const lacks = was - (after.stock.get(id) ?? 0)
    if (lacks <= 0) continue
    await db("stock").where({ id }).update({ on_hand: was })
    await db("stock_movement").insert({ stock_id: id, quantity: lacks, cause: "receipt", at: now })
  }
  for (const { packaging_id, warehouse_id, on_hand } of before.cartons)
    await db("packaging_stock").where({ packaging_id, warehouse_id }).update({ on_hand })
}
