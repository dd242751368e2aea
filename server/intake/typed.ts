import { identifier } from "core/identifier/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed } from "../audit/index.ts"
import { there } from "../db/there.ts"
import { readRow } from "../formats/orderRow.ts"
import { takeDocument } from "./take.ts"

const text = (max: number) => z.string().max(max).default("")

/** An order as far as it is typed. Nothing of it need be right before it is imported. */
export const draftContent = z.object({
  order_number: text(40),
  po_number: text(40),
  ordered_on: text(20),
  promised_on: text(20),
  ship_on: text(20),
  customer: text(80),
  company: text(80),
  attention: text(80),
  street: text(80),
  street2: text(80),
  city: text(60),
  state: text(10),
  postal_code: text(20),
  country: text(4),
  phone: text(40),
  address_kind: text(20),
  incoterm: text(6),
  incoterm_place: text(80),
  currency: text(6),
  service_asked: text(40),
  freight_paid: text(20),
  /** Number of the quote that it was begun from. */
  quote: text(16),
  reference: text(80),
  cost_centre: text(80),
  notes: text(600),
  lines: z
    .array(z.object({ sku: text(40), quantity: text(12), unit: text(20), unit_price: text(20) }))
    .max(200)
    .default([]),
})
export type DraftContent = z.infer<typeof draftContent>

export interface OrderDraft {
  readonly id: string
  readonly content: DraftContent
  readonly updatedAt: Date
  readonly by: string
  readonly version: number
  /** The order that it has become, if it has. */
  readonly takenAs: string | null
}

const uuid = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/
export const isDraftId = (id: string): boolean => uuid.test(id)

/** Drafts of a warehouse that are no orders yet, the one that was typed at last first. */
export async function drafts({
  db,
  actor,
}: Context): Promise<{ id: string; title: string; updatedAt: Date; by: string }[]> {
  authorise(actor, "orders.work")
  const rows = await db("order_draft as d")
    .join("user as u", "u.id", "d.user_id")
    .where("d.warehouse_id", actor.warehouseId)
    .whereNull("d.taken_as")
    .orderBy("d.updated_at", "desc")
    .limit(50)
    .select("d.id", "d.title", "d.updated_at", "u.name")
  return rows.map((row) => ({ id: row.id, title: row.title, updatedAt: row.updated_at, by: row.name }))
}

export async function draft({ db, actor }: Context, id: string): Promise<OrderDraft | null> {
  authorise(actor, "orders.work")
  const row = await db("order_draft as d")
    .join("user as u", "u.id", "d.user_id")
    .where({ "d.id": id, "d.warehouse_id": actor.warehouseId })
    .first("d.*", "u.name")
  if (!row) return null
  return {
    id: row.id,
    content: draftContent.parse(parsed(row.content)),
    updatedAt: row.updated_at,
    by: row.name,
    version: row.version,
    takenAs: row.taken_as,
  }
}

/**
 * Keeps what is typed so far, under an id that the browser made; called at every pause of typing and safe to repeat.
 * Refused when somebody else typed at it meanwhile, or when it is an order already. Answers the new version.
 */
export async function saveDraft(
  { db, actor, now }: Context,
  id: string,
  version: number,
  content: DraftContent,
): Promise<Outcome<{ version: number }>> {
  authorise(actor, "orders.work")
  if (!isDraftId(id)) return refused(reason("draft.unknown"))
  const json = JSON.stringify(content)
  const title = [content.customer || content.company, content.po_number].filter(Boolean).join(", ").slice(0, 80)
  await db("order_draft")
    .insert({
      id,
      warehouse_id: actor.warehouseId,
      user_id: there(actor.userId),
      title,
      content: json,
      updated_at: now,
      version: 0,
    })
    .onConflict("id")
    .ignore()
  const changed = await db("order_draft")
    .where({ id, warehouse_id: actor.warehouseId, version })
    .whereNull("taken_as")
    .update({ title, content: json, updated_at: now, user_id: there(actor.userId), version: version + 1 })
  if (changed > 0) return accepted({ version: version + 1 })
  const row = await db("order_draft").where({ id, warehouse_id: actor.warehouseId }).first()
  if (!row) return refused(reason("draft.unknown"))
  if (row.taken_as) return refused(reason("draft.taken", { orderNumber: row.taken_as }))
  // the same content again, such as after a lost answer, is no other person's typing
  if (JSON.stringify(draftContent.parse(parsed(row.content))) === json) return accepted({ version: row.version })
  return refused(reason("draft.changed-meanwhile"))
}

/** Throws a draft away. Safe to repeat. */
export async function dropDraft({ db, actor }: Context, id: string): Promise<void> {
  authorise(actor, "orders.work")
  await db("order_draft").where({ id, warehouse_id: actor.warehouseId }).whereNull("taken_as").delete()
}

/**
 * Makes an order of a draft. Refused with every reason, by line and field, when it is not good; the draft stays. Safe to
 * repeat: a draft becomes one order.
 */
export async function takeDraft(
  context: Context,
  id: string,
): Promise<Outcome<{ readonly orderNumber: string; readonly quote: string }>> {
  const { db, actor } = context
  const found = await draft(context, id)
  if (!found) return refused(reason("draft.unknown"))
  const { lines, quote, ...head } = found.content
  if (found.takenAs) return accepted({ orderNumber: found.takenAs, quote })
  if (lines.length === 0) return refused(reason("draft.no-lines"))
  const typed = identifier(head.order_number)
  const number = typed || `T-${id.slice(0, 8).toUpperCase()}`
  const source = there(await db("order_source").where({ code: "typed" }).first("id", "name"))
  if (typed) {
    const twin = await db("sales_order")
      .where({ source_id: source.id, source_number: number })
      .first("order_number", "warehouse_id", "came_to_id")
    // whose order it is at another warehouse is not told here
    if (twin && (twin.came_to_id ?? twin.warehouse_id) !== context.actor.warehouseId)
      return refused(reason("draft.number-elsewhere", { number }))
    if (twin) return refused(reason("draft.number-taken", { number, orderNumber: twin.order_number }))
  }
  const rows = lines.map((line, index) => readRow({ ...head, ...line, order_number: number }, index + 1))
  const taken = await takeDocument(context, source.id, source.name, rows)
  if (!taken.ok) return taken
  await db("order_draft").where({ id, warehouse_id: actor.warehouseId }).update({ taken_as: taken.value.orderNumber })
  return accepted({ orderNumber: taken.value.orderNumber, quote })
}

/** A draft with what an earlier order says, dates and numbers left out. Null when there is no such order here. */
export async function copyOf({ db, actor }: Context, orderNumber: string, today: string): Promise<DraftContent | null> {
  authorise(actor, "orders.work")
  const order = await db("sales_order").where({ order_number: orderNumber, warehouse_id: actor.warehouseId }).first()
  if (!order) return null
  const lines = await db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .join("item_level as v", (on) => void on.on("v.item_id", "l.item_id").andOn("v.name", "l.unit"))
    .where("l.order_id", order.id)
    .orderBy("l.line_number")
    .select("i.sku", "l.ordered", "l.unit", "l.unit_price", "v.quantity")
  const references = await db("order_reference").where({ order_id: order.id }).select("name", "value")
  const reference = (name: string) => references.find((one) => one.name === name)?.value ?? ""
  return draftContent.parse({
    customer: order.customer_name,
    ordered_on: today,
    company: order.company,
    attention: order.attention,
    street: order.street,
    street2: order.street2,
    city: order.city,
    state: order.state,
    postal_code: order.postal_code,
    country: order.country,
    phone: order.phone,
    address_kind: order.address_kind,
    incoterm: order.incoterm,
    incoterm_place: order.incoterm_place,
    currency: order.currency,
    service_asked: order.service_asked,
    reference: reference("Reference"),
    cost_centre: reference("Cost centre"),
    notes: order.notes,
    lines: lines.map((line) => ({
      sku: line.sku,
      quantity: String(line.ordered / line.quantity),
      unit: line.unit,
      unit_price: line.unit_price === null ? "" : String(Number(line.unit_price)),
    })),
  })
}
