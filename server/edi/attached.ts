import type { OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { desadv } from "../formats/desadv.ts"
import { noticeOf } from "./facts.ts"
import { bytesOf, nameOf } from "./send.ts"

/**
 * The ship notice (UN/EDIFACT DESADV) of what left last of a shipment, to go along with a message: the same that the
 * customer's system was told, where it was; null where nothing left with a truck.
 *
 * @param reference the number of the interchange, where it is made for this; at most 14 signs
 */
export async function shipNoticeFor(
  db: Knex,
  lead: OrderId,
  { reference, at }: { readonly reference: string; readonly at: Date },
): Promise<{ readonly name: string; readonly bytes: Buffer } | null> {
  const told = await db("edi_message")
    .where({ order_id: lead, kind: "desadv" })
    .where({ cancels: false })
    .orderBy("id", "desc")
    .first()
  if (told) return { name: nameOf(told), bytes: await bytesOf(db, told) }
  const gone = await db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where({ "h.order_id": lead, "p.state": "gone" })
    .whereNotNull("p.collection_id")
    .whereNull("p.parent_id")
    .orderBy("p.collection_id", "desc")
    .orderBy("p.id")
    .select("p.id", "p.collection_id")
  const collectionId = gone[0]?.collection_id
  if (!collectionId) return null
  const customer = await db("sales_order as o")
    .join("customer as c", "c.id", "o.customer_id")
    .where("o.id", lead)
    .first("c.code")
  const ids = gone.filter((one) => one.collection_id === collectionId).map((one) => one.id)
  const notice = await noticeOf(db, { orderId: lead, collectionId, ids, number: reference })
  const text = desadv(notice, { at, reference, receiver: customer?.code ?? "CUSTOMER" })
  return { name: `DESADV-${reference}.edi`, bytes: Buffer.from(text, "latin1") }
}
