import { randomUUID } from "node:crypto"
import { Readable } from "node:stream"
import { instantAt, type LocalTime } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { moneyText } from "core/money/index.ts"
import { goesAsFreight, suggestPacking } from "core/packing/index.ts"
import { type RuleBody, routingSchema, ruleSchema, type Settings, settingsSchema } from "core/rules/index.ts"
import { mass, massIn } from "core/units/index.ts"
import type { Knex } from "knex"
import type { Actor, Context } from "server/actors/index.ts"
import { parsed } from "server/audit/index.ts"
import { setBusinessNow } from "server/clock/index.ts"
import { blockBin, doubtStock, receive, transfer } from "server/decisions/stock.ts"
import { closeCollection } from "server/dock/close.ts"
import { sendNow } from "server/dock/depart.ts"
import { load as loadOnTruck } from "server/dock/load.ts"
import { previewFile } from "server/intake/read.ts"
import { takeIn } from "server/intake/take.ts"
import { orderFilter } from "server/orders/filter.ts"
import { mark } from "server/orders/marks.ts"
import { keepView } from "server/orders/views.ts"
import type { Shipment } from "server/packages/shipment.ts"
import { addPackage, closePackages, openShipment, weigh } from "server/packing/index.ts"
import { packSuggested, suggestionInput } from "server/packing/suggestion.ts"
import { makeRuns } from "server/picking/buildRuns.ts"
import { pick, pickStops, runWalk } from "server/picking/index.ts"
import { enterRun } from "server/picking/walkRuns.ts"
import { ensureDropOffs } from "server/rating/dropOffs.ts"
import { collectionsOn, ensureCollections } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { buy, offersFor } from "server/shipping/buy.ts"
import { workOnce } from "server/worker/index.ts"
import { newId, there } from "../server/db/there.ts"
import { loadDeliveries } from "./deliveries.ts"
import { type DemoFile, demoFiles } from "./orders.ts"
import { lastThursday } from "./past.ts"
import { sentBack } from "./returned.ts"
import { type Addresses, duluth, loadSetup, reno } from "./setup.ts"

const day = "2026-11-24"
const zone = "America/Chicago"
/** Where the clerk comes in: the first truck has left, the second one is being filled. */
export const opensAt = "10:42"

/**
 * Fills an empty schema with the demo and plays its morning through the application's own use cases, the stand-ins
 * included: orders come in, some are picked, packed, bought and gone with the first truck. The carriers' ledgers and
 * the printer's trays then hold what ours do.
 */
export async function loadDemo(db: Knex, addresses: Addresses, tariffs: string): Promise<void> {
  await loadSetup(db, addresses, tariffs)
  await loadDeliveries(db, day)
  const warehouse = await warehouseById(db, duluth)
  const user = there(await db("user").where({ username: "maren" }).first("id", "name"))
  const actor: Actor = { userId: user.id, name: user.name, role: "clerk", warehouseId: duluth }
  await lastThursday(db, actor, { ship: shipOrder, must })
  await sentBack(db, actor, { ship: shipOrder, must })
  await pastTrucks(db)
  await routes(db, addresses)
  const at = async (time: LocalTime): Promise<Context> => {
    const now = instantAt(day, time, zone)
    await setBusinessNow(db, now)
    return { db, actor, now }
  }
  const morning = await at("06:45")
  await ensureCollections(db, warehouse, morning.now)
  await ensureDropOffs(db, warehouse, morning.now)

  const files = demoFiles()
  const takeIntoPlace = async (context: Context, file: DemoFile) =>
    takeIn(context, await previewFile(context, "file", file.name, Readable.from([Buffer.from(file.csv)])))
  const takeFile = async (index: number) => {
    const file = files.duluth[index] as DemoFile
    await takeIntoPlace(await at(file.at), file)
  }
  await takeFile(0)
  const ready = (
    await db("sales_order")
      .whereNull("left_line_at")
      .whereNotExists(db("order_stop").whereRaw("order_stop.order_id = sales_order.id"))
      .orderBy("id")
      .select("id")
  ).map((row) => row.id as number)
  let next = 0
  const ship = async (time: LocalTime, count: number) => {
    for (let done = 0; done < count; done += 1) await shipOrder(await at(time), ready[next++] as number)
  }
  await ship("07:25", 3)
  await ship("08:05", 3)
  await takeFile(1)
  await ship("08:50", 3)
  await closeFirstTruck(await at("09:27"))
  await takeFile(2)
  await ship("10:10", 3)
  await renoMorning(await at("10:15"), files.reno)
  const late = await at("10:30")
  await pickOrder(late, ready[next++] as number)
  await pickOrder(late, ready[next++] as number)
  await severalNext(db, ready, next)
  await weighShort(late, ready[next++] as number)
  await pickOrder(late, ready[next++] as number, 1)
  await floorMorning(await at("10:36"), ready.slice(next + 8, next + 12))
  await marks(await at("10:40"))
  await at(opensAt)
}

/** When the trucks of the days before really came, some minutes around their cut-offs: what a door's usual time is learned of. */
async function pastTrucks(db: Knex): Promise<void> {
  const rules = await db("collection_rule").where({ warehouse_id: duluth, on_call: false }).orderBy("id")
  for (const [back, date] of (
    ["2026-11-23", "2026-11-20", "2026-11-19", "2026-11-18", "2026-11-17"] as const
  ).entries())
    for (const [index, rule] of rules.entries()) {
      if (!parsed<number[]>(rule.weekdays).includes(new Date(`${date}T12:00:00Z`).getUTCDay())) continue
      const cutOff = instantAt(date, rule.cut_off, zone)
      const arrived = new Date(cutOff.getTime() - (4 + ((back * 7 + index * 5) % 19)) * 60_000)
      const known = await db("collection")
        .where({ warehouse_id: duluth, door: rule.door, cut_off: cutOff })
        .first("id", "closed_at")
      const came = { arrived_at: arrived, departed_at: new Date(arrived.getTime() + 12 * 60_000) }
      const left = { closed_at: cutOff, closed_by: "Maren Holt", final_at: cutOff, closings: 1, ...came }
      if (known) {
        await db("collection")
          .where({ id: known.id })
          .update(known.closed_at ? came : left)
        continue
      }
      await db("collection").insert({
        warehouse_id: duluth,
        carrier_id: rule.carrier_id,
        door: rule.door,
        on_date: date,
        cut_off: cutOff,
        services: JSON.stringify(parsed(rule.services)),
        ...left,
      })
    }
}

/** How this house sends things: rules (two of them not switched on yet), patterns, a customer's instruction, closed days. */
async function routes(db: Knex, at: Addresses): Promise<void> {
  const pattern = (name: string, settings: Settings) => ({ name, body: JSON.stringify(settingsSchema.parse(settings)) })
  await db("shipping_pattern").insert([
    pattern("Pallet, no dock", { service: "IBS", packaging: "P10", liftgate: true }),
    pattern("Sample by air", { service: "MDS", packaging: "K05" }),
  ])
  const rules: [name: string, on: boolean, body: RuleBody][] = [
    [
      "Glass is tagged",
      true,
      { when: [{ field: "items", is: "has", value: "BOT-AMB-500, BOT-CHA-750" }], does: { tag: "glass" } },
    ],
    [
      "Frozen goods with dry ice",
      true,
      { when: [{ field: "items", is: "has", value: "YST-LIQ-1" }], does: { options: ["dry-ice"] } },
    ],
    [
      "Spirits are signed for by an adult",
      true,
      { when: [{ field: "items", is: "has", value: "BIT-ORG-200" }], does: { options: ["signature-adult"] } },
    ],
    [
      "Tomorrow goes by air",
      false,
      {
        when: [
          { field: "promise", is: "under", value: "2" },
          { field: "weight", is: "under", value: "40 lb" },
        ],
        does: { service: "MDN" },
      },
    ],
    [
      "Look twice at large orders",
      false,
      { when: [{ field: "value", is: "at-least", value: "900" }], does: { hold: true } },
    ],
  ]
  for (const [index, [name, on, body]] of rules.entries())
    await db("rule").insert({ name, position: index + 1, is_on: on, body: JSON.stringify(ruleSchema.parse(body)) })
  await db("customer")
    .where({ code: "SAWALE" })
    .update({
      routing: JSON.stringify(
        routingSchema.parse({
          services: ["LKG", "LKX", "IBS"],
          payer: { terms: "collect", account: "LK-204-1700" },
          join: true,
          split: false,
          messages: [
            { kind: "desadv", way: "http", to: `${at.orderSource}/messages` },
            { kind: "epcis", way: "folder", to: "sawbuck" },
          ],
        }),
      ),
    })
  for (const [code, messages] of [
    [
      "HALVRD",
      [
        { kind: "desadv", way: "mail", to: "receiving@halvard.example" },
        { kind: "iftmin", way: "folder", to: "halvard-forwarder" },
      ],
    ],
    ["NORMED", [{ kind: "desadv", way: "folder", to: "normed" }]],
  ] as const)
    await db("customer")
      .where({ code })
      .update({ routing: JSON.stringify(routingSchema.parse({ messages })) })
  for (const warehouse_id of [duluth, reno])
    await db("day_exception").insert([
      { warehouse_id, on_date: "2026-11-26", closed: true, name: "Thanksgiving Day" },
      { warehouse_id, on_date: "2026-12-25", closed: true, name: "Christmas Day" },
    ])
  await db("warehouse").update({ hand_hour: "24.00" })
  // what Duluth runs out of lies in Reno
  const pump = there(await db("item").where({ sku: "PMP-TRF-40" }).first("id"))
  const bin = there(await db("bin").where({ warehouse_id: reno }).orderBy("id").first("id"))
  const known = await db("stock").where({ warehouse_id: reno, item_id: pump.id }).first("id")
  const stockId =
    known?.id ?? newId(await db("stock").insert({ warehouse_id: reno, bin_id: bin.id, item_id: pump.id, on_hand: 0 }))
  await db("stock").where({ id: stockId }).update({ on_hand: 40 })
  const before = await db("stock_movement").where({ stock_id: stockId }).sum({ n: "quantity" }).first()
  await db("stock_movement").insert({
    stock_id: stockId,
    quantity: 40 - Number(before?.n ?? 0),
    cause: "opening",
    at: new Date("2026-11-23T18:00:00Z"),
  })
}

/** What people at work noted on this morning's orders, and a view that all of them use. */
async function marks(context: Context): Promise<void> {
  const { db } = context
  const orderNumber = async (number: string) =>
    there(await db("sales_order").where({ order_number: number }).first("id")).id as number
  must(await mark(context, await orderNumber("48243"), { what: "tag", tag: "fragile" }))
  must(await mark(context, await orderNumber("48252"), { what: "tag", tag: "fragile" }))
  must(
    await mark(context, await orderNumber("48252"), {
      what: "note",
      text: "Double wall carton, they had breakage in May",
    }),
  )
  must(await mark(context, await orderNumber("48258"), { what: "tag", tag: "call first" }))
  must(await keepView(context, "Promised tomorrow", orderFilter.parse({ stage: "line", promised: "tomorrow" }), true))
  must(await keepView(context, "Fragile", orderFilter.parse({ stage: "line", tag: "fragile" }), true))
}

/** Reno's morning, an hour and more behind: its orders come in, two are labeled. */
async function renoMorning(duluthContext: Context, files: readonly DemoFile[]): Promise<void> {
  const context: Context = { ...duluthContext, actor: { ...duluthContext.actor, warehouseId: reno } }
  const { db, now } = context
  await ensureCollections(db, await warehouseById(db, reno), now)
  for (const file of files)
    await takeIn(context, await previewFile(context, "file", file.name, Readable.from([Buffer.from(file.csv)])))
  const ready = await db("sales_order")
    .where({ warehouse_id: reno })
    .whereNotExists(db("order_stop").whereRaw("order_stop.order_id = sales_order.id"))
    .orderBy("id")
    .limit(2)
    .select("id")
  for (const order of ready) await shipOrder(context, order.id)
  // its own van drives to the neighbors
  const neighbors = await db("sales_order")
    .where({ warehouse_id: reno })
    .where("source_number", "like", "SO-803%")
    .orderBy("id")
    .select("id")
  for (const order of neighbors) await shipOrder(context, order.id, "VAN")
}

/** Takes every piece of an order at its bin, or only those of the first stops. */
async function pickOrder(context: Context, orderId: OrderId, stopsOnly = Number.POSITIVE_INFINITY): Promise<void> {
  for (const stop of (await pickStops(context.db, orderId)).slice(0, stopsOnly)) {
    for (let left = stop.quantity; left > 0; left -= 1) {
      must(
        await pick(context, orderId, {
          scanId: randomUUID(),
          allocationId: stop.allocationId,
          bin: stop.bin,
          item: stop.sku,
          times: 1,
        }),
      )
    }
  }
}

/** Packs as suggested, pieces on a pallet where no carton takes them; by hand, so that nothing counts as scanned. */
async function packOrder(context: Context, orderId: OrderId, close = true): Promise<Shipment> {
  await pickOrder(context, orderId)
  let shipment = must(await openShipment(context, orderId))
  if (shipment.lines.some((line) => goesAsFreight(line.piece.item)))
    shipment = must(await addPackage(context, orderId, "P10", true))
  const input = await suggestionInput(context.db, shipment)
  if (input.loads.length > 0) {
    const { boxes, left } = must(suggestPacking(input))
    if (left.length > 0) throw new Error(`no carton takes goods of the demo's order ${shipment.orderNumber}`)
    const suggested = boxes.map((box) => ({ code: box.code, placed: box.placed.map((place) => ({ ...place })) }))
    shipment = must(await packSuggested(context, orderId, suggested, true, randomUUID()))
  }
  if (!close) return shipment
  const first = shipment.packages[0] as Shipment["packages"][number]
  shipment = must(
    await weigh(
      context,
      orderId,
      first.number,
      mass(massIn(first.calculated, "lb").mul("1.01").toDecimalPlaces(1), "lb"),
    ),
  )
  return must(await closePackages(context, orderId))
}

/** Brings an order of several lines forward, so that what is shown of it is worth looking at. */
async function severalNext(db: Knex, orders: number[], next: number): Promise<void> {
  for (let at = next; at < next + 8; at += 1) {
    const lines = await db("order_line").where({ order_id: orders[at] }).count({ n: "*" }).first()
    if (Number(lines?.n) < 3) continue
    const [moved] = orders.splice(at, 1) as [number]
    orders.splice(next, 0, moved)
    return
  }
}

/** A carton that weighs a piece less than it should: something is missing, and the scale says so. */
async function weighShort(context: Context, orderId: OrderId): Promise<void> {
  const [first] = (await packOrder(context, orderId, false)).packages
  const heavy = [...(first?.contents ?? [])].sort((a, b) => b.item.unitWeight.cmp(a.item.unitWeight))[0]
  if (!first || !heavy) return
  const short = massIn(first.calculated, "lb").sub(massIn(heavy.item.unitWeight, "lb"))
  must(await weigh(context, orderId, first.number, mass(short.toDecimalPlaces(1), "lb")))
}

/**
 * The floor this morning: a bin that a fork-lift bent, a lot that waits for its release, a run of four orders on the tote
 * cart of which Tomas has walked half, and a bin in which pieces lacked, to be counted.
 */
async function floorMorning(context: Context, orders: readonly number[]): Promise<void> {
  const { db } = context
  const lead: Context = { ...context, actor: { ...context.actor, role: "lead" } }
  const place = async (sku: string) =>
    (
      await db("stock as s")
        .join("item as i", "i.id", "s.item_id")
        .where({ "i.sku": sku, "s.warehouse_id": duluth })
        .first("s.id")
    ).id
  must(await transfer(context, { key: randomUUID(), stockId: await place("BOT-SWT-750"), to: "B-05-1", quantity: 6 }))
  must(await blockBin(lead, "B-05-1", "beam bent by the fork-lift"))
  const lot = { lot: "W26-090", expires: "2029-02-01", quantity: 60 }
  must(await receive(context, { key: randomUUID(), sku: "YST-WIN-500", bin: "D-14-1", ...lot }))
  const user = there(await db("user").where({ username: "tomas" }).first("id", "name"))
  const tomas: Context = { ...context, actor: { ...context.actor, userId: user.id, name: user.name, role: "lead" } }
  const cart = there(await db("cart").where({ warehouse_id: duluth, code: "C2" }).first("id"))
  const wish = { by: "hand" as const, value: "", orderIds: orders, cartId: cart.id, atMost: 12 }
  const [number] = must(await makeRuns(tomas, wish))
  must(await enterRun(tomas, number as number, cart.id))
  const run = there(await db("pick_run").where({ warehouse_id: duluth, number }).first("id"))
  const { stops } = await runWalk(db, duluth, run.id)
  for (const stop of stops.slice(0, Math.ceil(stops.length / 2)))
    must(
      await pick(tomas, stop.orderId, {
        scanId: randomUUID(),
        allocationId: stop.allocationId,
        bin: stop.bin,
        tote: stop.totes[0],
        item: stop.sku,
        times: stop.quantity,
      }),
    )
  const bent = await db("stock as s").join("bin as b", "b.id", "s.bin_id").where({ "b.code": "B-05-1" }).first("s.id")
  must(await doubtStock(context, bent.id))
}

async function shipOrder(context: Context, orderId: OrderId, service = ""): Promise<void> {
  const { db, now } = context
  const shipment = await packOrder(context, orderId)
  const { offers, preselected: usual } = await offersFor(
    db,
    await warehouseById(db, context.actor.warehouseId),
    shipment,
    now,
  )
  const preselected = service ? offers.find((one) => one.service.code === service) : usual
  if (!preselected?.rate) throw new Error(`no service takes the demo's order ${shipment.orderNumber}`)
  must(
    await buy(context, orderId, {
      version: shipment.version,
      serviceCode: preselected.service.code,
      expected: moneyText(preselected.rate.contract),
    }),
  )
  while (await workOnce(db)) {
    // until the queue is empty
  }
}

async function closeFirstTruck(context: Context): Promise<void> {
  const { db } = context
  const first = (await collectionsOn(db, duluth, day))[0]
  if (!first) throw new Error("the demo has no first truck")
  const packages = await db("package").where({ collection_id: first.id, state: "labelled" }).select("sscc")
  for (const one of packages) must(await loadOnTruck(context, first.id, { sscc: there(one.sscc) }, randomUUID()))
  must(await closeCollection(context, first.id, packages.length))
  // it left an hour ago: whoever is told of it has been told
  must(await sendNow(context, first.id))
  while (await workOnce(db)) {
    // until the queue is empty
  }
}

function must<T>(outcome: { ok: true; value: T } | { ok: false; reasons: readonly unknown[] }): T {
  if (!outcome.ok) throw new Error(`the demo was refused: ${JSON.stringify(outcome.reasons)}`)
  return outcome.value
}
