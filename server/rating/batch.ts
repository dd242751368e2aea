import type { Address } from "core/address/index.ts"
import type { LocalDate } from "core/calendar/index.ts"
import type { CollectionId } from "core/ids/index.ts"
import { type Money, type MoneyText, moneyFrom, moneyText } from "core/money/index.ts"
import type { Payer, RatedPackage } from "core/rating/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { serviceModes, Tariff } from "core/tariff/index.ts"
import { length, lengthIn, mass, massIn, size } from "core/units/index.ts"
import { there } from "../db/there.ts"
import { arrivedTariff, type CarriedTariff, carriedTariff } from "./carried.ts"
import { arrivesAt, compare, type Rateable, type RatingGround } from "./offers.ts"

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
type Ground = RatingGround["services"][number]
export interface PlainGround extends Omit<RatingGround, "services"> {
  readonly services: readonly (Omit<Ground, "balance" | "versions"> & {
    readonly balance: MoneyText | null
    readonly versions: readonly (Omit<Ground["versions"][number], "tariff"> & { readonly tariff: string })[]
  })[]
  /** Tariffs by the names that the services' versions have for them. */
  readonly tariffs: readonly CarriedTariff[]
}

/** A service's answer, short: what a list of many shipments shows. */
export interface OfferSummary {
  readonly code: string
  readonly carrier: string
  readonly mode: (typeof serviceModes)[number]
  readonly contract: string
  readonly list: string
  readonly payer: Payer
  readonly arrives: string
  readonly late: boolean
  readonly collectionId: CollectionId | null
  readonly door: string | null
  readonly leaves: LocalDate | null
  /** How the goods must stand for it, when they do not stand so yet. */
  readonly needs: "pallet" | "loose" | null
}
export interface BatchAnswer {
  readonly id: number
  /** Of the services that take it. */
  readonly offers: readonly OfferSummary[]
  /** Why none takes it; empty where one does. */
  readonly refusals: readonly Reason[]
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
export function plainGround({ services, ...rest }: RatingGround): PlainGround {
  const tariffs = new Map<string, CarriedTariff>()
  const named = (tariff: Tariff): string => {
    const one = carriedTariff(tariff)
    tariffs.set(one.name, one)
    return one.name
  }
  return {
    warehouse: rest.warehouse,
    collections: rest.collections,
    now: rest.now,
    today: rest.today,
    at: rest.at,
    exchange: rest.exchange,
    services: services.map(({ balance, versions, ...one }) => ({
      ...one,
      balance: balance && moneyText(balance),
      versions: versions.map((version) => ({ ...version, tariff: named(version.tariff) })),
    })),
    tariffs: [...tariffs.values()],
  }
}

/** The ground again, in the thread that it went to. */
export function groundOfPlain({ services, tariffs, ...rest }: PlainGround): RatingGround {
  const byName = new Map(tariffs.map((one) => [one.name, arrivedTariff(one)]))
  return {
    ...rest,
    services: services.map(({ balance, versions, ...one }) => ({
      ...one,
      balance: balance && moneyFrom(balance),
      versions: versions.map((version) => ({ ...version, tariff: there(byName.get(version.tariff)) })),
    })),
  }
}

/** Rates many shipments by every service; for a worker's thread. */
export function compareMany({
  ground,
  shipments,
}: {
  readonly ground: PlainGround
  readonly shipments: readonly { readonly id: number; readonly rateable: PlainRateable }[]
}): BatchAnswer[] {
  const revived = groundOfPlain(ground)
  const text = (value: Money) => moneyText(value).amount
  return shipments.map(({ id, rateable }) => {
    const { offers, preselected } = compare(revived, rateableOf(rateable))
    const taken = offers.flatMap((offer): OfferSummary[] => {
      const { service, price, collection } = offer
      if (!price) return []
      return [
        {
          code: service.code,
          carrier: service.carrier,
          mode: service.mode,
          contract: text(price.contract),
          list: text(price.list),
          payer: price.payer,
          arrives: arrivesAt(price),
          late: offer.late,
          collectionId: collection?.id ?? null,
          door: collection?.door ?? null,
          leaves: collection?.onDate ?? null,
          needs: offer.needs,
        },
      ]
    })
    // reasons are only shown where nothing takes the shipment
    const refusals = taken.length > 0 ? [] : offers.flatMap((offer) => offer.refusals)
    return { id, preselected: preselected?.service.code ?? null, offers: taken, refusals }
  })
}
