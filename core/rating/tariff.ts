import { z } from "zod"
import { type Address, zip3 } from "../address/index.ts"
import { freightClasses } from "./density.ts"

const figure = z.string().regex(/^\d+(\.\d+)?$/, "a figure is text such as 12.50")
const share = figure.refine((text) => Number(text) <= 1, "a share lies between 0 and 1")
const time = z.string().regex(/^\d\d:\d\d$/)

/** Who and what a service takes, apart from weight and size. */
const suitability = z.strictObject({
  postBox: z.boolean(),
  residential: z.boolean(),
  business: z.boolean(),
  /** ISO 3166-2:US codes without the country. */
  statesNotServed: z.array(z.string().length(2)),
  /** ISO 3166-1 alpha-2. */
  countries: z.array(z.string().length(2)).default(["US"]),
  dangerousGoods: z.boolean().default(false),
})

const when = z.discriminatedUnion("fact", [
  z.strictObject({ fact: z.literal("residential") }),
  z.strictObject({ fact: z.literal("weight-over"), figure }),
  z.strictObject({ fact: z.literal("longest-over"), figure }),
  z.strictObject({ fact: z.literal("postal-area"), zip3: z.array(z.string().length(3)) }),
  z.strictObject({ fact: z.literal("liftgate") }),
])

const surcharge = z.strictObject({ code: z.string(), amount: figure, discount: share, when })

/** What every tariff has: prices in the currency, shares as 0.35 for 35 %. */
const common = {
  currency: z.string().length(3),
  validFrom: z.iso.date(),
  suitability,
  discount: share,
  fuel: z.strictObject({ share, on: z.array(z.string()) }),
  transit: z.strictObject({
    /** Business days by zone. */
    days: z.record(z.string(), z.number().int().min(1)),
    /** By which time on the day of arrival, `HH:MM`. */
    by: time,
    saturday: z.boolean(),
  }),
  zones: z.array(z.string()),
}

/**
 * The tariff of one parcel service from one day on: all that its carrier may change without a new program. Weights
 * and edges are in the tariff's own units.
 */
export const parcelTariffSchema = z.strictObject({
  kind: z.literal("parcel").default("parcel"),
  ...common,
  weightUnit: z.enum(["lb", "kg"]).default("lb"),
  lengthUnit: z.enum(["in", "cm"]).default("in"),
  weightStep: figure,
  dimension: z.strictObject({
    step: figure,
    rounding: z.enum(["up", "nearest"]),
    divisor: figure,
    /** Volume at or under which only the actual weight counts; null: never. */
    thresholdVolume: figure.nullable(),
  }),
  limits: z.strictObject({ weight: figure, length: figure, lengthAndGirth: figure }),
  minimumNet: figure,
  /** Price by the code of the carrier's own box, whatever the zone; null: priced by weight, in any packaging. */
  flatRate: z.record(z.string(), figure).nullable().default(null),
  surcharges: z.array(surcharge),
  /** A row is the highest billed weight it holds for, then a price for each zone. */
  rows: z.array(z.tuple([figure], figure)),
})
export type ParcelTariff = z.infer<typeof parcelTariffSchema>

/**
 * The tariff of one less-than-truckload service: rates per 100 lb by zone, freight class and weight break. Weights in
 * pounds, edges in inches.
 */
export const freightTariffSchema = z.strictObject({
  kind: z.literal("freight"),
  ...common,
  /** The least weight of each break, ascending from 0. */
  breaks: z.array(figure).min(1),
  /** By zone, then class: a rate per 100 lb for each break. */
  rates: z.record(z.string(), z.partialRecord(z.enum(freightClasses), z.array(figure))),
  /** The least list charge, by zone. */
  minimum: z.record(z.string(), figure),
  /** The least charge after discount. */
  floor: figure,
  limits: z.strictObject({ weight: figure, pallets: z.number().int().min(1), length: figure, height: figure }),
  surcharges: z.array(
    surcharge.extend({
      /** With it, the amount is per 100 lb, within these bounds; null: per shipment. */
      perHundredweight: z.strictObject({ least: figure, most: figure }).nullable().default(null),
    }),
  ),
})
export type FreightTariff = z.infer<typeof freightTariffSchema>

export const tariffSchema = z.union([freightTariffSchema, parcelTariffSchema])
export type Tariff = z.infer<typeof tariffSchema>

/**
 * Zones of one carrier from one origin: ranges of the first three digits of the destination's ZIP code at home,
 * whole countries abroad.
 */
export const zoneChartSchema = z.strictObject({
  origin: z.string().length(3),
  ranges: z.array(z.tuple([z.string().length(3), z.string().length(3), z.string()])),
  countries: z.record(z.string().length(2), z.string()).default({}),
})
export type ZoneChart = z.infer<typeof zoneChartSchema>

/** The zone of a destination, or null when the chart has none. */
export function zoneOf(chart: ZoneChart, to: Pick<Address, "country" | "postalCode">): string | null {
  if (to.country !== "US") return chart.countries[to.country] ?? null
  const area = zip3(to.postalCode)
  return chart.ranges.find(([from, until]) => from <= area && area <= until)?.[2] ?? null
}
