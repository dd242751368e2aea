import { randomUUID } from "node:crypto"
import { addressLines } from "core/address/index.ts"
import { invoiceLines } from "core/customs/index.ts"
import { type Money, moneyText } from "core/money/index.ts"
import { type Rate, ratedAsResidential } from "core/rating/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { said } from "core/rules/index.ts"
import { lengthIn, massIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { type Context, require } from "../accounts/index.ts"
import { record } from "../audit/index.ts"
import { measure } from "../day/measure.ts"
import { inTransaction } from "../db/connection.ts"
import type { BookingRequest } from "../gateways/carrier.ts"
import { enqueue } from "../jobs/queue.ts"
import { leadOf } from "../orders/joined.ts"
import { senderLines } from "../orders/parties.ts"
import { packagingTypes } from "../packing/catalogue.ts"
import { handled, type Shipment, shipmentOf } from "../packing/shipment.ts"
import { labelMisfits } from "../papers/label.ts"
import { type Comparison, compareServices, type Offer } from "../rating/offers.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import { ownClass, rateable, shippedLines } from "./goods.ts"

/** The comparison of services for a shipment: parcel and freight beside one another. */
export async function offersFor(db: Knex, warehouse: Warehouse, shipment: Shipment, now: Date): Promise<Comparison> {
  const pallets = (await packagingTypes(db)).filter((type) => type.kind === "pallet")
  return compareServices(db, warehouse, rateable(shipment, pallets[0] ?? null), now)
}

export interface Purchase {
  /** The version of the shipment that the clerk saw. */
  readonly version: number
  readonly serviceCode: string
  /** The charge that the clerk saw and agreed to. */
  readonly expected: { readonly amount: string; readonly currency: string }
}

/**
 * Writes down the intent to buy labels for a shipment, exactly once for this version of it, and leaves asking the
 * carrier to a job. Nothing outside is touched here. Refused when the shipment or its price changed since it was seen.
 * The same purchase again is the same intent.
 */
export async function buy(
  context: Context,
  ofOrder: number,
  purchase: Purchase,
): Promise<Outcome<{ intentId: number }>> {
  const { db, actor, now } = context
  require(actor, "shipping.buy")
  const orderId = await leadOf(db, ofOrder)
  return inTransaction(db, async (trx) => {
    await trx("shipment").where({ order_id: orderId, warehouse_id: actor.warehouseId }).forUpdate().select("id")
    const shipment = await shipmentOf(trx, orderId)
    if (!shipment || shipment.warehouseId !== actor.warehouseId) return refused(reason("order.unknown"))
    if (shipment.orderId !== orderId) return refused(reason("order.changed-meanwhile"))
    const members = shipment.members.map((one) => one.id)
    const known = await trx("buy_intent")
      .where({ shipment_id: shipment.id, shipment_version: purchase.version })
      .first("id")
    if (known) return accepted({ intentId: known.id })
    if (shipment.state !== "open") return refused(reason("pack.not-open", { state: shipment.state }))
    if (shipment.version !== purchase.version) return refused(reason("order.changed-meanwhile"))
    const open = shipment.packages.find((one) => one.state !== "closed")
    if (shipment.packages.length === 0 || open)
      return refused(reason("buy.not-closed", { package: open?.number ?? "" }))
    if (await trx("order_stop").whereIn("order_id", members).first("id")) return refused(reason("pick.order-stopped"))
    const warehouse = await warehouseById(trx, shipment.warehouseId)
    const { offers } = await offersFor(trx, warehouse, shipment, now)
    const offer = offers.find((one) => one.service.code === purchase.serviceCode)
    if (!offer?.rate || !offer.collection) return refused(reason("buy.service-cannot"), ...(offer?.refusals ?? []))
    if (offer.needs) return refused(reason(offer.needs === "pallet" ? "buy.build-pallet" : "buy.take-apart"))
    const price = moneyText(offer.rate.contract)
    if (price.amount !== purchase.expected.amount || price.currency !== purchase.expected.currency) {
      return refused(reason("buy.price-changed", { seen: purchase.expected.amount, now: price.amount }))
    }
    const unfit = labelMisfits(warehouse, shipment, { carrier: offer.service.carrier, service: offer.service.name })
    if (unfit.length > 0) return refused(...unfit)
    const carrier = await trx("carrier").where({ id: offer.service.carrierId }).first("account")
    const [intentId] = await trx("buy_intent").insert({
      idempotency_key: randomUUID(),
      shipment_id: shipment.id,
      shipment_version: shipment.version,
      service_id: offer.service.id,
      expected_amount: price.amount,
      currency: price.currency,
      request: JSON.stringify(bookingRequest(warehouse, shipment, offer, carrier.account, price)),
      rate: JSON.stringify({ ...storedRate(offer.rate), collectionId: offer.collection.id }),
      created_at: now,
      user_id: actor.userId,
      actor: actor.name,
    })
    await trx("shipment")
      .where({ id: shipment.id })
      .update({ state: "buying", trouble: null, service_id: offer.service.id })
    await measure(trx, actor, now, orderId, "papers")
    await enqueue(trx, "carrier.book", `book:${intentId}`, { intentId: intentId as number })
    await record(trx, actor, now, {
      action: "buy.asked",
      orderId,
      detail: { service: offer.service.name, amount: price },
    })
    return accepted({ intentId: intentId as number })
  })
}

function bookingRequest(
  warehouse: Warehouse,
  shipment: Shipment,
  offer: Offer,
  account: string,
  price: { amount: string; currency: string },
): BookingRequest {
  return {
    account,
    service: offer.service.code,
    shipDate: (offer.collection as { onDate: string }).onDate,
    reference: shipment.bench,
    // the carrier collects at our place, whoever is shown as sender
    sender: {
      postalCode: warehouse.postalCode,
      country: warehouse.country,
      lines: shipment.sender ? senderLines(shipment.sender, warehouse.country) : warehouse.sender,
    },
    returnTo: shipment.returnTo ? { lines: addressLines(shipment.returnTo) } : null,
    receiver: {
      postalCode: shipment.shipTo.postalCode,
      state: shipment.shipTo.state,
      country: shipment.shipTo.country,
      lines: addressLines(shipment.shipTo),
      residential: ratedAsResidential(shipment.shipTo),
      instructions: shipment.delivery,
    },
    liftgate: shipment.liftgate,
    billing: said(shipment.settled, "payer") ?? { terms: "prepaid", account: "" },
    customs:
      shipment.shipTo.country === warehouse.country
        ? null
        : {
            incoterm: shipment.terms.incoterm,
            place: shipment.terms.place,
            value: moneyText(invoiceLines(shippedLines(shipment), shipment.orderCurrency).total),
            description: [...new Set(shippedLines(shipment).map((line) => line.description))].join("; "),
          },
    packages: handled(shipment.packages).map((one) => ({
      number: one.number,
      sscc: one.sscc as string,
      handling: one.kind === "pallet" ? "pallet" : "parcel",
      packaging: one.packaging,
      freightClass: ownClass(shipment, one),
      weightLb: massIn(one.actual, "lb").toFixed(),
      sizeIn: [one.outer.length, one.outer.width, one.outer.height].map((edge) => lengthIn(edge, "in").toFixed()) as [
        string,
        string,
        string,
      ],
    })),
    expectedCharge: price,
  }
}

/** A rate as it is kept with the intent: charges as text, the arrival, the zone. */
export interface StoredRate {
  readonly zone: string
  readonly list: string
  readonly contract: string
  readonly arrival: { readonly date: string; readonly time: string }
  readonly charges: readonly {
    readonly code: string
    readonly package: number | null
    readonly list: string
    readonly contract: string
    readonly why: unknown
  }[]
}

function storedRate(rate: Rate): StoredRate {
  const text = (value: Money) => moneyText(value).amount
  return {
    zone: rate.zone,
    list: text(rate.list),
    contract: text(rate.contract),
    arrival: { date: rate.arrival.date, time: rate.arrival.time },
    charges: rate.charges.map((charge) => ({
      code: charge.code,
      package: charge.package,
      list: text(charge.list),
      contract: text(charge.contract),
      why: charge.why,
    })),
  }
}

/** Asks that an open intent be given up: the job cancels it with the carrier by its key and opens the shipment again. */
export async function giveUp(context: Context, ofOrder: number): Promise<void> {
  const { db, actor, now } = context
  require(actor, "shipping.buy")
  const orderId = await leadOf(db, ofOrder)
  await inTransaction(db, async (trx) => {
    const intent = await trx("buy_intent")
      .join("shipment", "shipment.id", "buy_intent.shipment_id")
      .where({ order_id: orderId, warehouse_id: actor.warehouseId, "buy_intent.state": "open", give_up: false })
      .first("buy_intent.id")
    if (!intent) return
    await trx("buy_intent").where({ id: intent.id }).update({ give_up: true })
    await trx("job")
      .where({ once_key: `book:${intent.id}`, state: "waiting" })
      .update({ run_at: new Date() })
    await record(trx, actor, now, { action: "buy.give-up-asked", orderId })
  })
}

/** Waits until a carrier has answered an intent, or the time is over; the answer itself stands in the shipment. */
export async function waitForAnswer(db: Knex, intentId: number, limitMs: number): Promise<boolean> {
  for (const end = Date.now() + limitMs; Date.now() < end; ) {
    const intent = await db("buy_intent").where({ id: intentId }).first("state")
    if (intent?.state !== "open") return true
    await new Promise((resolve) => setTimeout(resolve, 60))
  }
  return false
}
