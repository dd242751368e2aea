import type { Address } from "core/address/index.ts"
import type { LocalDate } from "core/calendar/index.ts"
import type { CollectionId } from "core/ids/index.ts"
import { type Money, type MoneyText, money, moneyFrom, moneyText } from "core/money/index.ts"
import type { RatedPackage } from "core/rating/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { serviceModes } from "core/tariff/index.ts"
import { length, lengthIn, mass, massIn, size } from "core/units/index.ts"
import { compare, type Rateable, type RatingGround } from "./offers.ts"

/** What goes to a worker's thread and back is plain data: exact figures as text. */
interface PlainPackage extends Pick<RatedPackage, "number" | "packaging" | "handling" | "freightClass" | "stackable"> {
  readonly kg: string
  readonly mm: readonly [string, string, string]
  readonly dryIceKg: string | null
  readonly declared: MoneyText | null
}
export interface PlainRateable extends Omit<Rateable, "parcels" | "pallets" | "value" | "distance"> {
  readonly shipTo: Address
  readonly parcels: readonly PlainPackage[]
  readonly pallets: readonly PlainPackage[]
  readonly value: MoneyText | null
  readonly distanceMm: string | null
}
export interface PlainGround extends Omit<RatingGround, "services"> {
  readonly services: readonly (Omit<RatingGround["services"][number], "balance"> & {
    readonly balance: MoneyText | null
  })[]
}

/** A service's answer, short: what a list of many shipments shows. */
export interface OfferSummary {
  readonly code: string
  readonly carrier: string
  readonly mode: (typeof serviceModes)[number]
  readonly contract: string | null
  readonly list: string | null
  readonly payer: string | null
  readonly arrives: string | null
  readonly late: boolean
  readonly collectionId: CollectionId | null
  readonly door: string | null
  readonly leaves: LocalDate | null
  /** How the goods must stand for it, when they do not stand so yet. */
  readonly needs: "pallet" | "loose" | null
  readonly refusals: readonly Reason[]
}
export interface BatchAnswer {
  readonly id: number
  readonly offers: readonly OfferSummary[]
  /** What the comparison itself proposes: settled or cheapest in time. */
  readonly preselected: string | null
}

const packPlain = (one: RatedPackage): PlainPackage => ({
  number: one.number,
  packaging: one.packaging ?? null,
  handling: one.handling,
  freightClass: one.freightClass ?? null,
  stackable: one.stackable,
  kg: massIn(one.weight, "kg").toString(),
  mm: [one.size.length, one.size.width, one.size.height].map((edge) => lengthIn(edge, "mm").toString()) as [
    string,
    string,
    string,
  ],
  dryIceKg: one.dryIce ? massIn(one.dryIce, "kg").toString() : null,
  declared: one.declared ? moneyText(one.declared) : null,
})
const packOf = ({ kg, mm, dryIceKg, declared, ...one }: PlainPackage): RatedPackage => ({
  ...one,
  weight: mass(kg, "kg"),
  size: size(...mm, "mm"),
  dryIce: dryIceKg === null ? null : mass(dryIceKg, "kg"),
  declared: declared && moneyFrom(declared),
})

/** A shipment as plain data. */
export const plainRateable = ({ parcels, pallets, value, distance, ...rest }: Rateable): PlainRateable => ({
  ...rest,
  parcels: parcels.map(packPlain),
  pallets: pallets.map(packPlain),
  value: value && moneyText(value),
  distanceMm: distance ? lengthIn(distance, "mm").toString() : null,
})
export const rateableOf = ({ parcels, pallets, value, distanceMm, ...rest }: PlainRateable): Rateable => ({
  ...rest,
  parcels: parcels.map(packOf),
  pallets: pallets.map(packOf),
  value: value && moneyFrom(value),
  distance: distanceMm === null ? null : length(distanceMm, "mm"),
})
export const plainGround = ({ services, ...rest }: RatingGround): PlainGround => ({
  warehouse: rest.warehouse,
  collections: rest.collections,
  now: rest.now,
  today: rest.today,
  at: rest.at,
  services: services.map(({ balance, ...one }) => ({ ...one, balance: balance && moneyText(balance) })),
})

/** Rates many shipments by every service; for a worker's thread. */
export function compareMany({
  ground,
  shipments,
}: {
  readonly ground: PlainGround
  readonly shipments: readonly { readonly id: number; readonly rateable: PlainRateable }[]
}): BatchAnswer[] {
  const revived: RatingGround = {
    ...ground,
    services: ground.services.map(({ balance, ...one }) => ({ ...one, balance: balance && moneyFrom(balance) })),
  }
  const text = (value: Money) => money(value.amount, value.currency).amount.toFixed(2)
  return shipments.map(({ id, rateable }) => {
    const { offers, preselected } = compare(revived, rateableOf(rateable))
    return {
      id,
      preselected: preselected?.service.code ?? null,
      offers: offers.map(({ service, rate, late, refusals, collection, needs }) => ({
        code: service.code,
        carrier: service.carrier,
        mode: service.mode,
        contract: rate ? text(rate.contract) : null,
        list: rate ? text(rate.list) : null,
        payer: rate?.payer ?? null,
        arrives: rate ? `${rate.arrival.date} ${rate.arrival.time}` : null,
        late,
        collectionId: collection?.id ?? null,
        door: collection?.door ?? null,
        leaves: collection?.onDate ?? null,
        needs,
        refusals,
      })),
    }
  })
}
