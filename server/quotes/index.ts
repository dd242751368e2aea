import { addDays, type LocalDate, type LocalTime, localDate } from "core/calendar/index.ts"
import { chargedFor } from "core/charging/index.ts"
import type { OrderId, TariffVersionId } from "core/ids/index.ts"
import { moneyText } from "core/money/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { QuoteRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { likeInAnyCase } from "../db/words.ts"
import { chargingRules } from "../rating/charging.ts"
import { compare, costOf, ratingGround } from "../rating/offers.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import { type QuoteAsked, quoteAsked, rateableQuote } from "./asked.ts"

/** A service in a quote. Costs are ours; `charged` is what the customer pays. */
export interface QuotedService {
  readonly code: string
  readonly name: string
  readonly carrier: string
  readonly arrives: { readonly date: LocalDate; readonly time: LocalTime } | null
  readonly late: boolean
  readonly charged: string | null
  readonly contract: string | null
  readonly list: string | null
  readonly tariffVersionId: TariffVersionId | null
  readonly refusals: readonly Reason[]
  /** Cheapest for the customer that arrives in time. */
  readonly best: boolean
}

export interface Quoted {
  readonly currency: string
  readonly services: readonly QuotedService[]
}

/** The services for what is asked, with what the customer would be charged, the cheapest in time first. */
export async function quoteFor(db: Knex, warehouse: Warehouse, asked: QuoteAsked, now: Date): Promise<Outcome<Quoted>> {
  const ground = await ratingGround(db, warehouse, now)
  const read = await rateableQuote(db, ground, asked)
  if (!read.ok) return read
  const { rateable, packages, worth } = read.value
  const { offers } = compare(ground, rateable)
  const rules = await chargingRules(db)
  const services = offers.map((offer): QuotedService => {
    const { price, service } = offer
    const charged = price
      ? chargedFor(rules, {
          customer: asked.customer,
          mode: service.mode,
          country: asked.shipTo.country,
          contract: price.contract,
          list: price.list,
          packages,
          worth,
          theirs: false,
        })
      : null
    return {
      code: service.code,
      name: service.name,
      carrier: service.carrier,
      arrives: price ? { date: price.arrival.date, time: price.arrival.time } : null,
      late: offer.late,
      charged: charged ? moneyText(charged.amount).amount : null,
      contract: price ? costOf(price).toFixed(2) : null,
      list: price ? moneyText(price.list).amount : null,
      tariffVersionId: offer.version?.id ?? null,
      refusals: offer.refusals,
      best: false,
    }
  })
  const sorted = services.sort(
    (a, b) =>
      Number(a.charged === null) - Number(b.charged === null) ||
      Number(a.late) - Number(b.late) ||
      Number(a.charged) - Number(b.charged) ||
      `${a.arrives?.date} ${a.arrives?.time}`.localeCompare(`${b.arrives?.date} ${b.arrives?.time}`),
  )
  return accepted({
    currency: warehouse.currency,
    services: sorted.map((one, at) => ({ ...one, best: at === 0 && one.charged !== null })),
  })
}

/** Days for which a quote is good, unless it says otherwise. */
export const goodFor = 14

export interface Quote {
  readonly id: number
  readonly number: string
  readonly state: "open" | "shipped" | "withdrawn"
  readonly over: boolean
  readonly validUntil: LocalDate
  readonly customer: { readonly code: string; readonly name: string }
  readonly asked: QuoteAsked
  readonly quoted: Quoted
  readonly madeBy: string
  readonly madeAt: Date
  readonly chosen: string | null
  /** Bench number of the order that it was made from, and of the one that it was sent with. */
  readonly from: string | null
  readonly shippedWith: string | null
  readonly version: number
}

/**
 * Keeps a quote: what was asked, the services as they are rated now, and until when it is good. The same key again is
 * the same quote. Refused where nothing can be rated.
 */
export async function makeQuote(
  context: Context,
  wanted: { readonly asked: QuoteAsked; readonly days?: number; readonly orderId?: OrderId | null },
  key: string,
): Promise<Outcome<{ readonly id: number; readonly number: string }>> {
  const { db, actor, now } = context
  authorise(actor, "quotes.make")
  const onceKey = `${actor.userId ?? actor.name} ${key}`.slice(0, 100)
  const known = await db("quote").where({ once_key: onceKey }).first("id", "number")
  if (known) return accepted({ id: known.id, number: there(known.number) })
  const warehouse = await warehouseById(db, actor.warehouseId)
  const quoted = await quoteFor(db, warehouse, wanted.asked, now)
  if (!quoted.ok) return quoted
  if (quoted.value.services.every((one) => one.charged === null))
    return refused(reason("quote.no-service"), ...quoted.value.services.flatMap((one) => one.refusals).slice(0, 3))
  const customer = wanted.asked.customer
    ? await db("customer").where({ code: wanted.asked.customer }).first("name")
    : null
  if (wanted.asked.customer && !customer) return refused(reason("quote.no-customer", { code: wanted.asked.customer }))
  const days = Math.min(Math.max(1, wanted.days ?? goodFor), 90)
  return inTransaction(db, async (trx) => {
    await trx("quote")
      .insert({
        warehouse_id: warehouse.id,
        once_key: onceKey,
        valid_until: addDays(localDate(now, warehouse.zone), days),
        order_id: wanted.orderId ?? null,
        customer_code: wanted.asked.customer,
        customer_name: customer?.name ?? wanted.asked.shipTo.company,
        asked: JSON.stringify(wanted.asked),
        offers: JSON.stringify(quoted.value.services),
        currency: quoted.value.currency,
        note: wanted.asked.note,
        made_by: actor.name,
        made_at: now,
      })
      .onConflict("once_key")
      .ignore()
    const { id, number: madeNumber } = there(await trx("quote").where({ once_key: onceKey }).first("id", "number"))
    if (madeNumber) return accepted({ id, number: madeNumber })
    const number = `Q${100_000 + id}`
    await trx("quote").where({ id }).update({ number })
    await record(trx, actor, now, { action: "quote.made", orderId: wanted.orderId ?? null, detail: { number } })
    return accepted({ id, number })
  })
}

function quoteOf(
  row: QuoteRow & { readonly from_number: string | null; readonly shipped_order: string | null },
  today: string,
): Quote {
  return {
    id: row.id,
    number: there(row.number),
    state: row.state,
    over: row.valid_until < today,
    validUntil: row.valid_until,
    customer: { code: row.customer_code, name: row.customer_name },
    asked: quoteAsked.parse(parsed(row.asked)),
    quoted: { currency: row.currency, services: parsed<QuotedService[]>(row.offers) },
    madeBy: row.made_by,
    madeAt: row.made_at,
    chosen: row.chosen,
    from: row.from_number ?? null,
    shippedWith: row.shipped_order ?? null,
    version: row.version,
  }
}

const select = (db: Knex) =>
  db("quote")
    .leftJoin("sales_order as f", "f.id", "quote.order_id")
    .leftJoin("sales_order as s", "s.id", "quote.shipped_order_id")
    .select("quote.*", "f.order_number as from_number", "s.order_number as shipped_order")

/** Quotes that are listed at most. */
export const mostQuotes = 300

/** The quotes of a warehouse, the latest first; with words in number, customer, company, city or postal code. */
export async function quotes(db: Knex, warehouse: Warehouse, words: string, now: Date): Promise<Quote[]> {
  const query = select(db).where("quote.warehouse_id", warehouse.id).orderBy("quote.id", "desc").limit(mostQuotes)
  for (const word of words.trim().split(/\s+/).filter(Boolean).slice(0, 6)) {
    const like = `%${word.replace(/[%_\\]/g, "\\$&")}%`
    query.where((either) =>
      either
        .where(likeInAnyCase(db, "quote.number", like))
        .orWhere("quote.customer_name", "like", like)
        .orWhereRaw("LOWER(JSON_EXTRACT(quote.asked, '$.shipTo')) LIKE LOWER(?)", [like]),
    )
  }
  const today = localDate(now, warehouse.zone)
  return (await query).map((row) => quoteOf(row, today))
}

export async function quoteByNumber(db: Knex, warehouse: Warehouse, number: string, now: Date): Promise<Quote | null> {
  const row = await select(db).where({ "quote.warehouse_id": warehouse.id, "quote.number": number }).first()
  return row ? quoteOf(row, localDate(now, warehouse.zone)) : null
}

/** Takes a quote back; one that was sent already is not. */
export async function withdrawQuote(context: Context, id: number): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "quotes.make")
  return inTransaction(db, async (trx) => {
    const row = await trx("quote").where({ id, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!row) return refused(reason("quote.gone"))
    if (row.state === "withdrawn") return accepted(null)
    if (row.state === "shipped") return refused(reason("quote.shipped"))
    await trx("quote")
      .where({ id })
      .update({ state: "withdrawn", version: row.version + 1 })
    await record(trx, actor, now, { action: "quote.withdrawn", orderId: row.order_id, detail: { number: row.number } })
    return accepted(null)
  })
}
