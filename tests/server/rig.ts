import { randomUUID } from "node:crypto"
import { mkdtempSync, rmSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { Readable } from "node:stream"
import { instantAt } from "core/calendar/index.ts"
import type { CollectionId, IntentId, OrderId } from "core/ids/index.ts"
import { moneyText } from "core/money/index.ts"
import type { Knex } from "knex"
import type { Context } from "server/actors/index.ts"
import { setBusinessNow } from "server/clock/index.ts"
import { closeCollection } from "server/dock/close.ts"
import { ordersToGo } from "server/dock/doors.ts"
import { drainSoon, waitingPrinters } from "server/documents/drain.ts"
import type { Work } from "server/http/context.ts"
import { previewFile } from "server/intake/read.ts"
import { takeIn } from "server/intake/take.ts"
import { type Shipment, shipmentOf } from "server/packages/shipment.ts"
import { addPackage, closePackages, openShipment, putIn } from "server/packing/index.ts"
import { pick, pickStops } from "server/picking/index.ts"
import { ensureCollections } from "server/setup/collections.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { buy, offersFor } from "server/shipping/buy.ts"
import { workOnce } from "server/worker/index.ts"
import { type Addresses, duluth, loadSetup } from "../../demo/setup.ts"
import { type Program, startStandins } from "../../scripts/stack.mjs"
import { there } from "../../server/db/there.ts"
import { freshDatabase } from "../database/fresh.ts"
import { header, row } from "./rows.ts"

export { header, row } from "./rows.ts"

/** A warehouse at work for a test: its own database, its own stand-ins, Tuesday 24 November 2026, 9:00. */
export interface Rig {
  readonly db: Knex
  readonly url: string
  readonly context: Context
  readonly at: Addresses
  readonly folder: string
  readonly programs: Program[]
  /** The port to which mail comes back that can't be delivered. */
  readonly returns: number
  readonly drop: () => Promise<void>
}

export async function openRig(database: ReturnType<typeof freshDatabase> = freshDatabase()): Promise<Rig> {
  const { db, url, drop } = await database
  const folder = mkdtempSync(join(tmpdir(), "varnok-rig-"))
  const { addresses, programs, returns } = await startStandins(folder, 0)
  const end = async () => {
    await Promise.all(programs.map((program) => program.stop()))
    await drop()
    rmSync(folder, { recursive: true, force: true })
  }
  try {
    const context = await opened(db, addresses)
    return { db, url, context, at: addresses, folder, programs, returns, drop: end }
  } catch (error) {
    // who could not open it has nothing to close
    await end()
    throw error
  }
}

/** Everything set up, as the clerk Maren of Duluth finds it. */
async function opened(db: Knex, addresses: Addresses): Promise<Context> {
  await loadSetup(db, addresses, "demo/tariffs")
  await db("warehouse").where({ id: duluth }).update({ hands: 2 })
  const now = instantAt("2026-11-24", "09:00", "America/Chicago")
  await setBusinessNow(db, now)
  await ensureCollections(db, await warehouseById(db, duluth), now)
  const user = there(await db("user").where({ username: "maren" }).first("id", "name"))
  return { db, now, actor: { userId: user.id, name: user.name, role: "clerk", warehouseId: duluth } }
}

/** What a page's loader and action work with: a context in its warehouse. */
export const workOf = async (context: Context): Promise<Work> => ({
  ...context,
  warehouse: await warehouseById(context.db, context.actor.warehouseId),
})

/** A form as a page sends it. */
export function formOf(fields: Readonly<Record<string, string | number | File>>): FormData {
  const form = new FormData()
  for (const [name, field] of Object.entries(fields)) form.append(name, field instanceof File ? field : String(field))
  return form
}

export const file = (...rows: string[]): Readable => Readable.from([Buffer.from([header, ...rows].join("\n"))])

export async function takeFile(context: Context, ...rows: string[]): Promise<number> {
  const id = await previewFile(context, "file", "test.csv", file(...rows))
  await takeIn(context, id)
  return id
}

/** Whether an order of a source's number is in. */
export const hasOrder = async (db: Knex, number: string): Promise<boolean> =>
  (await db("sales_order").where({ source_number: number }).first("id")) !== undefined

/** The order of a source's number. Throws where there is none. */
export const orderBySource = async (db: Knex, number: string) =>
  there(await db("sales_order").where({ source_number: number }).first())

export async function pickAll(context: Context, orderId: OrderId): Promise<void> {
  for (const stop of await pickStops(context.db, orderId)) {
    for (let n = stop.quantity - stop.picked; n > 0; n -= 1)
      value(
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

/** The same clerk in another role or warehouse. */
export const as = (context: Context, more: Partial<Context["actor"]>): Context => ({
  ...context,
  actor: { ...context.actor, ...more },
})

/** An order picked, packed into one carton and closed, ready to be bought. */
export async function readyToBuy(
  context: Context,
  number: string,
  ...rows: string[]
): Promise<{ orderId: OrderId; shipment: Shipment }> {
  await takeFile(context, ...(rows.length > 0 ? rows : [row({ order_number: number })]))
  return packed(context, number)
}

/** An order that is in already, picked, packed into one carton and closed. */
export async function packed(context: Context, number: string): Promise<{ orderId: OrderId; shipment: Shipment }> {
  const orderId = (await orderBySource(context.db, number)).id
  await pickAll(context, orderId)
  value(await openShipment(context, orderId))
  value(await addPackage(context, orderId, "K12", true))
  return { orderId, shipment: value(await closePackages(context, orderId)) }
}

/** An order that is in already, picked, and its first line packed into cartons of so many pieces each. */
export async function packedInto(
  context: Context,
  number: string,
  cartons: readonly number[],
): Promise<{ orderId: OrderId; shipment: Shipment }> {
  const orderId = (await orderBySource(context.db, number)).id
  await pickAll(context, orderId)
  const lineId = there(value(await openShipment(context, orderId)).lines[0]).id
  for (const [index, quantity] of cartons.entries()) {
    value(await addPackage(context, orderId, "K12"))
    const put = { package: index + 1, lineId, quantity, scanned: true, scanId: randomUUID() }
    value(await putIn(context, orderId, put))
  }
  return { orderId, shipment: value(await closePackages(context, orderId)) }
}

/** Takes one order in with columns that the short header of the tests has not. */
export async function takeWith(
  context: Context,
  fields: Readonly<Record<string, string>>,
  more: Readonly<Record<string, string>>,
) {
  const columns = [header, ...Object.keys(more)].join(",")
  const text = `${columns}\n${[row(fields), ...Object.values(more)].join(",")}`
  await takeIn(context, await previewFile(context, "file", "with.csv", Readable.from([Buffer.from(text)])))
  return orderBySource(context.db, fields.order_number ?? "")
}

/** Buys what is packed by a service, at its price; answers why not where the service or a paper refuses it. */
export async function tryToBuy(context: Context, orderId: OrderId, service: string) {
  const shipment = there(await shipmentOf(context.db, orderId))
  const { offers } = await offersFor(context.db, await warehouseById(context.db, duluth), shipment, context.now)
  const offer = offers.find((one) => one.service.code === service)
  if (!offer?.rate) return { ok: false as const, reasons: offer?.refusals ?? [] }
  return buy(context, orderId, {
    version: shipment.version,
    serviceCode: service,
    expected: moneyText(offer.rate.contract),
  })
}

/** Asks for labels by a service; leaves the carrier to the worker. */
export async function askForLabels(
  context: Context,
  orderId: OrderId,
  shipment: Shipment,
  service = "LKG",
): Promise<{ intentId: IntentId; amount: string }> {
  const { offers } = await offersFor(context.db, await warehouseById(context.db, duluth), shipment, context.now)
  const offer = offers.find((one) => one.service.code === service)
  if (!offer?.rate) throw new Error(`${service} does not take it: ${JSON.stringify(offer?.refusals)}`)
  const price = moneyText(offer.rate.contract)
  const bought = value(
    await buy(context, orderId, { version: shipment.version, serviceCode: offer.service.code, expected: price }),
  )
  return { ...bought, amount: price.amount }
}

/** Closes a door, knowing which orders miss its truck. */
export async function closeDoor(context: Context, collectionId: CollectionId, packages: number) {
  const toGo = (await ordersToGo(context.db, context.actor.warehouseId, [collectionId])).get(collectionId) ?? []
  return value(await closeCollection(context, collectionId, packages, toGo.length))
}

/** Does all jobs that are due, and those that wait after a failure too, until the queue is empty or the tries are used. */
export async function workAll(db: Knex, rounds = 12): Promise<void> {
  for (let round = 0; round < rounds; round += 1) {
    // what a printer kept is sent again by what comes back by itself
    for (const printerId of await waitingPrinters(db)) await drainSoon(db, printerId)
    await db("job")
      .where({ state: "waiting" })
      .update({ run_at: new Date(0), leased_until: null })
    let any = false
    while (await workOnce(db)) any = true
    if (!any) return
  }
}

/** Where one of the carriers answers. */
export const carrierAt = (rig: Pick<Rig, "at">, code: string): string => `${rig.at.carriers}/${code}`

export async function fault(address: string, name: string | null, times = 0): Promise<void> {
  await fetch(`${address}/faults`, { method: "PUT", body: JSON.stringify({ fault: name, times }) })
}

export interface LedgerEntry {
  key: string
  state: string
  reference: string
  charge: { amount: string; currency: string }
  packages: { trackingNumber: string; sscc: string }[]
}
export const ledger = async (address: string): Promise<LedgerEntry[]> =>
  (await fetch(`${address}/v1/ledger`)).json() as Promise<LedgerEntry[]>

export function value<T>(outcome: { ok: true; value: T } | { ok: false; reasons: readonly unknown[] }): T {
  if (!outcome.ok) throw new Error(`refused: ${JSON.stringify(outcome.reasons)}`)
  return outcome.value
}

export const codes = (outcome: { ok: boolean; reasons?: readonly { code: string }[] }): string[] =>
  (outcome.reasons ?? []).map((one) => one.code)
