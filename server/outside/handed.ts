import { randomUUID } from "node:crypto"
import { addressLines } from "core/address/index.ts"
import { localDate, localTime } from "core/calendar/index.ts"
import { poundsColumn } from "core/documents/index.ts"
import type { DocumentId, OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { isSigned, type Strokes, strokesFrom, strokesSchema } from "core/signature/index.ts"
import type { Knex } from "knex"
import { onPaper } from "words/papers.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { keepDocument, printDocument, whose } from "../documents/index.ts"
import { leadOf, lockShipmentOf } from "../orders/joined.ts"
import { handled, type Shipment, shipmentOf } from "../packages/shipment.ts"
import { pickupReceiptPdf } from "../pdf/pickupReceipt.ts"
import { reportOutside } from "../reports/index.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import { offTheLine } from "./index.ts"

export const handedWays = ["counter", "in-person"] as const
export const identities = ["seen", "known", "none"] as const

/** Who was given goods, as it is typed and signed at the counter. */
export const handedForm = z.object({
  way: z.enum(handedWays),
  name: z.string().trim().min(2, "handed.name").max(60),
  identity: z.enum(identities),
  note: z.string().trim().max(120).default(""),
  onPaper: z.boolean().default(false),
  signature: z.string().max(120_000, "signature.too-long").default(""),
})
export type HandedForm = z.infer<typeof handedForm>

/**
 * Hands a packed order over to whoever fetches it, or in person: it is gone without a carrier, a receipt with the
 * signature is kept and printed, and its source is told. What was combined with it goes as well. Refused where it is not
 * packed, its labels are bought, or nobody signed. Safe to repeat.
 */
export async function handOver(
  context: Context,
  ofOrder: OrderId,
  said: HandedForm,
): Promise<Outcome<{ readonly packages: number }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  const strokes = strokesFrom(said.signature)
  if (strokes === null) return refused(reason("driver.bad-signature", { field: "signature" }))
  if (!said.onPaper && !isSigned(strokes)) return refused(reason("handed.sign", { field: "signature" }))
  const warehouse = await warehouseById(db, actor.warehouseId)
  const lead = await leadOf(db, ofOrder)
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly packages: number }>> => {
    await lockShipmentOf(trx, lead, actor.warehouseId)
    const shipment = await shipmentOf(trx, lead)
    if (!shipment || shipment.warehouseId !== actor.warehouseId) return refused(reason("handed.not-packed"))
    const units = handled(shipment.packages)
    if (await trx("handed_over").where({ order_id: lead }).first("order_id"))
      return accepted({ packages: units.length })
    const members = shipment.members.map((one) => one.id)
    if (await trx("outside_order").whereIn("order_id", members).whereNot({ state: "refused" }).first("order_id"))
      return refused(reason("elsewhere.with-others"))
    if (shipment.state !== "open") return refused(reason("order.void-first"))
    const whole = units.length > 0 && shipment.packages.every((one) => one.state === "closed")
    if (!whole) return refused(reason("handed.not-packed"))
    if (await trx("order_stop").whereIn("order_id", members).first("id")) return refused(reason("pick.order-stopped"))
    const document = await receipt(trx, context, warehouse, shipment, said, said.onPaper ? [] : strokes)
    await trx("handed_over").insert({
      order_id: lead,
      warehouse_id: warehouse.id,
      way: said.way,
      name: said.name,
      identity: said.identity,
      on_paper: said.onPaper,
      strokes: JSON.stringify(said.onPaper ? [] : strokes),
      note: said.note,
      document_id: document,
      handed_at: now,
      handed_by: actor.name,
    })
    await trx("package")
      .where({ shipment_id: shipment.id, state: "closed" })
      .update({ state: "gone", delivered_at: now, seen_at: now, seen_where: "bench" })
    const carrier = onPaper(`handed.carrier.${said.way}`)
    for (const orderId of members) {
      await trx("outside_order").where({ order_id: orderId }).delete()
      await trx("outside_order").insert({
        order_id: orderId,
        outside_id: null,
        idempotency_key: randomUUID(),
        asked_at: now,
        state: "shipped",
        carrier,
        service: "",
        tracking: JSON.stringify([]),
        shipped_at: now,
        shipped_on: localDate(now, warehouse.zone),
        // who was handed it has it
        delivered_at: now,
        recorded_by: actor.name,
      })
      await offTheLine(trx, orderId, now)
      await record(trx, actor, now, {
        action: "order.handed-over",
        orderId,
        detail: { name: said.name, packages: units.length, way: said.way },
      })
      await reportOutside(trx, orderId, now, {
        carrier,
        service: "",
        packages: units.map((one) => ({
          sscc: one.sscc ?? "",
          trackingNumber: "",
          weightLb: poundsColumn(one.actual),
        })),
      })
    }
    return accepted({ packages: units.length })
  })
}

async function receipt(
  trx: Knex,
  context: Context,
  warehouse: Warehouse,
  shipment: Shipment,
  said: HandedForm,
  strokes: Strokes,
): Promise<DocumentId> {
  const { actor, now } = context
  const number = `PR-${shipment.orderNumber}`
  const bytes = await pickupReceiptPdf(
    {
      number,
      shipper: warehouse.sender,
      receiver: addressLines(shipment.shipTo),
      orders: shipment.members.map((one) => one.orderNumber),
      at: `${localDate(now, warehouse.zone)} ${localTime(now, warehouse.zone)}`,
      by: actor.name,
      name: said.name,
      identity: onPaper(`handed.identity.${said.identity}`),
      note: said.note,
      strokes,
      packages: handled(shipment.packages).map((one) => ({
        name: `${shipment.orderNumber}-${one.number}`,
        sscc: one.sscc ?? "",
        lb: poundsColumn(one.actual),
        contents: one.contents
          .map((content, at) => {
            const line = shipment.lines.find((candidate) => candidate.id === one.lineIds[at])
            return `${content.quantity} × ${line?.description ?? content.line}`
          })
          .join(", "),
      })),
    },
    now,
  )
  const id = await keepDocument(trx, {
    warehouseId: warehouse.id,
    kind: "pickup-receipt",
    name: number,
    bytes,
    madeAt: now,
    orderId: shipment.orderId,
  })
  await printDocument(trx, warehouse.id, id, "pickup-receipt", 1, whose(context))
  return id
}

/** To whom an order was handed; null where it was not. */
export async function handedTo(db: Knex, orderId: OrderId) {
  const row = await db("handed_over")
    .where({ order_id: await leadOf(db, orderId) })
    .first()
  return row
    ? {
        way: row.way,
        name: row.name,
        identity: row.identity,
        note: row.note,
        onPaper: !!row.on_paper,
        strokes: strokesSchema.parse(parsed(row.strokes)),
        at: row.handed_at,
        by: row.handed_by,
        document: row.document_id,
      }
    : null
}
