import type { CollectionId, OrderId, WarehouseId } from "core/ids/index.ts"
import type { MoneyText } from "core/money/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { FiguresOf, MessageKey } from "words/catalogue.ts"
import type { Actor } from "../actors/index.ts"

/** Everything that can be recorded: each has words of its own (`story.` in `words`), which name what its detail must have. */
export type AuditAction = MessageKey extends infer Key ? (Key extends `story.${infer Action}` ? Action : never) : never

/** What the words of an action need, from the detail that is kept: lists are put into words where they are read. */
export type Detail<Action extends AuditAction> = {
  readonly [Name in keyof FiguresOf<`story.${Action}`>]: Name extends "reasons"
    ? readonly Reason[]
    : Name extends "changes"
      ? readonly FieldChange[]
      : Name extends "amount"
        ? MoneyText | string | null
        : FiguresOf<`story.${Action}`>[Name] | null
}

/** A field that was changed; `of` names what it is a field of, where it is not the order itself. */
export interface FieldChange {
  readonly field: string
  readonly of?: string
  readonly from: string | number | boolean | null
  readonly to: string | number | boolean | null
}

/** What was done, with what its words need. */
export type Deed<Action extends AuditAction> = { readonly action: Action } & (keyof Detail<Action> extends never
  ? { readonly detail?: Readonly<Record<string, unknown>> }
  : { readonly detail: Detail<Action> & Readonly<Record<string, unknown>> })

/** A deed of any of several actions. */
export type DeedOf<Action extends AuditAction> = Action extends AuditAction ? Deed<Action> : never

export type Change<Action extends AuditAction = AuditAction> = Deed<Action> & {
  readonly orderId?: OrderId | null
  readonly collectionId?: CollectionId | null
  /** Of a change of the warehouse itself. */
  readonly warehouseId?: WarehouseId
}

/** Writes who did what and when, in the transaction of the change itself. The table is only ever added to. */
export async function record<Action extends AuditAction>(
  trx: Knex,
  actor: Pick<Actor, "userId" | "name">,
  at: Date,
  change: Change<Action>,
): Promise<void> {
  await trx("audit").insert({
    at,
    user_id: actor.userId,
    actor: actor.name,
    order_id: change.orderId ?? null,
    collection_id: change.collectionId ?? null,
    action: change.action,
    detail: JSON.stringify(change.detail ?? {}),
  })
  await announce(trx, change)
}

/**
 * Tells everybody who is looking that something changed, when the transaction commits: browsers are told by
 * server-sent events (`server/live`) and read again what they show.
 */
export async function announce(
  trx: Knex,
  change: {
    readonly orderId?: OrderId | null
    readonly collectionId?: CollectionId | null
    readonly warehouseId?: WarehouseId
  },
): Promise<void> {
  const from = (table: "sales_order" | "collection", id: number) => trx(table).where({ id }).pluck("warehouse_id")
  // what is set up for all warehouses changes what each of them shows
  const at = change.warehouseId
    ? [change.warehouseId]
    : change.orderId
      ? await from("sales_order", change.orderId)
      : change.collectionId
        ? await from("collection", change.collectionId)
        : await trx("warehouse").pluck("id")
  if (at.length === 0) return
  await trx("change_notice").insert(
    at.map((warehouse_id) => ({ at: new Date(), warehouse_id, order_id: change.orderId ?? null })),
  )
}

export interface TimelineEntry {
  readonly id: number
  readonly at: Date
  readonly actor: string
  readonly action: string
  readonly detail: Record<string, unknown>
}

/** The story of an order, oldest first. */
export async function timeline(db: Knex, orderId: OrderId): Promise<TimelineEntry[]> {
  const rows = await db("audit")
    .where({ order_id: orderId })
    .orderBy("id")
    .select("id", "at", "actor", "action", "detail")
  return rows.map((row) => ({ ...row, detail: parsed(row.detail) }))
}

export interface AuditPage {
  readonly entries: readonly (TimelineEntry & { readonly orderNumber: string | null })[]
  /** Give this as `before` for older ones; null at the end. */
  readonly next: number | null
}

const auditPage = 100

/** Every change, newest first, of a person or of an action where one is given. */
export async function changes(
  db: Knex,
  find: { readonly actor?: string; readonly action?: string; readonly before?: number | null },
): Promise<AuditPage> {
  const query = db("audit as a").leftJoin("sales_order as o", "o.id", "a.order_id")
  if (find.actor) query.where("a.actor", find.actor)
  if (find.action) query.where("a.action", "like", `${find.action.replace(/[\\%_]/g, "\\$&")}%`)
  if (find.before) query.where("a.id", "<", find.before)
  const rows = await query
    .orderBy("a.id", "desc")
    .limit(auditPage + 1)
    .select("a.id", "a.at", "a.actor", "a.action", "a.detail", "o.order_number as orderNumber")
  const entries = rows.slice(0, auditPage).map((row) => ({ ...row, detail: parsed(row.detail) }))
  return { entries, next: rows.length > auditPage ? (entries.at(-1)?.id ?? null) : null }
}

/** A JSON column, which the driver gives parsed or as text. */
export const parsed = <T = Record<string, unknown>>(value: unknown): T =>
  (typeof value === "string" ? JSON.parse(value) : value) as T
