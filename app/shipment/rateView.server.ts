import { placeOf } from "core/address/index.ts"
import { addDays, type LocalDate } from "core/calendar/index.ts"
import { moneyText, sumMoney } from "core/money/index.ts"
import { hiddenBy, type Preferred, type PreferredBy } from "core/preferences/index.ts"
import type { OnTime } from "core/rating/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { placeOfPostalCode } from "server/addresses/places.ts"
import { chargedOf } from "server/packages/charged.ts"
import { billingOf, worthOf } from "server/packages/goods.ts"
import type { Shipment } from "server/packages/shipment.ts"
import type { Offer } from "server/rating/offers.ts"
import type { Warehouse } from "server/setup/warehouse.ts"
import { type Rated, shortBy } from "server/shipping/buy.ts"
import { optionCosts } from "server/shipping/wishes.ts"
import { sorted } from "./ledger.ts"
import type { RoutePlaces } from "./RouteMap.tsx"

/** All offers as plain data, numbered in the order of the ledger: in time by cost, then late by cost, then refused. */
export function offersView(rated: Rated, shipment: Shipment, said: readonly Preferred[] = []): OfferView[] {
  const { offers, preselected } = rated
  const views = offers.map((offer) => offerView(rated, shipment, offer, offer === preselected))
  const priced = sorted(
    views.filter((one) => one.contract),
    "contract",
  )
  const isHidden = (one: RatedOffer) => hiddenBy(said, one) !== null
  const ranked = [
    ...priced.filter((one) => !isHidden(one)),
    ...priced.filter(isHidden),
    ...views.filter((one) => !one.contract),
  ]
  const numerals = new Map(ranked.map((one, index) => [one.code, index + 1]))
  return views.map((one) => ({
    ...one,
    numeral: numerals.get(one.code) as number,
    /** Who hides it, where somebody does. */
    hiddenBy: hiddenBy(said, one),
  }))
}

/** An offer as plain data. */
function offerView({ charging, ground, onTime }: Rated, shipment: Shipment, offer: Offer, preselected: boolean) {
  const { rate, service } = offer
  const charged = rate ? chargedOf(charging, ground.warehouse, shipment, service, rate) : null
  const wish = shipment.serviceAsked.toUpperCase()
  const sum = (codes: (code: string) => boolean) =>
    rate
      ? moneyText(
          sumMoney(
            rate.charges.filter((charge) => codes(charge.code)).map((charge) => charge.contract),
            rate.contract.currency,
          ),
        ).amount
      : ""
  return {
    code: offer.service.code,
    name: offer.service.name,
    mode: offer.service.mode,
    carrier: offer.service.carrier,
    carrierCode: offer.service.carrierCode,
    door: offer.collection?.door ?? null,
    leaves: offer.collection?.onDate ?? null,
    cutOff: offer.collection?.cutOff ?? null,
    refusals: offer.refusals,
    /** No truck comes for it, and one can be booked. */
    toBook:
      offer.refusals.some((one) => one.code === "rate.no-collection") &&
      offer.service.versions.some((one) => one.tariff.handover.booked !== null),
    unbeaten: offer.unbeaten,
    late: offer.late,
    down: offer.down,
    short: offer.short && rate ? shortBy(offer.short, rate.contract) : null,
    needs: offer.needs,
    preselected,
    /** Who pays, where it is not us: then what it costs is his contract's business. */
    payer: rate && rate.payer !== "shipper" ? rate.payer : null,
    /** It is what the customer asked for. */
    asked: wish !== "" && [service.code, service.name.toUpperCase()].includes(wish),
    charged: charged
      ? {
          amount: moneyText(charged.amount).amount,
          margin: moneyText(charged.margin).amount,
          why: charged.why as Reason[],
        }
      : null,
    zone: rate?.zone ?? "",
    arrives: rate ? { date: rate.arrival.date, time: rate.arrival.time } : null,
    onTime: rate ? measuredOf(onTime.get(service.id), rate.arrival.date) : null,
    arrivalWhy: rate?.arrival.why ?? [],
    days: rate ? { business: rate.arrival.businessDays, calendar: rate.arrival.calendarDays } : null,
    base: sum((code) => code === "base"),
    fuel: sum((code) => code === "fuel"),
    extra: sum((code) => code !== "base" && code !== "fuel"),
    contract: rate ? moneyText(rate.contract) : null,
    list: rate ? moneyText(rate.list) : null,
    tariff: offer.version ? { number: offer.version.number, from: offer.version.tariff.validFrom } : null,
    charges: rate
      ? rate.charges.map((charge) => ({
          code: charge.code,
          package: charge.package,
          amount: moneyText(charge.contract),
          why: charge.why as Reason[],
        }))
      : [],
  }
}
export type RatedOffer = ReturnType<typeof offerView>
export type OfferView = RatedOffer & { readonly numeral: number; readonly hiddenBy: PreferredBy | null }

/** What was measured of a service, and by which day 19 of 20 packages would be in. */
const measuredOf = (measured: OnTime | undefined, arrives: LocalDate) =>
  measured ? { of: measured.of, inTime: measured.inTime, by: addDays(arrives, measured.nineteenOfTwenty) } : null

/** What a package is billed at by an offer, with its freight class; null where the offer does not say it by package. */
export function ratedOf(offer: Offer | null, number: number) {
  const paid = offer?.rate?.paid.find((one) => one.package === number)
  const measured = offer?.rate?.packages.find((one) => one.one.number === number)
  const weight = paid?.weight ?? measured?.billed
  return weight ? { weight: weight.toString(), freightClass: paid?.freightClass ?? null } : null
}

/** The two ends of the way, for the map. */
export function routePlaces(warehouse: Warehouse, shipment: Shipment): RoutePlaces | null {
  const place = (country: string, postalCode: string): [number, number] | null => {
    const found = placeOfPostalCode(country, postalCode)
    return found ? [found.longitude, found.latitude] : null
  }
  const from = place(warehouse.country, warehouse.postalCode)
  const { shipTo } = shipment
  if (!from) return null
  return {
    from,
    to: place(shipTo.country, shipTo.postalCode),
    country: shipTo.country,
    home: warehouse.country,
    words: { from: warehouse.name, to: placeOf(shipTo) },
  }
}

/** What is asked for the shipment, and what the chosen service knows of it with its price. */
export function wishesView(rated: Rated, shipment: Shipment, chosen: Offer | null) {
  const { wishes } = shipment
  const { currency } = rated.ground.warehouse
  const known = chosen ? optionCosts(rated, shipment, chosen) : []
  const terms = chosen?.terms ?? null
  return {
    ...wishes,
    service: chosen?.service.code ?? null,
    serviceName: chosen?.service.name ?? "",
    options: wishes.options,
    known: known.map((one) => ({
      option: one.option,
      asked: one.asked,
      cost: one.cost ? moneyText(one.cost).amount : null,
      refusals: one.refusals,
    })),
    /** Asked for, and not known by the service. */
    unknown: wishes.options.filter((option) => !known.some((one) => one.option === option)),
    cover: terms
      ? { ...terms.cover, worth: worthOf(shipment, shipment.packages, currency)?.amount.toFixed(2) ?? null }
      : null,
    billing: billingOf(shipment),
    payers: terms?.billing.freight ?? [],
    dutiesPayers: terms?.billing.duties ?? [],
    /** What the customer asked to be sent with, and paid for it. */
    serviceAsked: shipment.serviceAsked,
    paid: shipment.freightPaid === null ? null : Number(shipment.freightPaid).toFixed(2),
    byHand: shipment.chargedByHand,
    pallets: shipment.packages.some((one) => one.kind === "pallet"),
    handing: chosen ? handingOf(rated, chosen, wishes.options.includes("drop-off")) : null,
    /** Whether a label for the way back goes along, and who said so. */
    returnLabel: shipment.settled.returnLabel ?? null,
  }
}
/** How what is sent by a service gets to its carrier: the trucks that come, a booked one, a place to bring it to. */
function handingOf({ ground }: Rated, { service, version }: Offer, dropsOff: boolean) {
  const own = ground.collections.filter((one) => one.services.includes(service.code))
  const truck = own.find((one) => one.dropOff === null) ?? null
  const brought = own.find((one) => one.dropOff !== null) ?? null
  const booked = version?.tariff.handover.booked ?? null
  return {
    carrierCode: service.carrierCode,
    dropsOff,
    truck: truck && { door: truck.door, cutOff: truck.cutOff, onCall: truck.onCall },
    /** What a booked collection costs; null where none can be booked. */
    fee: booked && version ? `${Number(booked.fee).toFixed(2)} ${version.tariff.currency}` : null,
    drop: brought?.dropOff
      ? {
          name: brought.dropOff.name,
          street: brought.dropOff.street,
          miles: brought.dropOff.km === null ? null : Math.round(brought.dropOff.km / 1.609344),
          leaveBy: brought.cutOff,
        }
      : null,
  }
}

export type WishesView = ReturnType<typeof wishesView>
