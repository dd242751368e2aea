import type { IntakeId, OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { cancelOrder, type PutBack, putBack, putBackText, takeApart } from "../decisions/cancel.ts"
import { recheck } from "../decisions/recheck.ts"
import { lockParts, takeBackParts } from "../decisions/reroute.ts"
import { touchShipment } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { freeUnpicked } from "../stock/allocation.ts"
import { contentOf, type OrderContent, putReferences } from "./content.ts"
import type { Draft } from "./draft.ts"

/** A field that differs between an order and what its source says now. */
export interface Difference {
  readonly field: string
  readonly here: string
  readonly source: string
}

/** A change at the source that came after work had begun, and waits for a decision. */
export interface PendingChange {
  readonly id: number
  readonly kind: "changed" | "cancelled"
  readonly cameWith: string
  readonly cameAt: Date
  readonly fields: readonly Difference[]
  /** Lines of both sides, joined by item; null where a side does not have it. Quantities in base units. */
  readonly lines: readonly {
    readonly sku: string
    readonly description: string
    readonly here: number | null
    readonly picked: number
    readonly source: number | null
  }[]
}

/** Fields of an order's head that are shown side by side, in the order of the page. */
const compared = [
  "customer_name",
  "po_number",
  "promised_on",
  "ship_on",
  "service_asked",
  "freight_paid",
  "company",
  "attention",
  "street",
  "street2",
  "city",
  "state",
  "postal_code",
  "country",
  "phone",
  "address_kind",
  "incoterm",
  "incoterm_place",
  "currency",
  "notes",
] as const

/** Keeps a change or cancellation that came too late to be done unasked, and stops the order for it. */
export async function keepChange(
  trx: Knex,
  { actor, now }: Context,
  orderId: OrderId,
  came: { readonly name: string; readonly intakeId: IntakeId | null },
  draft: Draft,
): Promise<void> {
  const kind = draft.wish === "cancel" ? "cancelled" : "changed"
  const open = await trx("order_change").where({ order_id: orderId, state: "open" }).forUpdate().first()
  if (open && open.kind === kind && open.content_hash === draft.contentHash) return
  // "kept as it is" was said to this very cancellation before
  const kept = await trx("order_change")
    .where({ order_id: orderId, kind, content_hash: draft.contentHash, state: "kept" })
    .first("id")
  if (kept && kind === "cancelled") return
  if (open) await trx("order_change").where({ id: open.id }).update({ state: "overtaken", decided_at: now })
  const content =
    kind === "cancelled" ? { head: {}, lines: [], references: [] } : await contentOf(trx, draft.rows, draft.refusals)
  await trx("order_change").insert({
    order_id: orderId,
    kind,
    content: JSON.stringify(content),
    content_hash: draft.contentHash,
    came_with: came.name.slice(0, 200),
    intake_id: came.intakeId,
    came_at: now,
  })
  await record(trx, actor, now, {
    action: kind === "cancelled" ? "order.cancelled-at-source" : "order.changed-at-source",
    orderId,
    detail: { file: came.name },
  })
  await recheck(trx, orderId, actor, now)
}

/** The source says again what the order says already: an open change is gone, and its stop with it. */
export async function withdrawChange(trx: Knex, { actor, now }: Context, orderId: OrderId): Promise<void> {
  const gone = await trx("order_change")
    .where({ order_id: orderId, state: "open" })
    .update({ state: "overtaken", decided_at: now })
  if (gone > 0) await recheck(trx, orderId, actor, now)
}

/** What waits for a decision on an order, both sides of it; null when nothing does. */
export async function pendingChange(db: Knex, orderId: OrderId): Promise<PendingChange | null> {
  const row = await db("order_change").where({ order_id: orderId, state: "open" }).orderBy("id", "desc").first()
  if (!row) return null
  const order = there(await db("sales_order").where({ id: orderId }).first())
  const content = parsed<OrderContent>(row.content)
  const lines = await db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where("l.order_id", orderId)
    .orderBy("l.line_number")
    .select(
      "l.item_id",
      "i.sku",
      "i.description",
      "l.ordered",
      db.raw("(SELECT COALESCE(SUM(a.picked), 0) FROM allocation a WHERE a.order_line_id = l.id) AS picked"),
    )
  const rest = [...content.lines]
  const joined = lines.map((line) => {
    const at = rest.findIndex((one) => one.itemId === line.item_id)
    const [source] = at >= 0 ? rest.splice(at, 1) : []
    return {
      sku: line.sku as string,
      description: line.description as string,
      here: line.ordered as number,
      picked: Number(line.picked),
      source: source?.ordered ?? null,
    }
  })
  const added = rest.map((line) => ({
    sku: line.sku,
    description: line.description,
    here: null,
    picked: 0,
    source: line.ordered,
  }))
  const text = (value: unknown) => String(value ?? "")
  return {
    id: row.id,
    kind: row.kind,
    cameWith: row.came_with,
    cameAt: row.came_at,
    fields:
      row.kind === "cancelled"
        ? []
        : compared
            .filter((field) => text(order[field]) !== text(content.head[field]))
            .map((field) => ({ field, here: text(order[field]), source: text(content.head[field]) })),
    lines: row.kind === "cancelled" ? joined : [...joined, ...added],
  }
}

/** What was decided of a change: now, or by whom before. */
export interface Decided {
  readonly kind: PendingChange["kind"]
  readonly decision: "take" | "keep"
  readonly by: string
  readonly before: boolean
  readonly back: readonly PutBack[]
}

/**
 * Decides a change: `take` does what the source says, `keep` goes on as it is. The first to decide decides: who comes
 * after him is told what was decided. Taking it takes the packages apart that
 * hold what changes, and says what has to be carried back to its bin. Refused once labels are asked for. Safe to repeat.
 */
export async function decideChange(
  context: Context,
  orderId: OrderId,
  changeId: number,
  decision: "take" | "keep",
): Promise<Outcome<Decided>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<Decided>> => {
    const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!order) return refused(reason("order.unknown"))
    await lockParts(trx, orderId)
    const change = await trx("order_change").where({ id: changeId, order_id: orderId }).forUpdate().first()
    if (!change || change.state === "overtaken") return refused(reason("order.change-overtaken"))
    const what = { kind: change.kind as PendingChange["kind"] }
    if (change.state !== "open")
      return accepted({
        ...what,
        decision: change.state === "taken" ? "take" : "keep",
        by: change.decided_by ?? "",
        before: true,
        back: [],
      })
    if (decision === "take") {
      if (await labelsAskedFor(trx, orderId)) return refused(reason("order.void-first"))
      // what the source says is said of the whole order
      const parts = await takeBackParts(trx, context, orderId)
      if (!parts.ok) return parts
    }
    await trx("order_change")
      .where({ id: changeId })
      .update({ state: decision === "take" ? "taken" : "kept", decided_at: now, decided_by: actor.name })
    let back: PutBack[] = []
    if (decision === "keep") {
      await record(trx, actor, now, { action: "order.change-kept-out", orderId, detail: { file: change.came_with } })
      // the same content again is then no change
      if (change.kind === "changed")
        await trx("sales_order").where({ id: orderId }).update({ content_hash: change.content_hash })
    } else if (change.kind === "cancelled") {
      back = await cancelOrder(trx, orderId, actor, now, { cameWith: change.came_with })
      return accepted({ ...what, decision, by: actor.name, before: false, back })
    } else {
      back = await applyContent(trx, context, orderId, parsed<OrderContent>(change.content))
      await trx("sales_order")
        .where({ id: orderId })
        .update({
          ...parsed<OrderContent>(change.content).head,
          content_hash: change.content_hash,
          intake_id: change.intake_id,
          // what the lead had changed is overruled with it
          lines_changed_at: null,
          version: order.version + 1,
        })
      await record(trx, actor, now, {
        action: "order.change-taken",
        orderId,
        detail: { file: change.came_with, back: putBackText(back) },
      })
    }
    await recheck(trx, orderId, actor, now)
    return accepted({ ...what, decision, by: actor.name, before: false, back })
  })
}

/** Brings lines in work to what the source says: a line of the same item goes on, the others come or go. */
async function applyContent(
  trx: Knex,
  { actor, now }: Context,
  orderId: OrderId,
  content: OrderContent,
): Promise<PutBack[]> {
  const lines = await trx("order_line").where({ order_id: orderId }).orderBy("line_number")
  const old = lines.map((line) => ({ ...line, to: null as OrderContent["lines"][number] | null }))
  const added: OrderContent["lines"][number][] = []
  for (const line of content.lines) {
    const same = old.find((one) => one.to === null && one.item_id === line.itemId)
    if (same) same.to = line
    else added.push(line)
  }
  const packed = await trx("package_content")
    .whereIn(
      "order_line_id",
      lines.map((line) => line.id),
    )
    .groupBy("order_line_id")
    .select("order_line_id")
    .sum({ n: "quantity" })
  const packedOf = new Map(
    packed.map((one: { order_line_id?: number; n?: unknown }) => [one.order_line_id, Number(one.n)]),
  )
  if (old.some((line) => (packedOf.get(line.id) ?? 0) > (line.to?.ordered ?? 0))) await takeApart(trx, orderId)
  const back: PutBack[] = []
  // numbers out of the way first, since a line's number is unique within its order
  await trx("order_line").where({ order_id: orderId }).increment("line_number", 100_000)
  for (const line of old) {
    const wanted = line.to?.ordered ?? 0
    await freeUnpicked(trx, line.id)
    const { picked } =
      (await trx("allocation").where({ order_line_id: line.id }).sum({ picked: "picked" }).first()) ?? {}
    const tooMany = Number(picked ?? 0) - wanted
    if (tooMany > 0) back.push(...(await putBack(trx, orderId, { lineId: line.id, most: tooMany }, actor, now)))
    if (!line.to) await trx("order_line").where({ id: line.id }).delete()
    else
      await trx("order_line")
        .where({ id: line.id })
        .update({
          line_number: content.lines.indexOf(line.to) + 1,
          ordered: line.to.ordered,
          unit: line.to.unit,
          unit_price: line.to.unitPrice,
        })
  }
  for (const line of added)
    await trx("order_line").insert({
      order_id: orderId,
      line_number: content.lines.indexOf(line) + 1,
      item_id: line.itemId,
      ordered: line.ordered,
      unit: line.unit,
      unit_price: line.unitPrice,
    })
  await putReferences(trx, orderId, content.references)
  await touchShipment(trx, orderId)
  return back
}
