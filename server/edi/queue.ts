import { randomUUID } from "node:crypto"
import type { CollectionId, CustomerId, DocumentId, IntentId, OrderId, WarehouseId } from "core/ids/index.ts"
import { type Routing, routingSchema } from "core/rules/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import { newId } from "../db/there.ts"
import { sendingEdi } from "./jobs.ts"

type Routed = Routing["messages"][number]

interface NewMessage {
  readonly warehouseId: WarehouseId
  readonly orderId: OrderId
  readonly customerId: CustomerId
  readonly collectionId?: CollectionId
  readonly documentId?: DocumentId
  readonly cancels?: boolean
  readonly packages?: readonly number[]
  /** By what it is one: the same is never written twice. */
  readonly of: string
  /** It is sent once another one is: no job is made for it yet. */
  readonly waits?: boolean
}

/** Writes a message down, once by what it is of, in the caller's transaction, and leaves making and sending it to a job. */
async function write(trx: Knex, route: Routed, message: NewMessage, now: Date): Promise<void> {
  const id = newId(
    await trx("edi_message")
      .insert({
        warehouse_id: message.warehouseId,
        order_id: message.orderId,
        customer_id: message.customerId,
        collection_id: message.collectionId ?? null,
        document_id: message.documentId ?? null,
        kind: route.kind,
        cancels: message.cancels ?? false,
        way: route.way,
        send_to: route.to,
        receiver: route.receiver,
        once_key: message.of,
        message_key: randomUUID(),
        packages: JSON.stringify(message.packages ?? []),
        made_at: now,
      })
      .onConflict("once_key")
      .ignore(),
  )
  if (id && !message.waits) await sendingEdi.queue(trx, `edi:${id}:0`, { messageId: id })
}

/** The customer of an order with where his system wants which messages; null where there is none. */
async function routedTo(trx: Knex, orderId: OrderId): Promise<{ customerId: CustomerId; routes: Routed[] } | null> {
  const row = await trx("sales_order as o")
    .join("customer as c", "c.id", "o.customer_id")
    .where("o.id", orderId)
    .first("c.id", "c.routing")
  return row ? { customerId: row.id, routes: routingSchema.parse(parsed(row.routing)).messages } : null
}

/**
 * Tells a customer's system of packages that have left with a truck for good, in the transaction in which they did. Each
 * package is told of once; what leaves with another truck makes messages of its own.
 *
 * @param orderId the order that leads the shipment
 */
export async function tellShipped(
  trx: Knex,
  at: { readonly warehouseId: WarehouseId; readonly collectionId: CollectionId; readonly closing: number },
  orderId: OrderId,
  now: Date,
): Promise<void> {
  const gone = trx("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where({ "h.order_id": orderId, "p.collection_id": at.collectionId, "p.state": "gone" })
    .whereNull("p.noticed_at")
    .whereNull("p.parent_id")
  const packages: number[] = await gone.orderBy("p.id").pluck("p.id")
  if (packages.length === 0) return
  await trx("package").whereIn("id", packages).update({ noticed_at: now })
  const customer = await routedTo(trx, orderId)
  for (const [index, route] of customer?.routes.entries() ?? [])
    if (customer && route.kind !== "iftmin")
      await write(
        trx,
        route,
        {
          ...at,
          orderId,
          customerId: customer.customerId,
          packages,
          of: `${route.kind}:${orderId}:${at.collectionId}:${at.closing}:${index}`,
        },
        now,
      )
}

/** Tells a customer's system of the instruction to a freight carrier, in the transaction in which it was booked. */
export async function tellInstructed(
  trx: Knex,
  at: {
    readonly warehouseId: WarehouseId
    readonly orderId: OrderId
    readonly intentId: IntentId
    readonly documentId: DocumentId
  },
  now: Date,
): Promise<void> {
  const customer = await routedTo(trx, at.orderId)
  for (const [index, route] of customer?.routes.entries() ?? [])
    if (customer && route.kind === "iftmin")
      await write(trx, route, { ...at, customerId: customer.customerId, of: `iftmin:${at.intentId}:${index}` }, now)
}

/** By what the cancellation of a message is one. */
export const voidOf = (onceKey: string): string => `${onceKey}:void`

/**
 * Takes instructions back whose booking is void: each by a message of its own, which never overtakes the one that it
 * cancels. What the other side refused needs none.
 */
export async function tellVoided(trx: Knex, intentId: IntentId, now: Date): Promise<void> {
  const told = await trx("edi_message")
    .where("once_key", "like", `iftmin:${Number(intentId)}:%`)
    .where({ cancels: false })
    .whereNot({ state: "refused" })
    .orderBy("id")
    .forUpdate()
  for (const one of told)
    await write(
      trx,
      { kind: "iftmin", way: one.way, to: one.send_to, receiver: one.receiver },
      {
        warehouseId: one.warehouse_id,
        orderId: one.order_id,
        customerId: one.customer_id,
        documentId: one.document_id as DocumentId,
        cancels: true,
        of: voidOf(one.once_key),
        waits: one.state === "waiting",
      },
      now,
    )
}
