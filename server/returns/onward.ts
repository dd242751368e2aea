import type { FindingId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { movedOn, onwards } from "core/returns/index.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { binOf, moveStock, stockRow } from "../stock/move.ts"
import { askForDeal } from "../stock/waiting.ts"
import { binFor, findingsOf, orderOfReturn, stillHere } from "./inspect.ts"

export const onwardForm = z.object({
  from: z.enum(["inspection", "repair"]).default("inspection"),
  to: z.enum(onwards),
  quantity: z.coerce.number().int().min(1, { error: "stock.quantity" }).max(1_000_000, { error: "stock.quantity" }),
  bin: z.string().trim().max(16).default(""),
  note: z.string().trim().max(80).default(""),
})

/**
 * Moves pieces that came back on: into a bin, from where they can be sold again; to repair; or away, which a lead says.
 * Safe to repeat with the same key.
 */
export async function moveOn(
  context: Context,
  name: string,
  findingId: FindingId,
  said: z.infer<typeof onwardForm>,
  key: string,
): Promise<Outcome<{ readonly bin: string }>> {
  const { db, actor, now } = context
  authorise(actor, said.to === "away" ? "stock.adjust" : "stock.move")
  const orderId = await orderOfReturn(context, name)
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly bin: string }>> => {
    if (orderId) await trx("sales_order").where({ id: orderId }).forUpdate().first("id")
    const came = await trx("goods_return").where({ warehouse_id: actor.warehouseId, name }).forUpdate().first()
    const own = came
      ? await trx("goods_return_finding").where({ id: findingId, goods_return_id: came.id }).forUpdate().first()
      : undefined
    if (!came || !own || own.undone_at || own.item_id === null || own.inspection_stock_id === null)
      return refused(reason("goods-back.gone", { name }))
    const fromStock = said.from === "inspection" ? own.inspection_stock_id : own.repair_stock_id
    if (fromStock === null) return refused(reason("goods-back.not-there"))
    if (await trx("stock_movement").where({ stock_id: fromStock, move_key: key }).first("id"))
      return accepted({ bin: said.bin })
    const then = movedOn(
      {
        inInspection: own.in_inspection,
        inRepair: own.in_repair,
        putBack: own.put_back,
        thrownAway: own.thrown_away,
      },
      said.from,
      said.to,
      said.quantity,
    )
    if (!then) return refused(reason("goods-back.not-there", { field: "quantity" }))
    const bin =
      said.to === "repair"
        ? await binFor(trx, actor.warehouseId, "repair")
        : said.to === "back"
          ? await binOf(trx, actor.warehouseId, said.bin)
          : null
    if (said.to === "repair" && !bin) return refused(reason("goods-back.no-repair-bin"))
    if (said.to === "back" && !bin) return refused(reason("stock.no-bin", { bin: said.bin, field: "bin" }))
    if (said.to === "back" && bin && "purpose" in bin && bin.purpose)
      return refused(reason("goods-back.back-to-shelf", { bin: bin.code, field: "bin" }))
    if (said.to === "away" && said.note === "") return refused(reason("goods-back.why-away", { field: "note" }))
    const to = bin
      ? await stockRow(trx, {
          warehouseId: actor.warehouseId,
          binId: bin.id,
          itemId: own.item_id,
          lotId: own.lot_id,
        })
      : null
    const note = [came.name, said.note].filter(Boolean).join(": ")
    const move = { cause: to ? ("transfer" as const) : ("scrap" as const), orderId: came.order_id, note, key: key }
    const moved = await moveStock(trx, context, { ...move, stockId: fromStock, quantity: -said.quantity })
    if (moved !== true) return refused(reason("goods-back.not-there", { field: "quantity" }))
    if (to) await moveStock(trx, context, { ...move, stockId: to, quantity: said.quantity })
    await trx("goods_return_finding")
      .where({ id: own.id })
      .update({
        in_inspection: then.inInspection,
        in_repair: then.inRepair,
        put_back: then.putBack,
        thrown_away: then.thrownAway,
        ...(said.to === "repair" ? { repair_stock_id: to } : {}),
      })
    const { sku } = there(await trx("item").where({ id: own.item_id }).first("sku"))
    await record(trx, actor, now, {
      action: `goods-back.went-${said.to}`,
      ...(came.order_id ? { orderId: came.order_id } : { warehouseId: actor.warehouseId }),
      detail: { name, sku, pieces: said.quantity, bin: bin?.code ?? "", why: said.note },
    })
    if (came.state === "inspected" && !(await findingsOf(trx, came.id)).some(stillHere))
      await trx("goods_return").where({ id: came.id }).update({ state: "done" })
    if (said.to === "back") await askForDeal(trx, actor.warehouseId, [own.item_id])
    return accepted({ bin: bin?.code ?? "" })
  })
}

/** Says which bin goods that come back lie in, or go to repair in. Refused for one in which something lies, or is left. */
export async function setReturnBin(
  { db, actor, now }: Context,
  purpose: "inspection" | "repair",
  code: string,
): Promise<Outcome<{ readonly bin: string }>> {
  authorise(actor, "stock.adjust")
  const bin = await binOf(db, actor.warehouseId, code)
  if (!bin) return refused(reason("stock.no-bin", { bin: code, field: "bin" }))
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly bin: string }>> => {
    const bins = await trx("bin")
      .where({ warehouse_id: actor.warehouseId })
      .where((either) => either.where({ id: bin.id }).orWhere({ purpose }))
      .orderBy("id")
      .forUpdate()
      .select("id", "code", "purpose")
    const own = there(bins.find((one) => one.id === bin.id))
    if (own.purpose === purpose) return accepted({ bin: bin.code })
    for (const one of bins) {
      const lies = await trx("stock").where({ bin_id: one.id }).where("on_hand", ">", 0).first("id")
      if (lies) return refused(reason("goods-back.bin-not-empty", { bin: one.code, field: "bin" }))
    }
    await trx("bin")
      .whereIn(
        "id",
        bins.filter((one) => one.purpose === purpose).map((one) => one.id),
      )
      .update({ purpose: null, blocked_why: null })
    await trx("bin").where({ id: bin.id }).update({ purpose, blocked_why: purpose })
    await record(trx, actor, now, {
      action: "goods-back.bin-set",
      warehouseId: actor.warehouseId,
      detail: { bin: bin.code, purpose },
    })
    return accepted({ bin: bin.code })
  })
}
