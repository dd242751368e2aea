import { z } from "zod"
import { freightClasses } from "../rating/density.ts"
import { code, figure, positive, share } from "./atoms.ts"
import { conditionSchema } from "./conditions.ts"

/** One figure for all zones, or one for each. */
const figureOrZones = z.union([figure, z.record(code, figure)])
export type FigureByZone = z.infer<typeof figureOrZones>
/** The figure for a zone; null where there is none. */
export const figureFor = (figures: FigureByZone, zone: string): string | null =>
  typeof figures === "string" ? figures : Object.hasOwn(figures, zone) ? (figures[zone] as string) : null

/** A table of weight and zone. A row is the highest billed weight it holds for, then a price for each zone. */
const byWeight = z.strictObject({
  by: z.literal("weight"),
  /** Each package by itself, or the shipment at the sum of its packages' billed weights. */
  per: z.enum(["package", "shipment"]),
  rows: z.array(z.tuple([figure], figure)).min(1),
  /** For every started step over the last row, a price by zone; null: heavier is refused. */
  beyond: z.strictObject({ step: positive, rate: figureOrZones }).nullable().default(null),
  /** Several packages priced together per 100 units of weight, when together they are heavy enough. */
  hundredweight: z
    .strictObject({
      /** Sum of the packages' billed weights from which it holds, the least of each package, and their number. */
      leastTotal: figure,
      leastEach: figure,
      leastPieces: z.number().int().min(1),
      /** The least weight of each break, ascending, with a rate per 100 for each zone. */
      rows: z.array(z.tuple([figure], figure)).min(1),
      /** Always, or only where it costs less than the packages one by one. */
      choose: z.enum(["always", "lower"]),
    })
    .nullable()
    .default(null),
})

/** One price for the carrier's own box, whatever its weight up to the limit. */
const byBox = z.strictObject({ by: z.literal("box"), boxes: z.record(code, figureOrZones) })

/** So much for a unit of chargeable weight of the whole shipment, by zone and break, with a minimum. */
const byUnit = z.strictObject({
  by: z.literal("unit"),
  minimum: figureOrZones,
  /** The least weight of each break, ascending from 0. */
  breaks: z.array(figure).min(1),
  /** By zone, a price of one unit of weight for each break. */
  rates: z.record(code, z.array(figure)),
  /** Priced as the next break's least weight where that is less. */
  asWeight: z.boolean(),
})

/** Less than truckload: so much for 100 lb, by zone, freight class and weight break. */
const byClass = z.strictObject({
  by: z.literal("class"),
  breaks: z.array(figure).min(1),
  rates: z.record(code, z.partialRecord(z.enum(freightClasses), z.array(figure))),
  /** The least list charge, by zone. */
  minimum: figureOrZones,
  /** Where a class comes from: the item's own and else the density, or the density whatever the item. */
  classFrom: z.enum(["item", "density"]),
  /** Freight of all kinds: classes that are rated as one agreed class. */
  fak: z.array(z.strictObject({ classes: z.array(z.enum(freightClasses)).min(1), as: z.enum(freightClasses) })),
  /** From so many feet of trailer floor on, the weight counts at least so much for each foot. */
  linearFoot: z.strictObject({ from: figure, weightPerFoot: figure }).nullable().default(null),
  /** Inside of the trailer that floor length is calculated in, in inches. */
  trailer: z.strictObject({ width: positive, height: positive }).default({ width: "96", height: "108" }),
  /** Light and large: from so many cubic feet, under a density, so much weight for each, at one class. */
  cubicCapacity: z
    .strictObject({ from: figure, densityUnder: figure, weightPerFoot: figure, asClass: z.enum(freightClasses) })
    .nullable()
    .default(null),
})

/** Weight or measure: so much for a ton or a cubic meter, whichever is more, by zone. */
const byMeasure = z.strictObject({
  by: z.literal("measure"),
  perTon: figureOrZones,
  /** Revenue tons paid for at least, and the step that they are rounded up to. */
  least: figure,
  step: positive,
})

/** Our own or a hired vehicle: so much for the stop and for each started unit of the way. */
const byWay = z.strictObject({
  by: z.literal("way"),
  stop: figure,
  perUnit: figure,
  unit: z.enum(["km", "mi"]),
  minimum: figure,
})

export const priceSchema = z.discriminatedUnion("by", [byWeight, byBox, byUnit, byClass, byMeasure, byWay])
export type Price = z.infer<typeof priceSchema>
export type PriceBy<K extends Price["by"]> = Extract<Price, { by: K }>

/** What an amount counts. `value` counts every started 100 of declared value over what is included. */
export const amountBases = ["shipment", "package", "hundredweight", "weight-unit", "dry-ice", "value", "share"] as const

export const amountSchema = z
  .strictObject({
    basis: z.enum(amountBases),
    figure: figureOrZones,
    least: figure.optional(),
    most: figure.optional(),
    /** Of `share`: the codes of the charges that it is taken of. */
    of: z.array(code).optional(),
  })
  .refine((one) => one.basis !== "share" || (one.of?.length ?? 0) > 0, "a share says what it is taken of")
export type Amount = z.infer<typeof amountSchema>

export const surchargeSchema = z.strictObject({
  code,
  amount: amountSchema,
  discount: share.default("0"),
  when: conditionSchema,
  /** Of surcharges of one group only the largest is charged for a package. */
  group: code.nullable().default(null),
})
export type Surcharge = z.infer<typeof surchargeSchema>
