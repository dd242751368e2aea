import { z } from "zod"
import { knownCurrency } from "../money/index.ts"
import { code, country, date, figure, positive, postalRange, share, time, weekdays, words } from "./atoms.ts"
import { electronicPapers, goodsCategories, permits } from "./categories.ts"
import { conditionSchema } from "./conditions.ts"
import { fuelTableSchema } from "./fuel.ts"
import { handoverSchema } from "./handover.ts"
import { optionCodes } from "./options.ts"
import { priceSchema, surchargeSchema } from "./prices.ts"
import { zoneChartSchema } from "./zones.ts"

const option = z.enum(optionCodes)

/** How a weight is rounded: up to the step of the first row whose bound it does not pass; the last has no bound. */
const weighing = z.strictObject({
  unit: z.enum(["lb", "kg"]),
  steps: z.array(z.strictObject({ upTo: figure.nullable(), step: positive })).min(1),
  /** The least billed weight of a package. */
  least: figure.default("0"),
})

/** Weight by size; null in a service that goes by actual weight alone. */
const dimensional = z.strictObject({
  /** Each edge is rounded to this step before they are multiplied. */
  step: positive,
  rounding: z.enum(["up", "nearest"]),
  divisor: positive,
  /** Volume at or under which only the actual weight counts; null: never. */
  threshold: figure.nullable().default(null),
})

/** Over these a service refuses; null where it sets no limit. Weights and edges in the service's units. */
const limits = z.strictObject({
  pieces: z.number().int().min(1).nullable().default(null),
  weight: figure.nullable().default(null),
  total: figure.nullable().default(null),
  length: figure.nullable().default(null),
  lengthAndGirth: figure.nullable().default(null),
  height: figure.nullable().default(null),
  /** Value of the goods, in the tariff's currency. */
  value: figure.nullable().default(null),
})

/** Classes by size and weight, largest first; a package is of the first whose condition holds. */
const sizeClass = z.strictObject({
  code,
  when: conditionSchema,
  /** The least billed weight of such a package. */
  leastWeight: figure.nullable().default(null),
})

/** Where and to whom a service goes. */
const reach = z.strictObject({
  countries: z.array(country).min(1),
  /** ISO 3166-2 without the country, of the carrier's own country. */
  statesNotServed: z.array(z.string().regex(/^[A-Z0-9]{1,3}$/)).default([]),
  business: z.boolean(),
  residential: z.boolean(),
  postBox: z.boolean(),
  military: z.boolean(),
  /** Names of areas that it does not go to. */
  areasNotServed: z.array(code).default([]),
})

/** What goods a service takes. */
const goods = z.strictObject({
  /** Parcels that a person lifts, or pallets. */
  handling: z.enum(["parcel", "pallet", "any"]),
  dangerous: z.enum(["none", "limited-quantity", "all"]),
  /** Of dangerous goods only these classes, such as `3` or `9`; empty: all. */
  classes: z.array(z.string().regex(/^\d(\.\d)?$/)).default([]),
  /** Whose rules for dangerous goods hold on the way; null: those of the mode. */
  regime: z.enum(["road", "air"]).nullable().default(null),
  /** Categories of goods that are taken, each with what must be there first. */
  categories: z
    .array(z.strictObject({ category: z.enum(goodsCategories), needs: z.array(z.enum(permits)).default([]) }))
    .default([]),
  /** A rate for goods of this category alone. */
  only: z.enum(goodsCategories).nullable().default(null),
})

/** A paper whose data go with the booking, so that none is printed: to these countries; none named: to all. */
const electronicPaper = z.strictObject({
  paper: z.enum(electronicPapers),
  countries: z.array(country).default([]),
})
export type ElectronicPaper = z.infer<typeof electronicPaper>

const optionRule = z.strictObject({
  option,
  excludes: z.array(option).default([]),
  requires: z.array(option).default([]),
})

/** What the carrier owes for loss; more is bought by the value declared. */
const cover = z.strictObject({
  included: figure,
  /** The most that can be declared; 0 where no more cover is to be had. */
  most: figure,
})

const payer = z.enum(["shipper", "receiver", "third-party"])

/**
 * Of a service that brings goods back: its chart is read from where they go to (ours) to where they come from, since
 * zones are the same both ways (common practice). Nobody sends goods out with it.
 */
const returns = z.strictObject({
  /** When its price is due: with the label, or once the carrier scans the package. */
  paid: z.enum(["at-once", "when-scanned"]),
  /** Days for which a label can be used. */
  validDays: z.number().int().min(1).max(730),
})

const transit = z.strictObject({
  count: z.enum(["business", "calendar"]),
  /** Days on the way, by zone. */
  days: z.record(code, z.number().int().min(0).max(120)),
  /** Other days for places that lie in one of these: country, first and last beginning of a postal code, days. */
  lanes: z.array(z.tuple([country, z.string(), z.string(), z.number().int().min(0).max(120)])).default([]),
  /** By which time on the day of arrival. */
  by: time,
  /** Weekdays on which goods move, and on which they are delivered. */
  moves: weekdays.default([1, 2, 3, 4, 5]),
  delivers: weekdays.default([1, 2, 3, 4, 5]),
  /** Weekdays of departure where they do not leave every day: the next one after the day of sending. */
  departs: weekdays.nullable().default(null),
  /** The latest time of the day at which a label of the same day can be made; null: until the truck leaves. */
  cutOff: time.nullable().default(null),
  /** How many business days ahead a day of sending may be set. */
  ahead: z.number().int().min(0).max(60).default(10),
})

export const serviceModes = ["parcel", "post", "freight", "air", "groupage", "own"] as const

export const serviceSchema = z.strictObject({
  code: z.string().regex(/^[A-Z0-9]{2,8}$/, "a service's code has 2 to 8 capitals and figures"),
  name: words,
  mode: z.enum(serviceModes),
  /** The name of a zone chart, and the zones of it that the service goes to, in the order of its tables. */
  chart: code,
  zones: z.array(code).min(1),
  lengthUnit: z.enum(["in", "cm"]),
  weighing,
  dimensional: dimensional.nullable(),
  limits,
  sizeClasses: z.array(sizeClass).default([]),
  price: priceSchema,
  /** Contract discount on the base charge from a list charge on, ascending: `["0", "0.35"]`. */
  discounts: z.array(z.tuple([figure, share])).default([]),
  /** The least base charge after discount: of a package, or of the shipment where it is priced as a whole. */
  leastNet: figure.default("0"),
  surcharges: z.array(surchargeSchema).default([]),
  fuel: z.strictObject({ table: code, on: z.array(code).min(1) }).nullable(),
  taxes: z.array(code).default([]),
  reach,
  goods,
  options: z.array(optionRule).default([]),
  cover,
  returns: returns.nullable().default(null),
  electronic: z.array(electronicPaper).default([]),
  /** Of a service of the post abroad: whether it carries letter-post packets or parcels, by which the declaration goes. */
  postal: z.enum(["letter", "parcel"]).nullable().default(null),
  billing: z.strictObject({ freight: z.array(payer).min(1), duties: z.array(payer).default([]) }),
  transit,
})
export type Service = z.infer<typeof serviceSchema>

const tax = z.strictObject({
  share,
  /** Countries that goods go to for which it is due; empty: all. */
  countries: z.array(country).default([]),
})

/**
 * The tariff of one carrier from one day on: all that the carrier may change without a new program. Names of charts,
 * fuel tables, areas and taxes are referred to by its services. Amounts are in its currency.
 */
export const tariffSchema = z.strictObject({
  format: z.literal("carrier-tariff/1"),
  carrier: z.string().regex(/^[A-Z0-9]{2,8}$/, "a carrier's code has 2 to 8 capitals and figures"),
  name: words,
  currency: z.string().refine(knownCurrency, "a currency by ISO 4217 whose minor unit is known here"),
  country,
  validFrom: date,
  validTo: date.nullable().default(null),
  note: z.string().max(500).default(""),
  /** How a charge line is rounded; to nothing coarser than the minor unit where null. */
  rounding: z
    .strictObject({ to: figure.nullable(), way: z.enum(["half-up", "up", "down"]) })
    .default({ to: null, way: "half-up" }),
  /** Days on which nothing moves and nothing is delivered. */
  holidays: z.array(date).default([]),
  areas: z.record(code, z.array(postalRange).min(1)).default({}),
  charts: z.record(code, zoneChartSchema),
  fuel: z.record(code, fuelTableSchema).default({}),
  taxes: z.record(code, tax).default({}),
  handover: handoverSchema.prefault({}),
  services: z.array(serviceSchema).min(1),
})
export type Tariff = z.infer<typeof tariffSchema>
/** A tariff as a document may be written: what has a usual value may be left out. */
export type TariffDocument = z.input<typeof tariffSchema>

/** The published schema of tariff documents: JSON Schema, draft 2020-12. */
export const tariffJsonSchema = (): Record<string, unknown> =>
  z.toJSONSchema(tariffSchema, { io: "input" }) as Record<string, unknown>
