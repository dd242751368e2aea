import { placeOf } from "core/address/index.ts"
import { localDate } from "core/calendar/index.ts"
import type { OrderId, ReturnId } from "core/ids/index.ts"
import { type MessageFacts, simpleState } from "core/telling/index.ts"
import type { Knex } from "knex"
import { sayIn } from "words/index.ts"
import { localeOf } from "words/language.ts"
import { type PaperLanguage, paperLanguages } from "words/papers.ts"
import { there } from "../db/there.ts"
import { leadOf } from "../orders/joined.ts"
import { partiesOf } from "../orders/parties.ts"

/** What a message says that only whoever asked for it knows. */
export type ToldFacts = Partial<
  Pick<MessageFacts, "expected_on" | "counter" | "quote" | "valid_until" | "service" | "return_name" | "returned">
> & {
  /** The label for the way back that goes along. */
  readonly return_id?: ReturnId
}

export const languageOf = (code: string): PaperLanguage => paperLanguages.find((one) => one === code) ?? "en"

/** A day as a language writes it, `Wednesday, November 25`; empty for none. */
export function dayIn(language: PaperLanguage, day: string | null): string {
  if (!day) return ""
  return new Intl.DateTimeFormat(localeOf[language], {
    weekday: "long",
    month: "long",
    day: "numeric",
    timeZone: "UTC",
  }).format(new Date(`${day}T00:00:00Z`))
}

/** Who is shown as sender of an order, with the lines under a letter: the house, or the customer for whom it ships blind. */
export async function senderOf(
  db: Knex,
  orderId: OrderId,
): Promise<{ readonly name: string; readonly address: readonly string[]; readonly blind: boolean }> {
  const order = there(await db("sales_order").where({ id: orderId }).first("id", "customer_id", "warehouse_id"))
  const shown = (await partiesOf(db, order)).find((one) => one.role === "sender")
  if (shown)
    return {
      name: shown.company,
      address: [shown.street, `${shown.city}, ${shown.state} ${shown.postalCode}`.trim()],
      blind: true,
    }
  const own = there(
    await db("warehouse")
      .where({ id: order.warehouse_id })
      .first("company", "street", "city", "state", "postal_code", "phone"),
  )
  return {
    name: own.company,
    address: [own.street, `${own.city}, ${own.state} ${own.postal_code}`.trim(), own.phone].filter(Boolean),
    blind: false,
  }
}

/** All that a message about an order may say, in a language. */
export async function messageFacts(
  db: Knex,
  orderId: OrderId,
  said: { readonly language: PaperLanguage; readonly name: string; readonly link: string; readonly told: ToldFacts },
): Promise<MessageFacts> {
  const { language, told } = said
  const order = there(await db("sales_order").where({ id: orderId }).first())
  const lead = await leadOf(db, orderId)
  const shipment = await db("shipment as h")
    .leftJoin("service as s", "s.id", "h.service_id")
    .leftJoin("carrier as k", "k.id", "s.carrier_id")
    .where("h.order_id", lead)
    .whereNot("h.state", "void")
    .first("h.ship_date", "h.arrives_on", "s.name as service", "k.name as carrier")
  const outside = await db("outside_order").where({ order_id: orderId }).first("carrier", "service", "shipped_on")
  const units = await db("tracked_unit")
    .whereIn("order_id", [orderId, lead])
    .whereNull("void_at")
    .whereNot({ kind: "return" })
    .orderBy("piece")
    .limit(60)
  const lines = await db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where("l.order_id", orderId)
    .orderBy("l.line_number")
    .limit(300)
    .select("l.ordered", "i.description")
  const telling = await db("order_telling").where({ order_id: lead }).first("note", "thanks")
  const delivered = units.flatMap((one) => (one.delivered_at ? [one] : [])).at(-1)
  const expected =
    units
      .flatMap((one) => one.estimated_on ?? [])
      .toSorted()
      .at(-1) ?? null
  const say = sayIn(language)
  const day = (value: string | null) => dayIn(language, value)
  return {
    sender: (await senderOf(db, orderId)).name,
    name: said.name,
    order: order.source_number,
    purchase_order: order.po_number,
    customer: order.customer_name,
    receiver: order.company,
    place: placeOf(order),
    carrier: outside?.carrier ?? shipment?.carrier ?? "",
    service: told.service ?? outside?.service ?? shipment?.service ?? "",
    shipped_on: day(outside?.shipped_on ?? shipment?.ship_date ?? null),
    arrives_on: day(shipment?.arrives_on ?? null),
    promised_on: day(order.promised_on),
    expected_on: told.expected_on ? day(told.expected_on) : day(expected),
    delivered_on: delivered?.delivered_at ? day(localDate(delivered.delivered_at, delivered.zone)) : "",
    received_by: delivered?.delivered_to ?? "",
    counter: told.counter ?? "",
    packages: units.map((one) => ({
      name: one.name,
      tracking: one.tracking,
      state: say(`follow.state.${simpleState(one.state, one.left_at !== null)}`),
    })),
    lines: lines.map((line) => ({ quantity: line.ordered, description: line.description })),
    link: said.link,
    note: telling?.note ?? "",
    thanks: !!telling?.thanks,
    quote: told.quote ?? "",
    valid_until: told.valid_until ? day(told.valid_until) : "",
    return_name: told.return_name ?? "",
    returned: told.returned ?? [],
  }
}
