import { addDays, localDate } from "core/calendar/index.ts"
import type { CustomerId, OrderId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { contactRoles, phoneNumber, type Topic, topics, usualTopics, type Way, ways } from "core/telling/index.ts"
import type { Knex } from "knex"
import { type PaperLanguage, paperLanguages } from "words/papers.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { postMail } from "../mail/index.ts"
import { leadOf } from "../orders/joined.ts"
import { blockedFor } from "./blocks.ts"
import { defaultTemplate } from "./defaults.ts"
import { messageFacts, senderOf, type ToldFacts } from "./facts.ts"
import { receiverLink } from "./links.ts"
import { moreRecipients } from "./named.ts"
import { checkTemplate, htmlOf, render, type Template } from "./render.ts"
import { type Recipient, recipientsOf, tell } from "./tell.ts"

export const templateForm = z.object({
  topic: z.enum(topics),
  way: z.enum(ways),
  language: z.enum(paperLanguages),
  subject: z.string().max(10_000).default(""),
  body: z.string().max(10_000).default(""),
  version: z.coerce.number().int().min(0).catch(0).default(0),
})
export type TemplateForm = z.infer<typeof templateForm>

export interface KeptTemplate extends Template {
  readonly topic: Topic
  readonly way: Way
  readonly language: PaperLanguage
  /** 0: as it ships. */
  readonly version: number
}

/** All templates, as they are in force. */
export async function templates(db: Knex): Promise<KeptTemplate[]> {
  const own = await db("message_template")
  return topics.flatMap((topic) =>
    ways.flatMap((way) =>
      paperLanguages.map((language): KeptTemplate => {
        const row = own.find((one) => one.topic === topic && one.way === way && one.language === language)
        return row
          ? { topic, way, language, subject: row.subject, body: row.body, version: row.version }
          : { topic, way, language, ...defaultTemplate(topic, way, language), version: 0 }
      }),
    ),
  )
}

/** Keeps a template that was found good; one that somebody else changed meanwhile is refused. */
export async function saveTemplate(context: Context, said: TemplateForm): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "customers.manage")
  const template = { subject: said.subject.trim(), body: said.body.replace(/\r\n/g, "\n").trim() }
  const good = checkTemplate(said.way, template)
  if (!good.ok) return good
  const at = { topic: said.topic, way: said.way, language: said.language }
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const before = await trx("message_template").where(at).forUpdate().first("version", "subject", "body")
    if (before && before.subject === template.subject && before.body === template.body) return accepted(null)
    if ((before?.version ?? 0) !== said.version) return refused(reason("template.changed"))
    await trx("message_template")
      .insert({ ...at, ...template, version: said.version + 1 })
      .onConflict(["topic", "way", "language"])
      .merge(["subject", "body", "version"])
    await record(trx, actor, now, {
      action: "tell.template-saved",
      detail: { topic: said.topic, language: said.language },
    })
    return accepted(null)
  })
}

/** Goes back to the template that ships. */
export async function resetTemplate(
  context: Context,
  { topic, way, language }: { readonly topic: Topic; readonly way: Way; readonly language: PaperLanguage },
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  // only what names it: a form brings more
  const at = { topic, way, language }
  authorise(actor, "customers.manage")
  await inTransaction(db, async (trx) => {
    const gone = await trx("message_template").where(at).delete()
    if (gone > 0)
      await record(trx, actor, now, {
        action: "tell.template-reset",
        detail: { topic: at.topic, language: at.language },
      })
  })
  return accepted(null)
}

export interface Preview extends Template {
  readonly html: string
}

/** An order to look at templates with: the one that was shipped last, or came last; empty without any. */
export async function sampleOrder(db: Knex, warehouseId: WarehouseId): Promise<string> {
  const last = await db("tracked_unit").where({ warehouse_id: warehouseId }).orderBy("id", "desc").first("order_id")
  const order = await db("sales_order")
    .where({ warehouse_id: warehouseId, ...(last ? { id: last.order_id } : {}) })
    .orderBy("id", "desc")
    .first("order_number")
  return order?.order_number ?? ""
}

/** What a template would say of an order of the warehouse. Refused like one that is to be kept. */
export async function previewTemplate(
  { db, actor, now }: Context,
  said: TemplateForm,
  orderNumber: string,
): Promise<Outcome<Preview>> {
  authorise(actor, "customers.manage")
  const good = checkTemplate(said.way, said)
  if (!good.ok) return good
  const order = await db("sales_order")
    .where({ warehouse_id: actor.warehouseId, order_number: orderNumber.trim() })
    .first("id")
  if (!order) return refused(reason("order.unknown", { field: "order" }))
  const { language } = said
  const link = await receiverLink(db, order.id, language, now)
  const facts = await messageFacts(db, order.id, {
    language,
    name: "",
    link,
    told: await samples(db, actor.warehouseId, order.id, orderNumber.trim(), now),
  })
  const made = render(said, facts)
  const sender = await senderOf(db, order.id)
  return accepted({
    ...made,
    html: htmlOf(made.body, { sender: sender.name, address: sender.address, link, language, footer: [] }),
  })
}

/** For a preview: what only whoever tells something knows. */
async function samples(
  db: Knex,
  warehouseId: WarehouseId,
  orderId: OrderId,
  orderNumber: string,
  now: Date,
): Promise<ToldFacts> {
  const lines = await db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where("l.order_id", orderId)
    .orderBy("l.line_number")
    .limit(100)
    .select("l.ordered", "i.description")
  const warehouse = there(await db("warehouse").where({ id: warehouseId }).first("company", "street", "city", "zone"))
  const quote = await db("quote").where({ warehouse_id: warehouseId }).orderBy("id", "desc").first("number")
  return {
    counter: counterOf(warehouse),
    quote: quote?.number ?? "Q-1",
    valid_until: addDays(localDate(now, warehouse.zone), 30),
    return_name: `${orderNumber}-R1`,
    returned: lines.map((one) => ({ description: one.description, sound: one.ordered, damaged: 0, missing: 0 })),
  }
}

const counterOf = (warehouse: { company: string; street: string; city: string }): string =>
  [warehouse.company, warehouse.street, warehouse.city].filter(Boolean).join(", ")

/** Sends a template's words about an order to an address of one's own choice, to see it as a customer does. */
export async function testTemplate(
  context: Context,
  said: TemplateForm,
  orderNumber: string,
  to: string,
  key: string,
): Promise<Outcome<{ readonly to: string }>> {
  const { db, actor, now } = context
  authorise(actor, "customers.manage")
  if (!z.email().max(120).safeParse(to).success) return refused(reason("papers.no-address", { field: "to" }))
  const preview = await previewTemplate(context, said, orderNumber)
  if (!preview.ok) return preview
  await inTransaction(db, (trx) =>
    postMail(trx, {
      onceKey: `test ${actor.userId} ${key}`.slice(0, 100),
      warehouseId: actor.warehouseId,
      to,
      subject: preview.value.subject || said.topic,
      body: preview.value.body,
      html: preview.value.html,
      attachment: null,
      quoteId: null,
      by: actor.name,
      at: now,
    }),
  )
  return accepted({ to })
}

/** Which topics the house tells of. */
export async function toldTopics(db: Knex): Promise<Topic[]> {
  const rows = await db("telling_topic")
  return topics.filter((topic) => {
    const row = rows.find((one) => one.topic === topic)
    return row ? !!row.is_on : usualTopics.includes(topic)
  })
}

const wall = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, { error: "tell.time" })

export const tellingForm = z.object({
  topics: z.preprocess((value) => (value === undefined ? [] : [value].flat()), z.array(z.enum(topics)).max(20)),
  quiet_from: wall,
  quiet_to: wall,
  quiet_mail: z
    .string()
    .optional()
    .transform((value) => value === "on"),
})

/** Sets what the house tells of, and when the warehouse's messages wait. */
export async function saveTelling(context: Context, said: z.infer<typeof tellingForm>): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "customers.manage")
  await inTransaction(db, async (trx) => {
    for (const topic of topics)
      await trx("telling_topic")
        .insert({ topic, is_on: said.topics.includes(topic) })
        .onConflict("topic")
        .merge(["is_on"])
    await trx("warehouse")
      .where({ id: actor.warehouseId })
      .update({ quiet_from: said.quiet_from, quiet_to: said.quiet_to, quiet_mail: said.quiet_mail })
    await record(trx, actor, now, { action: "tell.settings-saved", detail: {}, warehouseId: actor.warehouseId })
  })
  return accepted(null)
}

export const quietOf = async (db: Knex, warehouseId: WarehouseId) => {
  const row = there(await db("warehouse").where({ id: warehouseId }).first("quiet_from", "quiet_to", "quiet_mail"))
  return { from: row.quiet_from, to: row.quiet_to, mail: !!row.quiet_mail }
}

export const contactForm = z.object({
  role: z.enum(contactRoles),
  name: z.string().trim().max(60).default(""),
  way: z.enum(ways),
  address: z.string().trim().max(120).default(""),
  language: z.union([z.literal(""), z.enum(paperLanguages)]).default(""),
  topics: z.preprocess((value) => (value === undefined ? [] : [value].flat()), z.array(z.enum(topics)).max(20)),
})

export interface Contact {
  readonly id: number
  readonly role: (typeof contactRoles)[number]
  readonly name: string
  readonly way: Way
  readonly address: string
  readonly language: string
  readonly topics: readonly Topic[]
}

export const contactsOf = async (
  db: Knex,
  customerIds: readonly number[],
): Promise<(Contact & { readonly customerId: number })[]> =>
  (
    await db("customer_contact")
      .whereIn("customer_id", [...customerIds])
      .orderBy("id")
  ).map((row) => ({
    id: row.id,
    customerId: row.customer_id,
    role: row.role,
    name: row.name,
    way: row.way,
    address: row.address,
    language: row.language,
    topics: parsed<Topic[]>(row.topics),
  }))

/** An address as it is written to; refused where it is none. */
function addressAs(way: Way, text: string): Outcome<string> {
  if (way === "mail")
    return z.email().max(120).safeParse(text).success
      ? accepted(text)
      : refused(reason("tell.no-mail", { field: "address" }))
  const number = phoneNumber(text, "US")
  return number ? accepted(number) : refused(reason("tell.no-phone", { field: "address" }))
}

/** Contacts of a customer, at most. */
const mostContacts = 30

/** Adds somebody of a customer who is told, or changes what he is told of. */
export async function saveContact(
  context: Context,
  customerId: CustomerId,
  said: z.infer<typeof contactForm>,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "customers.manage")
  const address = addressAs(said.way, said.address)
  if (!address.ok) return address
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const customer = await trx("customer").where({ id: customerId }).forUpdate().first("code")
    if (!customer) return refused(reason("tell.no-customer"))
    const others = await trx("customer_contact")
      .where({ customer_id: customerId })
      .whereNot((same) => same.where({ way: said.way, address: address.value }))
      .select("id")
    if (others.length >= mostContacts) return refused(reason("tell.many-contacts", { most: mostContacts }))
    await trx("customer_contact")
      .insert({
        customer_id: customerId,
        role: said.role,
        name: said.name,
        way: said.way,
        address: address.value,
        language: said.language,
        topics: JSON.stringify(said.topics),
      })
      .onConflict(["customer_id", "way", "address"])
      .merge(["role", "name", "language", "topics"])
    await record(trx, actor, now, { action: "tell.contact-saved", detail: { customer: customer.code } })
    return accepted(null)
  })
}

export async function removeContact(
  context: Context,
  customerId: CustomerId,
  contactId: number,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "customers.manage")
  await inTransaction(db, async (trx) => {
    const customer = await trx("customer").where({ id: customerId }).first("code")
    const gone = await trx("customer_contact").where({ id: contactId, customer_id: customerId }).delete()
    if (gone > 0 && customer)
      await record(trx, actor, now, { action: "tell.contact-removed", detail: { customer: customer.code } })
  })
  return accepted(null)
}

/** Papers that can go with a message to a customer. */
export const attachable = [
  "packing-list",
  "invoice",
  "certificate-of-origin",
  "bill-of-lading",
  "label",
  "own-paper",
  // the ship notice as data, once it has left
  "desadv",
] as const

export const orderTellingForm = z.object({
  off: z
    .string()
    .optional()
    .transform((value) => value === "on"),
  thanks: z
    .string()
    .optional()
    .transform((value) => value === "on"),
  note: z.string().trim().max(500).default(""),
  more: z.string().trim().max(600).default(""),
  attach: z.preprocess((value) => (value === undefined ? [] : [value].flat()), z.array(z.string().max(30)).max(10)),
})

export interface OrderTelling {
  readonly off: boolean
  readonly thanks: boolean
  readonly note: string
  readonly more: readonly Recipient[]
  readonly attach: readonly string[]
}

export async function tellingOf(db: Knex, orderId: OrderId): Promise<OrderTelling> {
  const row = await db("order_telling")
    .where({ order_id: await leadOf(db, orderId) })
    .first()
  return {
    off: !!row?.is_off,
    thanks: !!row?.thanks,
    note: row?.note ?? "",
    more: row ? moreRecipients.parse(parsed(row.more)) : [],
    attach: row ? parsed<string[]>(row.attach) : [],
  }
}

/** Tells the customer that an order waits for him at our counter, as a person asks for. Told once a day: it answers how many are told now and were before. */
export async function tellReady(
  context: Context,
  orderId: OrderId,
): Promise<Outcome<{ readonly told: number; readonly before: number }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx) => {
    const order = await trx("sales_order as o")
      .join("warehouse as w", "w.id", "o.warehouse_id")
      .where({ "o.id": orderId, "o.warehouse_id": actor.warehouseId })
      .first("o.id", "w.company", "w.street", "w.city", "w.zone")
    if (!order) return refused(reason("order.unknown"))
    const to = await recipientsOf(trx, orderId, "ready")
    const told = await tell(trx, orderId, "ready", now, {
      to,
      of: `counter ${localDate(now, order.zone)}`,
      told: { counter: counterOf(order) },
    })
    let open = 0
    for (const one of to) if (!(await blockedFor(trx, one.address))) open += 1
    return accepted({ told, before: open - told })
  })
}

/** Addresses that are named with one order, at most. */
const mostMore = 8

/** Sets what is said to the customer of an order, and to whom else; what is not said stays, as somebody else may have set it. */
export async function saveOrderTelling(
  context: Context,
  orderId: OrderId,
  said: Partial<z.infer<typeof orderTellingForm>>,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const words = (said.more ?? "")
    .split(/[,;\n]+/)
    .map((one) => one.trim())
    .filter(Boolean)
  if (words.length > mostMore) return refused(reason("tell.many", { most: mostMore, field: "more" }))
  const more: Recipient[] = []
  for (const word of words) {
    const way: Way = word.includes("@") ? "mail" : "text"
    const address = addressAs(way, word)
    if (!address.ok)
      return refused(
        reason(way === "mail" ? "tell.named-mail" : "tell.named-phone", { named: word.slice(0, 60), field: "more" }),
      )
    more.push({ way, address: address.value, name: "", language: "" })
  }
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id")
    if (!order) return refused(reason("order.unknown"))
    const lead = await leadOf(trx, orderId)
    const attach = said.attach?.filter((one) => (attachable as readonly string[]).includes(one))
    await trx("order_telling").insert({ order_id: lead, more: "[]", attach: "[]" }).onConflict("order_id").ignore()
    await trx("order_telling")
      .where({ order_id: lead })
      .update({
        order_id: lead,
        ...(said.off === undefined ? {} : { is_off: said.off }),
        ...(said.thanks === undefined ? {} : { thanks: said.thanks }),
        ...(said.note === undefined ? {} : { note: said.note }),
        ...(said.more === undefined ? {} : { more: JSON.stringify(more) }),
        ...(attach === undefined ? {} : { attach: JSON.stringify(attach) }),
      })
    await record(trx, actor, now, { action: "tell.order-set", orderId, detail: {} })
    return accepted(null)
  })
}
