import { type Address, isPostBox } from "core/address/index.ts"
import type { LocalDate } from "core/calendar/index.ts"
import { type Money, type MoneyText, money, moneyText, sumMoney } from "core/money/index.ts"
import { type FreightClass, priceShipment, type RateRequest, rateShipment } from "core/rating/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { type OptionCode, type Tariff, tariffSchema } from "core/tariff/index.ts"
import { length, mass, size } from "core/units/index.ts"
import type { BookingRequest } from "../gateways/carrier.ts"

/** A shipment as it was booked, and what it cost then. */
export interface PastShipment {
  readonly orderNumber: string
  readonly request: BookingRequest
  readonly cost: string
}

export interface Trial {
  readonly services: readonly {
    readonly service: string
    readonly shipments: number
    readonly before: MoneyText
    readonly after: MoneyText
    readonly refused: number
  }[]
  /** Shipments whose cost changes most, or that would be refused. */
  readonly changes: readonly {
    readonly orderNumber: string
    readonly service: string
    readonly before: string
    /** Null: refused. */
    readonly after: string | null
    readonly reasons: readonly Reason[]
  }[]
}

/** Rates past shipments by another document, as they were booked but on its first day where that is later. Pure. */
export function tryTariff({
  document,
  shipments,
}: {
  readonly document: unknown
  readonly shipments: readonly PastShipment[]
}): Trial {
  const tariff = tariffSchema.parse(document)
  const tried = shipments.map((one) => ({ ...one, ...ratedAnew(tariff, one.request) }))
  const services = [...new Set(tried.map((one) => one.request.service))].sort()
  const total = (some: readonly (Money | string)[]): MoneyText =>
    moneyText(
      sumMoney(
        some.map((one) => (typeof one === "string" ? money(one, tariff.currency) : one)),
        tariff.currency,
      ),
    )
  return {
    services: services.map((service) => {
      const own = tried.filter((one) => one.request.service === service)
      const taken = own.filter((one) => one.after !== null)
      return {
        service,
        shipments: own.length,
        // what is refused now is in neither sum, or the two could not be compared
        before: total(taken.map((one) => one.cost)),
        after: total(taken.map((one) => one.after as Money)),
        refused: own.length - taken.length,
      }
    }),
    changes: tried
      .map(({ orderNumber, request, cost, after, reasons }) => ({
        orderNumber,
        service: request.service,
        before: money(cost, tariff.currency).amount.toFixed(2),
        after: after ? after.amount.toFixed(2) : null,
        reasons,
      }))
      .filter((one) => one.before !== one.after)
      .sort((a, b) => moved(b) - moved(a) || a.orderNumber.localeCompare(b.orderNumber))
      .slice(0, 20),
  }
}

const moved = (one: { before: string; after: string | null }): number =>
  one.after === null ? Number.POSITIVE_INFINITY : Math.abs(Number(one.after) - Number(one.before))

function ratedAnew(tariff: Tariff, request: BookingRequest): { after: Money | null; reasons: readonly Reason[] } {
  const service = tariff.services.find((one) => one.code === request.service)
  if (!service) return { after: null, reasons: [{ code: "tariff.service-gone", values: { code: request.service } }] }
  const asked = requestOfBooking(tariff, request)
  const price = priceShipment(tariff, service, asked)
  if (price) return { after: price.contract, reasons: [] }
  const answer = rateShipment(tariff, service, asked)
  return answer.ok ? { after: answer.rate.contract, reasons: [] } : { after: null, reasons: answer.reasons }
}

/** What a booking asked, as the engine asks it. */
export function requestOfBooking(tariff: Pick<Tariff, "validFrom" | "currency">, request: BookingRequest): RateRequest {
  const { receiver, sender } = request
  const shipTo: Address = {
    company: "",
    attention: "",
    street: receiver.lines.find((line) => isPostBox({ street: line, street2: "" })) ?? receiver.lines.at(-2) ?? "",
    street2: "",
    city: "",
    state: receiver.state,
    postalCode: receiver.postalCode,
    country: receiver.country,
    phone: "",
    kind: receiver.residential ? "residential" : "business",
  }
  return {
    from: { country: sender.country, postalCode: sender.postalCode },
    shipTo,
    distance: request.distanceKm ? length(Number(request.distanceKm) * 1_000_000, "mm") : null,
    shipDate: [request.shipDate, tariff.validFrom].sort().at(-1) as LocalDate,
    options: new Set(request.options as OptionCode[]),
    value: request.value ? money(request.value, tariff.currency) : null,
    dangerous: request.dangerous,
    packages: request.packages.map((one) => ({
      number: one.number,
      weight: mass(one.weightLb, "lb"),
      size: size(...one.sizeIn, "in"),
      packaging: one.packaging,
      handling: one.handling,
      freightClass: one.freightClass as FreightClass | null,
      stackable: one.stackable,
      dryIce: one.dryIceKg ? mass(one.dryIceKg, "kg") : null,
      declared: one.declared ? money(one.declared, tariff.currency) : null,
    })),
  }
}
