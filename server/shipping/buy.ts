import { randomUUID } from "node:crypto"
import { addressLines } from "core/address/index.ts"
import { localDate } from "core/calendar/index.ts"
import type { ChargingRule } from "core/charging/index.ts"
import type { CarrierId, IntentId, OrderId, ShipmentId, WarehouseId } from "core/ids/index.ts"
import { type Money, moneyText } from "core/money/index.ts"
import type { PackagingType } from "core/packing/index.ts"
import { billOfLading, invoicedOf, type PaperFacts } from "core/papers/index.ts"
import { type OnTime, type RateRequest, ratedAsResidential } from "core/rating/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { lengthIn, massIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { laneTo } from "../addresses/lane.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId, there } from "../db/there.ts"
import type { BookingRequest } from "../gateways/carrier.ts"
import { askAnew } from "../jobs/queue.ts"
import { measure } from "../measures/index.ts"
import { leadOf, lockShipmentOf } from "../orders/joined.ts"
import { senderLines } from "../orders/parties.ts"
import { chargedOf } from "../packages/charged.ts"
import { billingOf, rateable } from "../packages/goods.ts"
import { handled, keepingOpen, type Shipment, shipmentOf } from "../packages/shipment.ts"
import { palletType } from "../packaging/catalog.ts"
import { paperRefusals } from "../papers/drawn.ts"
import { electronicPapers } from "../papers/electronic.ts"
import { forOffer, paperFacts } from "../papers/facts.ts"
import { labelMisfits } from "../papers/label.ts"
import { chargingRules } from "../rating/charging.ts"
import { type Comparison, compare, type Offer, type RatingGround, ratingGround, requestFor } from "../rating/offers.ts"
import { onTimeBy } from "../rating/onTime.ts"
import { storedRate } from "../rating/storedRate.ts"
import { nextProNumber } from "../setup/carriers.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import { booking } from "./jobs.ts"

/** The comparison of services for a shipment: parcel and freight beside one another. */
export async function offersFor(db: Knex, warehouse: Warehouse, shipment: Shipment, now: Date): Promise<Rated> {
  const ground = await ratingGround(db, warehouse, now)
  const pallet = await palletType(db)
  const charging = await chargingRules(db)
  const onTime = await onTimeBy(db, localDate(now, warehouse.zone), laneTo(shipment.shipTo))
  return { ...compare(ground, rateable(warehouse, shipment, pallet)), ground, pallet, charging, onTime }
}

/** A comparison with what it was made from, for questions of what would be otherwise. */
export interface Rated extends Comparison {
  readonly ground: RatingGround
  readonly pallet: PackagingType | null
  readonly charging: readonly ChargingRule[]
  /** What was measured of each service, by its id. */
  readonly onTime: ReadonlyMap<number, OnTime>
}

/** The pallet that loose cartons are rated on, or null where the catalog has none. */

/** What is left of a prepaid balance, and what lacks for a charge, as values of a reason. */
export const shortBy = (left: Money, charge: Money) => ({
  left: left.amount.toFixed(2),
  lacks: charge.amount.sub(left.amount).toFixed(2),
  currency: left.currency,
})

export interface Purchase {
  /** The version of the shipment that the clerk saw. */
  readonly version: number
  readonly serviceCode: string
  /** The charge that the clerk saw and agreed to, and the day of leaving that it was for, where he saw one. */
  readonly expected: { readonly amount: string; readonly currency: string; readonly leaves?: string }
  /** False: labels and papers are made and printed later, when somebody asks. */
  readonly prints?: boolean
}

/** What purchases of a warehouse are priced by; read once for many. */
export interface BuyGround {
  readonly ground: RatingGround
  readonly pallet: PackagingType | null
  readonly charging: readonly ChargingRule[]
}

export const buyGround = async (db: Knex, warehouseId: WarehouseId, now: Date): Promise<BuyGround> => ({
  ground: await ratingGround(db, await warehouseById(db, warehouseId), now),
  pallet: await palletType(db),
  charging: await chargingRules(db),
})

/**
 * Writes down the intent to buy labels for a shipment, exactly once for this version of it, and leaves asking the
 * carrier to a job. Nothing outside is touched here. Refused when the shipment or its price changed since it was seen.
 * The same purchase again is the same intent.
 */
export async function buy(
  context: Context,
  ofOrder: number,
  purchase: Purchase,
): Promise<Outcome<{ intentId: IntentId }>> {
  const { db, actor } = context
  authorise(actor, "shipping.buy")
  const orderId = await leadOf(db, ofOrder)
  return inTransaction(db, (trx) => buyIn(trx, context, orderId, purchase))
}

/**
 * The same in the caller's transaction, for the order that leads its shipment. `known`: what rates stand on, where the
 * caller has read it for many, and the shipment itself, where the caller read it under its lock.
 */
export async function buyIn(
  trx: Knex,
  { actor, now, benchId }: Pick<Context, "actor" | "now" | "benchId">,
  orderId: OrderId,
  purchase: Purchase,
  known?: BuyGround & { readonly shipment?: Shipment },
): Promise<Outcome<{ intentId: IntentId }>> {
  await lockShipmentOf(trx, orderId, actor.warehouseId)
  const shipment = known?.shipment ?? (await shipmentOf(trx, orderId))
  if (!shipment || shipment.warehouseId !== actor.warehouseId) return refused(reason("order.unknown"))
  if (shipment.orderId !== orderId) return refused(reason("order.changed-meanwhile"))
  const members = shipment.members.map((one) => one.id)
  const before = await trx("buy_intent")
    .where({ shipment_id: shipment.id, shipment_version: purchase.version })
    .first("id")
  if (before) return accepted({ intentId: before.id })
  if (shipment.state !== "open") return refused(reason("pack.not-open", { state: shipment.state }))
  const others = await trx("outside_order").whereIn("order_id", members).whereNot({ state: "refused" }).first("state")
  if (others) return refused(reason("outside.shipped"))
  if (shipment.version !== purchase.version) return refused(reason("order.changed-meanwhile"))
  const open = shipment.packages.find((one) => one.state !== "closed")
  if (shipment.packages.length === 0 || open) return refused(reason("buy.not-closed", { package: open?.number ?? "" }))
  // it may have been weighed after it was closed
  const flaws = keepingOpen(shipment)
  if (flaws.length > 0) return refused(...flaws)
  if (await trx("order_stop").whereIn("order_id", members).first("id")) return refused(reason("pick.order-stopped"))
  const { ground, pallet, charging } = known ?? (await buyGround(trx, shipment.warehouseId, now))
  const { warehouse } = ground
  const goods = rateable(warehouse, shipment, pallet)
  const { offers } = compare(ground, goods)
  const offer = offers.find((one) => one.service.code === purchase.serviceCode)
  if (!offer?.rate || !offer.collection || !offer.terms || !offer.version)
    return refused(reason("buy.service-cannot"), ...(offer?.refusals ?? []))
  if (offer.needs) return refused(reason(offer.needs === "pallet" ? "buy.build-pallet" : "buy.take-apart"))
  const { leaves } = purchase.expected
  if (leaves && leaves !== offer.collection.onDate)
    return refused(reason("buy.truck-changed", { seen: leaves, now: offer.collection.onDate }))
  if (shipment.wishes.options.includes("hold-at-location") && !shipment.wishes.holdAt)
    return refused(reason("wish.hold-where"))
  if (offer.short) return refused(reason("buy.balance-short", shortBy(offer.short, offer.rate.contract)))
  const price = moneyText(offer.rate.contract)
  if (price.amount !== purchase.expected.amount || price.currency !== purchase.expected.currency) {
    return refused(reason("buy.price-changed", { seen: purchase.expected.amount, now: price.amount }))
  }
  const billed = offer.version.tariff.currency
  const asked = requestFor(ground, goods, offer.terms, offer.collection.onDate, billed)
  // what the carrier bills, in its own currency
  const theirs = moneyText(offer.native?.contract ?? offer.rate.contract)
  const { options } = asked
  const made = forOffer(offer)
  const facts = await paperFacts(trx, warehouse, shipment, {
    on: made,
    today: localDate(now, warehouse.zone),
    signer: actor.name,
  })
  const lacking = paperRefusals(facts)
  if (lacking.length > 0) return refused(...lacking)
  const unfit = labelMisfits(warehouse, shipment, {
    carrier: offer.service.carrier,
    service: offer.service.name,
    options: [...(options ?? [])],
  })
  if (unfit.length > 0) return refused(...unfit)
  const charged = chargedOf(charging, warehouse, shipment, offer.service, offer.rate)
  const proNumber = await proNumberFor(trx, shipment, offer.service.carrierId, facts)
  if (!proNumber.ok) return proNumber
  const carrier = there(await trx("carrier").where({ id: offer.service.carrierId }).first("account"))
  const intentId = newId(
    await trx("buy_intent").insert({
      idempotency_key: randomUUID(),
      shipment_id: shipment.id,
      shipment_version: shipment.version,
      service_id: offer.service.id,
      expected_amount: theirs.amount,
      currency: theirs.currency,
      tariff_version_id: offer.version.id,
      request: JSON.stringify(
        bookingRequest(
          warehouse,
          shipment,
          offer,
          asked,
          carrier.account,
          theirs,
          { ...facts, lading: { ...facts.lading, proNumber: proNumber.value } },
          now,
        ),
      ),
      rate: JSON.stringify({
        ...storedRate(offer.rate, charged),
        collectionId: offer.collection.id,
        ...(offer.exchange ? { exchange: { ...offer.exchange, contract: theirs.amount } } : {}),
        ...(made
          ? { papers: { service: made.service, carrierId: made.carrierId, accessorials: made.accessorials } }
          : {}),
      }),
      prints: purchase.prints ?? true,
      bench_id: benchId ?? null,
      created_at: now,
      user_id: actor.userId,
      actor: actor.name,
    }),
  )
  await trx("shipment")
    .where({ id: shipment.id })
    .update({ state: "buying", trouble: null, service_id: offer.service.id })
  await measure(trx, actor, now, orderId, "papers")
  await booking.queue(trx, `book:${intentId}`, { intentId: intentId })
  await record(trx, actor, now, {
    action: "buy.asked",
    orderId,
    detail: { service: offer.service.name, amount: price },
  })
  return accepted({ intentId: intentId })
}

/** The carrier's number for a bill of lading: as it was typed, or the next of those that it gave us; empty: it gives one. */
const proNumberFor = async (
  trx: Knex,
  { lading }: Shipment,
  carrierId: CarrierId,
  facts: PaperFacts,
): Promise<Outcome<string>> =>
  !billOfLading.need(facts) || lading.proNumber !== "" ? accepted(lading.proNumber) : nextProNumber(trx, carrierId)

function bookingRequest(
  warehouse: Warehouse,
  shipment: Shipment,
  offer: Offer,
  asked: RateRequest,
  account: string,
  price: { amount: string; currency: string },
  facts: PaperFacts,
  now: Date,
): BookingRequest {
  const goods = invoicedOf(facts)
  return {
    account,
    service: offer.service.code,
    shipDate: (offer.collection as { onDate: string }).onDate,
    reference: shipment.orderNumber,
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
    options: [...(asked.options ?? [])],
    holdAt: asked.options?.has("hold-at-location") ? shipment.wishes.holdAt : "",
    value: asked.value?.amount.toFixed(2) ?? null,
    distanceKm: asked.distance ? lengthIn(asked.distance, "mm").div(1_000_000).toFixed() : null,
    dangerous: asked.dangerous ?? [],
    dutiesPayer: asked.dutiesPayer ?? null,
    billing: billingOf(shipment),
    customs:
      shipment.shipTo.country === warehouse.country
        ? null
        : {
            incoterm: shipment.terms.incoterm,
            place: shipment.terms.place,
            value: moneyText(goods.total),
            description: [...new Set(goods.lines.map((line) => line.description))].join("; "),
            purpose: shipment.customs.purpose,
          },
    categories: asked.categories ?? null,
    papers: electronicPapers(facts, shipment, now),
    proNumber: facts.lading.proNumber,
    packages: handled(shipment.packages).map((one) => ({
      number: one.number,
      sscc: one.sscc as string,
      handling: one.kind === "pallet" ? "pallet" : "parcel",
      packaging: one.packaging,
      ...requested(asked, one.number),
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

/** What the carrier is told of a package besides weight and size. */
function requested(asked: RateRequest, number: number) {
  const one = asked.packages.find((candidate) => candidate.number === number)
  return {
    freightClass: one?.freightClass ?? null,
    stackable: one?.stackable ?? false,
    dryIceKg: one?.dryIce ? massIn(one.dryIce, "kg").toFixed() : null,
    declared: one?.declared?.amount.toFixed(2) ?? null,
  }
}

/** Asks that an open intent be given up: the job cancels it with the carrier by its key and opens the shipment again. */
export async function giveUp(context: Context, ofOrder: number): Promise<void> {
  const { db, actor, now } = context
  authorise(actor, "shipping.buy")
  const orderId = await leadOf(db, ofOrder)
  await inTransaction(db, async (trx) => {
    const intent = await trx("buy_intent")
      .join("shipment", "shipment.id", "buy_intent.shipment_id")
      .where("shipment.order_id", orderId)
      .where("shipment.warehouse_id", actor.warehouseId)
      .where({ give_up: false })
      .where("buy_intent.state", "open")
      .first("buy_intent.id")
    if (!intent) return
    await trx("buy_intent").where({ id: intent.id }).update({ give_up: true })
    await askAnew(trx, `book:${intent.id}`)
    await record(trx, actor, now, { action: "buy.give-up-asked", orderId })
  })
}

/** Waits until a carrier has answered an intent, or the time is over; the answer itself stands in the shipment. */
export async function waitForAnswer(db: Knex, intentId: IntentId, limitMs: number): Promise<boolean> {
  for (const end = Date.now() + limitMs; Date.now() < end; ) {
    const intent = await db("buy_intent").where({ id: intentId }).first("state")
    if (intent?.state !== "open") return true
    await new Promise((resolve) => setTimeout(resolve, 60))
  }
  return false
}

/** Whether somebody asked that a booking that is under way be given up. */
export const givingUp = async (db: Knex, shipmentId: ShipmentId): Promise<boolean> =>
  !!(await db("buy_intent").where({ shipment_id: shipmentId, state: "open", give_up: true }).first("id"))
