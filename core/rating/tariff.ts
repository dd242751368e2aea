import { z } from "zod"

const figure = z.string().regex(/^\d+(\.\d+)?$/, "a figure is text such as 12.50")
const share = figure.refine((text) => Number(text) <= 1, "a share lies between 0 and 1")

/**
 * The tariff of one service from one day on: all that its carrier may change without a new program. Weights in
 * pounds, edges in inches, prices in the currency, shares as 0.35 for 35 %.
 */
export const tariffSchema = z.strictObject({
  currency: z.string().length(3),
  validFrom: z.iso.date(),
  weightStep: figure,
  dimension: z.strictObject({
    step: figure,
    rounding: z.enum(["up", "nearest"]),
    divisor: figure,
    /** Cubic inches at or under which only the actual weight counts; null: never. */
    thresholdVolume: figure.nullable(),
  }),
  limits: z.strictObject({ weight: figure, length: figure, lengthAndGirth: figure }),
  suitability: z.strictObject({
    postBox: z.boolean(),
    residential: z.boolean(),
    business: z.boolean(),
    /** ISO 3166-2:US codes without the country. */
    statesNotServed: z.array(z.string().length(2)),
  }),
  discount: share,
  minimumNet: figure,
  surcharges: z.array(
    z.strictObject({
      code: z.string(),
      amount: figure,
      discount: share,
      when: z.discriminatedUnion("fact", [
        z.strictObject({ fact: z.literal("residential") }),
        z.strictObject({ fact: z.literal("weight-over"), figure }),
        z.strictObject({ fact: z.literal("longest-over"), figure }),
        z.strictObject({ fact: z.literal("postal-area"), zip3: z.array(z.string().length(3)) }),
      ]),
    }),
  ),
  fuel: z.strictObject({ share, on: z.array(z.string()) }),
  transit: z.strictObject({
    /** Business days by zone. */
    days: z.record(z.string(), z.number().int().min(1)),
    /** By which time on the day of arrival, `HH:MM`. */
    by: z.string().regex(/^\d\d:\d\d$/),
    saturday: z.boolean(),
  }),
  /** Zones in the order of the columns of `rows`; a row is the highest billed weight it holds for, then a price each. */
  zones: z.array(z.string()),
  rows: z.array(z.tuple([figure], figure)),
})
export type Tariff = z.infer<typeof tariffSchema>

/** Zones of one carrier from one origin: ranges of the first three digits of the destination's ZIP code. */
export const zoneChartSchema = z.strictObject({
  origin: z.string().length(3),
  ranges: z.array(z.tuple([z.string().length(3), z.string().length(3), z.string()])),
})
export type ZoneChart = z.infer<typeof zoneChartSchema>

/** The zone of a destination, or null when the chart has none. */
export const zoneOf = (chart: ZoneChart, zip3: string): string | null =>
  chart.ranges.find(([from, to]) => from <= zip3 && zip3 <= to)?.[2] ?? null
