import { randomUUID } from "node:crypto"
import { addressLines } from "core/address/index.ts"
import { addDays, type LocalDate, localDate } from "core/calendar/index.ts"
import type { LabelModel } from "core/documents/index.ts"
import type { IntentId, OrderId, ReturnId } from "core/ids/index.ts"
import { moneyText } from "core/money/index.ts"
import { ratedAsResidential } from "core/rating/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { settingOf } from "core/rules/index.ts"
import { lengthIn, massIn, showMass, showSize } from "core/units/index.ts"
import type { Knex } from "knex"
import { paperWords } from "words/papers.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId, there } from "../db/there.ts"
import type { BookingRequest } from "../gateways/carrier.ts"
import { leadOf } from "../orders/joined.ts"
import { partiesOf } from "../orders/parties.ts"
import { orderRow } from "../orders/row.ts"
import { type Shipment, shipmentOf } from "../packages/shipment.ts"
import { whyNotMade } from "../papers/unprintable.ts"
import { mustFitLabel } from "../pdf/label.ts"
import { DoesNotFit } from "../pdf/page.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import { nextReturnNumber } from "./expect.ts"
import { type ReturnAsk, wholeBack } from "./goods.ts"
import { bookingReturn } from "./jobs.ts"
import { type ReturnOffer, type ReturnOffers, returnOffers } from "./offers.ts"

/** How a label for the way back gets to whom it is for. */
export interface Handing {
  /** Printed here, to go into the box. */
  readonly prints: boolean
  /** Where it is e-mailed to; empty: nowhere. */
  readonly mailTo: string
}

export interface ReturnPurchase extends Handing {
  readonly serviceCode: string
  /** The charge that the clerk saw; not said where the program asks by a rule. */
  readonly expected?: { readonly amount: string; readonly currency: string }
  /** The purchase of the way out that it goes along with. */
  readonly withIntent?: IntentId
}

/** Labels for the way back of one order, at most. */
const mostReturns = 20

/**
 * Writes down that labels for a way back are to be booked, once for a key, and leaves asking the carrier to a job. Nothing
 * outside is touched here. Refused for goods that have not been bought labels for, and where the price is another by now.
 */
export async function askReturn(
  context: Context,
  ofOrder: OrderId,
  ask: ReturnAsk,
  purchase: ReturnPurchase,
  key: string,
): Promise<Outcome<{ readonly returnId: ReturnId }>> {
  const { db, actor, now } = context
  authorise(actor, "shipping.buy")
  const onceKey = `return ${key}`.slice(0, 80)
  const before = await db("return_intent").where({ once_key: onceKey, warehouse_id: actor.warehouseId }).first("id")
  if (before) return accepted({ returnId: before.id })
  if (purchase.mailTo !== "" && !z.email().max(120).safeParse(purchase.mailTo).success)
    return refused(reason("papers.no-address", { field: "mailTo" }))
  if (!purchase.prints && purchase.mailTo === "") return refused(reason("return.how"))
  const orderId = await leadOf(db, ofOrder)
  const shipment = await shipmentOf(db, orderId)
  if (!shipment || shipment.warehouseId !== actor.warehouseId) return refused(reason("order.unknown"))
  if (shipment.state !== "bought") return refused(reason("return.not-bought"))
  const warehouse = await warehouseById(db, shipment.warehouseId)
  const priced = await returnOffers(db, warehouse, shipment, ask, now)
  if (!priced.ok) return priced
  const offer = priced.value.offers.find((one) => one.service.code === purchase.serviceCode)
  if (!offer?.rate || !offer.terms?.returns || !offer.version)
    return refused(reason("return.service-cannot"), ...(offer?.refusals ?? []))
  const price = moneyText(offer.rate.contract)
  if (purchase.expected && (price.amount !== purchase.expected.amount || price.currency !== purchase.expected.currency))
    return refused(reason("buy.price-changed", { seen: purchase.expected.amount, now: price.amount }))
  const validUntil = addDays(localDate(now, warehouse.zone), offer.terms.returns.validDays)
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly returnId: ReturnId }>> => {
    // whoever asks for another of this order waits here
    await trx("sales_order").where({ id: orderId }).forUpdate().first("id")
    const known = await trx("return_intent").where({ once_key: onceKey }).first("id")
    if (known) return accepted({ returnId: known.id })
    const rows = await trx("return_intent").where({ order_id: orderId }).select("number")
    if (rows.length >= mostReturns) return refused(reason("return.too-many-labels", { most: mostReturns }))
    const number = await nextReturnNumber(trx, orderId)
    const models = labelsOf(warehouse, shipment, offer, priced.value, number, validUntil)
    const unfit = misfitsOf(models[0] as LabelModel)
    if (unfit) return unfit
    const carrier = there(await trx("carrier").where({ id: offer.service.carrierId }).first("account"))
    const returnId = newId(
      await trx("return_intent").insert({
        warehouse_id: warehouse.id,
        order_id: orderId,
        number,
        intent_id: purchase.withIntent ?? null,
        service_id: offer.service.id,
        tariff_version_id: offer.version?.id ?? 0,
        once_key: onceKey,
        idempotency_key: randomUUID(),
        expected_amount: price.amount,
        currency: price.currency,
        paid: offer.terms?.returns?.paid ?? "at-once",
        valid_until: validUntil,
        request: JSON.stringify(
          requestOf(shipment, offer, priced.value, {
            account: carrier.account,
            number,
            price,
            day: localDate(now, warehouse.zone),
          }),
        ),
        charges: JSON.stringify(
          offer.rate?.charges.map((one) => ({
            ...one,
            list: moneyText(one.list).amount,
            contract: moneyText(one.contract).amount,
          })),
        ),
        models: JSON.stringify(models),
        goods: JSON.stringify(priced.value.back.goods),
        prints: purchase.prints,
        mail_to: purchase.mailTo,
        created_at: now,
        user_id: actor.userId,
        bench_id: context.benchId ?? null,
        actor: actor.name,
      }),
    )
    await bookingReturn.queue(trx, `return:${returnId}`, { returnId })
    await record(trx, actor, now, {
      action: "return.asked",
      orderId,
      detail: { service: offer.service.name, amount: price },
    })
    return accepted({ returnId })
  })
}

/** One label for each package that comes back; the carrier's numbers are put in when it has answered. */
function labelsOf(
  warehouse: Warehouse,
  shipment: Shipment,
  { service }: ReturnOffer,
  { back, to }: ReturnOffers,
  number: number,
  validUntil: string,
): LabelModel[] {
  const abroad = shipment.shipTo.country !== warehouse.country
  const words = paperWords(shipment.language)
  const { say } = words
  return back.packages.map((one, index) => ({
    language: words.language,
    carrier: service.carrier,
    service: service.name,
    sender: addressLines(shipment.shipTo),
    receiver: to.lines,
    shipDate: say("print.return-until", { day: words.date(validUntil) }),
    weight: showMass(one.weight, abroad ? "kg" : "lb"),
    size: showSize(one.size, abroad ? "cm" : "in"),
    piece: say("print.piece-of", { n: index + 1, of: back.packages.length }),
    references: [
      { name: say("print.our-order"), text: shipment.orderNumber },
      { name: say("print.your-order"), text: shipment.poNumber },
    ].filter((reference) => reference.text !== ""),
    driver: [],
    routingCode: "L5-00000",
    trackingNumber: "LA000000000000",
    ...(back.packages.length > 1 ? { master: "LA000000000000" } : {}),
    sscc: "",
    instead: say("print.return-across"),
    packageName: `${shipment.orderNumber}-R${number}.${index + 1}`,
  }))
}

function misfitsOf(model: LabelModel): Outcome<never> | null {
  try {
    mustFitLabel(model)
    return null
  } catch (error) {
    if (error instanceof DoesNotFit)
      return refused(...error.misfits.map((misfit) => reason("label.does-not-fit", { ...misfit })))
    const why = whyNotMade(error)
    if (!why) throw error
    return refused(...why)
  }
}

function requestOf(
  shipment: Shipment,
  { service }: ReturnOffer,
  { back, to }: ReturnOffers,
  {
    account,
    number,
    price,
    day,
  }: {
    readonly account: string
    readonly number: number
    readonly price: BookingRequest["expectedCharge"]
    readonly day: LocalDate
  },
): BookingRequest {
  const { shipTo } = shipment
  return {
    account,
    service: service.code,
    shipDate: day,
    reference: `${shipment.orderNumber}-R${number}`,
    sender: { postalCode: shipTo.postalCode, country: shipTo.country, lines: addressLines(shipTo) },
    receiver: {
      postalCode: to.address.postalCode,
      state: to.address.state,
      country: to.address.country,
      lines: to.lines,
      residential: ratedAsResidential(to.address),
      instructions: "",
    },
    returnTo: null,
    options: [],
    holdAt: "",
    value: null,
    distanceKm: null,
    dangerous: shipment.lines.flatMap((line) =>
      line.dangerous && back.goods.some((one) => one.sku === line.sku) ? [line.dangerous] : [],
    ),
    dutiesPayer: null,
    billing: { terms: "prepaid", account: "" },
    customs: null,
    categories: null,
    papers: [],
    proNumber: "",
    packages: back.packages.map((one) => ({
      number: one.number,
      sscc: "",
      handling: one.handling ?? "parcel",
      packaging: one.packaging ?? null,
      freightClass: null,
      weightLb: massIn(one.weight, "lb").toFixed(),
      sizeIn: [one.size.length, one.size.width, one.size.height].map((edge) => lengthIn(edge, "in").toFixed()) as [
        string,
        string,
        string,
      ],
      stackable: false,
      dryIceKg: null,
      declared: null,
    })),
    expectedCharge: price,
  }
}

/**
 * Asks for the label that goes along with a shipment that was just bought, as was settled for it: printed to go into the
 * box, or e-mailed to whom the order tells, and printed where it names nobody. Where none can be had, the story says why.
 */
export async function returnWith(db: Knex, intentId: IntentId): Promise<void> {
  const intent = await db("buy_intent as i")
    .join("shipment as h", "h.id", "i.shipment_id")
    .where("i.id", intentId)
    .first("i.state", "i.user_id", "i.actor", "i.bench_id", "h.order_id", "h.warehouse_id")
  if (intent?.state !== "booked") return
  const now = await businessNow(db)
  const actor = {
    userId: intent.user_id,
    name: intent.actor,
    role: "clerk",
    warehouseId: intent.warehouse_id,
  } as const
  const context = { db, now, actor, benchId: intent.bench_id }
  const shipment = there(await shipmentOf(db, intent.order_id))
  const wish = settingOf(shipment.settled, "returnLabel")
  if (!wish) return
  const warehouse = await warehouseById(db, intent.warehouse_id)
  const parties = await partiesOf(db, await orderRow(db, warehouse.id, intent.order_id))
  const mailTo = wish === "mail" ? (parties.find((one) => one.role === "notify" && one.email)?.email ?? "") : ""
  const ask: ReturnAsk = { ...wholeBack, to: shipment.returnTo ? "return-to" : "warehouse" }
  const priced = await returnOffers(db, warehouse, shipment, ask, now)
  const chosen = priced.ok ? priced.value.preselected : null
  const outcome = chosen
    ? await askReturn(
        context,
        intent.order_id,
        ask,
        { serviceCode: chosen.service.code, prints: mailTo === "", mailTo, withIntent: intentId },
        `with ${intentId}`,
      )
    : priced.ok
      ? refused(reason("return.service-cannot"), ...priced.value.offers.flatMap((one) => one.refusals).slice(0, 3))
      : priced
  if (!outcome.ok)
    await record(db, actor, now, {
      action: "return.none",
      orderId: intent.order_id,
      detail: { reasons: outcome.reasons },
    })
}
