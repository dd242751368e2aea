import { localDate } from "core/calendar/index.ts"
import { type Rate, rateShipment } from "core/rating/index.ts"
import { accepted, type Outcome, type Reason, reason } from "core/refusal/index.ts"
import { settingOf } from "core/rules/index.ts"
import type { Service } from "core/tariff/index.ts"
import type { Knex } from "knex"
import type { Shipment } from "../packages/shipment.ts"
import { inForce, type RatedService, servicesOn, type TariffVersion } from "../rating/tariffs.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { type BackTo, backTo, type ComingBack, comingBack, type ReturnAsk } from "./goods.ts"

/** A service by which goods may come back, priced as of today, or why it does not bring these. */
export interface ReturnOffer {
  readonly service: RatedService
  readonly version: TariffVersion | null
  readonly terms: Service | null
  readonly rate: Rate | null
  readonly refusals: readonly Reason[]
}

export interface ReturnOffers {
  readonly back: ComingBack
  readonly to: BackTo
  readonly offers: readonly ReturnOffer[]
  /** The one that rules name, where it brings them; else the one that costs least. */
  readonly preselected: ReturnOffer | null
}

/** What services say for a way back. Refused where nothing can come back, or not there. */
export async function returnOffers(
  db: Knex,
  warehouse: Warehouse,
  shipment: Shipment,
  ask: ReturnAsk,
  now: Date,
): Promise<Outcome<ReturnOffers>> {
  const back = await comingBack(db, shipment, ask)
  if (!back.ok) return back
  const to = backTo(warehouse, shipment, ask)
  if (!to.ok) return to
  const today = localDate(now, warehouse.zone)
  const services = await servicesOn(db, today, true)
  const offers = services.map((service): ReturnOffer => {
    const held = inForce(service, today)
    const cannot = (...refusals: readonly Reason[]): ReturnOffer => ({
      service,
      version: held?.version ?? null,
      terms: held?.terms ?? null,
      rate: null,
      refusals,
    })
    if (!held?.terms.returns) return cannot(reason("rate.no-tariff", { day: today }))
    // its customs papers are the sender's, who is the receiver of ours
    if (shipment.shipTo.country !== to.value.address.country) return cannot(reason("return.abroad"))
    const { currency } = held.version.tariff
    if (currency !== warehouse.currency) return cannot(reason("rate.currency", { currency }))
    const answer = rateShipment(held.version.tariff, held.terms, {
      from: { country: shipment.shipTo.country, postalCode: shipment.shipTo.postalCode },
      shipTo: to.value.address,
      packages: back.value.packages,
      shipDate: today,
      today,
      dangerous: shipment.lines.flatMap((line) =>
        line.dangerous && back.value.goods.some((one) => one.sku === line.sku) ? [line.dangerous] : [],
      ),
      payer: "shipper",
    })
    if (!answer.ok) return cannot(...answer.reasons)
    return { service, version: held.version, terms: held.terms, rate: answer.rate, refusals: [] }
  })
  const able = offers.filter((one) => one.rate !== null)
  const settled = settingOf(shipment.settled, "returnService")
  const cheapest = [...able].sort((a, b) => amountOf(a).comparedTo(amountOf(b)))[0] ?? null
  const preselected = able.find((one) => one.service.code === settled) ?? cheapest
  return accepted({ back: back.value, to: to.value, offers, preselected })
}

const amountOf = (offer: ReturnOffer) => (offer.rate as Rate).contract.amount
