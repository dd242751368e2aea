import type { AdviceAsk } from "core/advice/index.ts"
import type { OrderId, WarehouseId } from "core/ids/index.ts"
import type { Wishes } from "core/rating/index.ts"
import { type Outcome, reason, refused } from "core/refusal/index.ts"
import type { OptionCode } from "core/tariff/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed } from "../audit/index.ts"
import { joinOrders, partOrder } from "../decisions/join.ts"
import { reroute } from "../decisions/reroute.ts"
import { leadOf, leadsOf } from "../orders/joined.ts"
import { shipmentOf } from "../packages/shipment.ts"
import { palletType } from "../packaging/catalog.ts"
import { openShipment, palletise, takeApart } from "../packing/index.ts"
import { setShipDate } from "../plan/shipDate.ts"
import { repack, repackBack } from "../shipping/otherwise.ts"
import { askFor } from "../shipping/wishes.ts"

/** What was taken of an order's advice, with all that it needs to be taken back; plain data, kept with the order. */
export interface Taken {
  readonly ask: AdviceAsk
  /** What it is called in words, as it was told: made by the screen. */
  readonly words: string
  /** What it was sent with, and what it was taken back with. */
  readonly key: string
  readonly backKey: string | null
  /** The shipment's version once it was taken: what is done afterwards makes taking back another matter. */
  readonly version: number
  readonly before: {
    readonly shipOn: string | null
    readonly payer: Wishes["payer"]
    readonly warehouse: WarehouseId
  }
}

const done: Outcome<null> = { ok: true, value: null }

/**
 * Takes an advice of an order of the actor's warehouse, and keeps what is needed to take it back. A key counts once.
 * Refused where what it asks for can't be done any more.
 */
export async function takeAdvice(
  context: Context,
  ofOrder: OrderId,
  ask: AdviceAsk,
  words: string,
  key: string,
): Promise<Outcome<unknown>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const orderId = await leadOf(db, ofOrder)
  const order = await ownOrSent(context, orderId)
  const kept = keptOf(order)
  // sent once more an order may be at another warehouse already
  if (kept && key !== "" && kept.key === key && kept.before.warehouse === actor.warehouseId) return done
  if (order?.warehouse_id !== actor.warehouseId) return refused(reason("order.unknown"))
  const before = {
    shipOn: order.chosen_ship_on,
    payer: (await shipmentOf(db, orderId))?.wishes.payer ?? null,
    warehouse: actor.warehouseId,
  }
  const outcome = await does(context, orderId, ask, key)
  if (!outcome.ok) return outcome
  // joined with others another may lead now
  const lead = await leadOf(db, ofOrder)
  const version = await versionOf(db, lead)
  const taken: Taken = { ask, words: words.slice(0, 300), key, backKey: null, version, before }
  await db("sales_order")
    .where({ id: lead })
    .update({ advice_taken: JSON.stringify(taken) })
  return outcome
}

/** An order of the actor's warehouse, or one that came from it. */
const ownOrSent = ({ db, actor }: Context, orderId: OrderId) =>
  db("sales_order")
    .where({ id: orderId })
    .where((own) => void own.where({ warehouse_id: actor.warehouseId }).orWhere({ came_to_id: actor.warehouseId }))
    .first("warehouse_id", "chosen_ship_on", "advice_taken")

const keptOf = (row: { readonly advice_taken?: unknown } | undefined): Taken | null =>
  row?.advice_taken ? parsed<Taken>(row.advice_taken) : null

const versionOf = async (db: Knex, orderId: OrderId): Promise<number> =>
  (await db("shipment").where({ order_id: orderId }).whereNot("state", "void").orderBy("id").first("version"))
    ?.version ?? 0

/** What was taken last of an order's advice and can still be taken back: it stands, and nothing was done with it since. */
export async function takenOf(db: Knex, ofOrder: OrderId): Promise<Taken | null> {
  const orderId = await leadOf(db, ofOrder)
  const row = await db("sales_order")
    .where({ id: orderId })
    .whereNull("left_line_at")
    .first("advice_taken", "chosen_ship_on", "warehouse_id")
  const taken = keptOf(row)
  if (!row || !taken || taken.backKey !== null) return null
  const { ask } = taken
  switch (ask.kind) {
    case "later":
      return row.chosen_ship_on === ask.day ? taken : null
    case "warehouse":
      return row.warehouse_id === ask.warehouse ? taken : null
    case "join":
      return (await leadsOf(db, ask.orders)).get(ask.orders[0] ?? 0) === orderId ? taken : null
    default:
      return taken.version === (await versionOf(db, orderId)) ? taken : null
  }
}

async function does(context: Context, orderId: OrderId, ask: AdviceAsk, key: string): Promise<Outcome<unknown>> {
  switch (ask.kind) {
    case "repack":
      return repack(context, orderId, key)
    case "pallet":
      return onPallets(context, orderId)
    case "loose":
      return takeApart(context, orderId)
    case "later":
      return setShipDate(context, orderId, ask.day)
    case "option":
      return asking(context, orderId, key, `-${ask.option}`, (options) => options.filter((one) => one !== ask.option))
    case "payer":
      return asked(context, orderId, key, { payer: null })
    case "join":
      return joinOrders(context, [orderId, ...(ask.orders as OrderId[])])
    case "warehouse":
      return reroute(context, orderId, ask.warehouse as WarehouseId)
  }
}

async function onPallets(context: Context, orderId: OrderId): Promise<Outcome<unknown>> {
  const shipment = await shipmentOf(context.db, orderId)
  // pressed twice it stands there already
  if (shipment?.packages.some((one) => one.kind === "pallet") && shipment.packages.every(standsOrIs))
    return { ok: true, value: shipment }
  return palletise(context, orderId, (await palletType(context.db))?.code ?? "")
}

const standsOrIs = (one: { readonly kind: string; readonly on: number | null }): boolean =>
  one.kind === "pallet" || one.on !== null

async function asked(context: Context, orderId: OrderId, key: string, wanted: Partial<Wishes>) {
  const opened = await openShipment(context, orderId)
  return opened.ok ? askFor(context, orderId, wanted, key) : opened
}

async function asking(
  context: Context,
  orderId: OrderId,
  key: string,
  words: string,
  change: (options: readonly OptionCode[]) => OptionCode[],
) {
  const opened = await openShipment(context, orderId)
  return opened.ok ? askFor(context, orderId, {}, key, { words, change }) : opened
}

/**
 * Takes back what was taken last of an order's advice, as long as nothing was done with it since. A key counts once.
 * Refused where nothing is to be taken back.
 */
export async function takeBack(context: Context, ofOrder: OrderId, key: string): Promise<Outcome<unknown>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const orderId = await leadOf(db, ofOrder)
  const row = await ownOrSent(context, orderId)
  const kept = keptOf(row)
  // an order that was sent elsewhere is taken back by those who sent it
  const sent = kept?.ask.kind === "warehouse" && kept.before.warehouse === actor.warehouseId
  if (!row || (row.warehouse_id !== actor.warehouseId && !sent)) return refused(reason("order.unknown"))
  if (kept && key !== "" && kept.backKey === key) return done
  const taken = await takenOf(db, orderId)
  if (!taken) return refused(reason("cheaper.not-back"))
  const outcome = await undo({ ...context, actor: { ...actor, warehouseId: row.warehouse_id } }, orderId, taken, key)
  if (outcome.ok)
    await db("sales_order")
      .where({ id: orderId })
      .update({ advice_taken: JSON.stringify({ ...taken, backKey: key } satisfies Taken) })
  return outcome
}

async function parted(context: Context, orderIds: readonly OrderId[]): Promise<Outcome<unknown>> {
  for (const id of orderIds) {
    const outcome = await partOrder(context, id)
    if (!outcome.ok) return outcome
  }
  return done
}

async function undo(
  context: Context,
  orderId: OrderId,
  { ask, before }: Taken,
  key: string,
): Promise<Outcome<unknown>> {
  switch (ask.kind) {
    case "repack":
      return repackBack(context, orderId, key)
    case "pallet":
      return takeApart(context, orderId)
    case "loose":
      return onPallets(context, orderId)
    case "later":
      return setShipDate(context, orderId, before.shipOn)
    case "option":
      return asking(context, orderId, key, `+${ask.option}`, (options) => [...new Set([...options, ask.option])])
    case "payer":
      return asked(context, orderId, key, { payer: before.payer })
    case "join":
      return parted(context, ask.orders as OrderId[])
    case "warehouse":
      return reroute(context, orderId, before.warehouse)
  }
}
