import type { AllocationId, LineId, OrderId } from "core/ids/index.ts"
import { type ShortReason, type ShortWay, shortWays } from "core/picking/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Routing } from "core/rules/index.ts"
import type { Knex } from "knex"
import { authorise, type Context, may } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { lockOrders, membersOf } from "../orders/joined.ts"
import { leaveRuns } from "../orders/membership.ts"
import { splitOff } from "../orders/parts.ts"
import { levelsOf } from "../packaging/catalog.ts"
import { orderOfStop } from "../picking/index.ts"
import { pickStops } from "../picking/stops.ts"
import { lockRunOf, settleRun } from "../picking/walkRuns.ts"
import { groundOf } from "../plan/plan.ts"
import { routingOf, ruleBook } from "../rules/book.ts"
import { allot, hold, type LineNeed, lockedStock, perCase } from "../stock/allocation.ts"
import { cancelOrder } from "./cancel.ts"
import { askForCount } from "./count.ts"
import { recheck } from "./recheck.ts"

export interface Short {
  /** Made by the client; the same one again counts once. */
  readonly scanId: string
  readonly allocationId: AllocationId
  readonly why: ShortReason
  readonly way: ShortWay
}

/**
 * Whether a way of dealing with missing pieces is what the customer's instruction allows: other stock always; another
 * shipment only where orders may be split; and what the instruction names, or any where it names none.
 */
export function allowedWhenShort(routing: Pick<Routing, "split" | "whenShort">, way: ShortWay): boolean {
  if (way === "elsewhere") return true
  if ((way === "warehouse" || way === "back-order") && !routing.split) return false
  if (routing.whenShort === "any") return way !== "cancel"
  if (way === "warehouse") return routing.whenShort === "back-order"
  return routing.whenShort === way
}

export interface ShortChoice {
  readonly way: ShortWay
  /** False: only the lead may. */
  readonly allowed: boolean
  /** Why it can't be done at all; null: it can. */
  readonly impossible: Reason | null
  /** Bins, or the warehouse, that it would come from. */
  readonly from: string
}

/** What can be done about the missing pieces of a stop, in the order in which it is tried. */
export async function shortChoices(context: Context, allocationId: AllocationId): Promise<ShortChoice[]> {
  const { db, actor } = context
  const orderId = await orderOfStop(context, allocationId)
  if (!orderId) return []
  const facts = await shortFacts(db, context, orderId, allocationId)
  if (!facts) return []
  return shortWays.map((way) => ({
    way,
    allowed: allowedWhenShort(facts.routing, way) || may(actor, "orders.override"),
    impossible: facts.impossible(way),
    from:
      way === "elsewhere" ? facts.elsewhere.bins.join(", ") : way === "warehouse" ? (facts.warehouse?.name ?? "") : "",
  }))
}

async function shortFacts(db: Knex, { actor, now }: Context, orderId: OrderId, allocationId: AllocationId) {
  const order = there(await db("sales_order").where({ id: orderId }).first())
  const stop = (await pickStops(db, orderId)).find((one) => one.allocationId === allocationId)
  if (!stop || stop.picked >= stop.quantity) return null
  const missing = stop.quantity - stop.picked
  const line = await db("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .where("a.id", allocationId)
    .first("l.*")
  const routing = routingOf(await ruleBook(db), order.customer_id)
  const ground = await groundOf(db, actor.warehouseId, now)
  const stock = (await lockedStock(db, actor.warehouseId, [line.item_id])).filter((place) => place.id !== stop.stockId)
  const levels = await levelsOf(db, [line.item_id])
  const life = {
    usableOn: order.promised_on !== null && order.promised_on > ground.today ? order.promised_on : ground.today,
    minimumLife: routing.minimumLife,
  }
  const need = {
    id: line.id,
    itemId: line.item_id,
    sku: stop.sku,
    lacking: missing,
    perCase: perCase(levels.get(line.item_id) ?? []),
  }
  const found = allot(stock, [need], life).get(line.id)
  const warehouse = await otherWarehouse(db, actor.warehouseId, need, life)
  const joined = (await membersOf(db, orderId)).length > 1
  return {
    order,
    stop,
    missing,
    line,
    routing,
    warehouse,
    elsewhere: {
      takes: found?.takes ?? [],
      bins: (found?.takes ?? []).flatMap((take) => stock.find((place) => place.id === take.stockId)?.bin ?? []),
    },
    impossible: (way: ShortWay): Reason | null => {
      const lacking = found?.lacking ?? missing
      if (way === "elsewhere")
        return lacking > 0 ? reason("short.not-elsewhere", { missing, free: missing - lacking }) : null
      if (way === "warehouse" && !warehouse) return reason("short.no-warehouse", { missing })
      return (way === "warehouse" || way === "back-order") && joined ? reason("short.joined") : null
    },
  }
}

/** The first other warehouse at work that has all of it and may give it, by the same rules as here; null: none. */
async function otherWarehouse(
  db: Knex,
  here: number,
  need: LineNeed,
  life: { readonly usableOn: string; readonly minimumLife: number },
): Promise<{ id: number; name: string } | null> {
  const others = await db("warehouse")
    .where({ at_work: true })
    .whereNot({ id: here })
    .orderBy("id")
    .select("id", "name")
  for (const one of others) {
    const found = allot(await lockedStock(db, one.id, [need.itemId]), [need], life).get(need.id)
    if (found?.lacking === 0) return one
  }
  return null
}

/**
 * Records that pieces are not where they should be, and does about it what was chosen: takes them elsewhere, ships them
 * from another warehouse, back-orders them as a part of the same order, waits for them, or cancels them. The place is to
 * be counted, and nothing is allocated from it until then. What the customer's instruction does not allow needs the lead.
 * Answers what was done in words' values. Safe to repeat with the same scan id.
 */
export async function recordShort(
  context: Context,
  short: Short,
): Promise<Outcome<{ missing: number; part: string | null; bins: readonly string[] }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const orderId = await orderOfStop(context, short.allocationId)
  return inTransaction(
    db,
    async (trx): Promise<Outcome<{ missing: number; part: string | null; bins: readonly string[] }>> => {
      if (orderId !== null) {
        await lockOrders(trx, [orderId], actor.warehouseId)
        await lockRunOf(trx, orderId, short.allocationId)
      }
      const before = await trx("pick_short").where({ scan_id: short.scanId }).first("order_id", "quantity", "at")
      if (before) return accepted(await toldBefore(trx, before))
      if (orderId === null) return refused(reason("pick.no-such-stop"))
      const facts = await shortFacts(trx, context, orderId, short.allocationId)
      if (!facts) return refused(reason("short.nothing-missing"))
      const { stop, missing, line, order, routing } = facts
      if (await trx("order_stop").where({ order_id: orderId }).first("id")) return refused(reason("pick.order-stopped"))
      if (!allowedWhenShort(routing, short.way) && !may(actor, "orders.override"))
        return refused(reason("short.needs-lead", { way: short.way, wants: routing.whenShort }))
      const impossible = facts.impossible(short.way)
      if (impossible) return refused(impossible)
      await trx("stock").where({ id: stop.stockId }).decrement("allocated", missing)
      if (stop.picked === 0) await trx("allocation").where({ id: stop.allocationId }).delete()
      else await trx("allocation").where({ id: stop.allocationId }).update({ quantity: stop.picked })
      await askForCount(trx, context, stop.stockId, short.why, orderId)
      let part: string | null = null
      if (short.way === "elsewhere") {
        await hold(trx, new Map([[line.id, facts.elsewhere.takes]]))
        if (stop.runId !== null)
          await trx("allocation").where({ order_line_id: line.id }).whereNull("run_id").update({ run_id: stop.runId })
      } else if (short.way === "cancel") await cancelPieces(trx, context, orderId, line.id, missing)
      else if (short.way !== "wait") {
        const to = short.way === "warehouse" ? (facts.warehouse as { id: number }).id : actor.warehouseId
        const made = await splitOff(trx, order, to, [{ lineId: line.id, quantity: missing }])
        part = made.orderNumber
        await trx("sales_order").where({ id: orderId }).increment("version", 1)
        await record(trx, actor, now, {
          action: "order.split-off",
          orderId: made.id,
          detail: { from: order.order_number },
        })
        await recheck(trx, made.id, actor, now)
      }
      await trx("pick_short").insert({
        scan_id: short.scanId,
        order_id: orderId,
        order_line_id: line.id,
        stock_id: stop.stockId,
        quantity: missing,
        why: short.why,
        way: short.way,
        at: now,
        user_id: actor.userId,
        actor: actor.name,
      })
      const bins = short.way === "elsewhere" ? facts.elsewhere.bins : []
      const detail = {
        sku: stop.sku,
        bin: stop.bin,
        missing,
        why: short.why,
        way: short.way,
        part: part ?? "",
        bins: bins.join(", "),
      }
      await record(trx, actor, now, { action: "pick.short", orderId, detail })
      const cancelled = await trx("sales_order").where({ id: orderId }).whereNotNull("cancelled_at").first("id")
      if (short.way !== "elsewhere" && !cancelled) await recheck(trx, orderId, actor, now)
      await leaveRuns(trx, orderId)
      if (stop.runId !== null) await settleRun(trx, context, stop.runId)
      return accepted({ missing, part, bins })
    },
  )
}

/** What was answered to a short that is sent again, from the order's story. */
async function toldBefore(
  trx: Knex,
  before: { readonly order_id: number; readonly quantity: number; readonly at: Date },
): Promise<{ missing: number; part: string | null; bins: readonly string[] }> {
  const row = await trx("audit")
    .where({ order_id: before.order_id, action: "pick.short", at: before.at })
    .first("detail")
  const { part = "", bins = "" } = row ? parsed<{ part?: string; bins?: string }>(row.detail) : {}
  return { missing: before.quantity, part: part || null, bins: bins ? bins.split(", ") : [] }
}

/** Takes pieces off a line for good; an order of which nothing is left is canceled. */
async function cancelPieces(
  trx: Knex,
  { actor, now }: Context,
  orderId: OrderId,
  lineId: LineId,
  quantity: number,
): Promise<void> {
  await trx("order_line")
    .where({ id: lineId })
    .update({ ordered: trx.raw("ordered - ?", [quantity]), cancelled: trx.raw("cancelled + ?", [quantity]) })
  const left = await trx("order_line").where({ order_id: orderId }).where("ordered", ">", 0).first("id")
  if (!left) await cancelOrder(trx, orderId, actor, now, { cameWith: "", short: true })
}
