import type { HandoverRules } from "./handover.ts"

/**
 * A carrier's published tariff, as the carrier itself reads it: types and arithmetic of its own, apart from the
 * application's on purpose.
 */
export type PostalRow = [country: string, from: string, to: string]

export type Chart =
  | { by: "postal"; origins: { from: PostalRow; ranges: [...PostalRow, string][] }[] }
  | { by: "distance"; unit: "km" | "mi"; bands: [string, string][] }
  | { by: "lane"; regions: Record<string, PostalRow[]>; lanes: [string, string, string][] }

export type Zoned = string | Record<string, string>

export type Price =
  | {
      by: "weight"
      per: "package" | "shipment"
      rows: string[][]
      beyond?: { step: string; rate: Zoned } | null
      hundredweight?: {
        leastTotal: string
        leastEach: string
        leastPieces: number
        rows: string[][]
        choose: "always" | "lower"
      } | null
    }
  | { by: "box"; boxes: Record<string, Zoned> }
  | { by: "unit"; minimum: Zoned; breaks: string[]; rates: Record<string, string[]>; asWeight: boolean }
  | {
      by: "class"
      breaks: string[]
      rates: Record<string, Record<string, string[]>>
      minimum: Zoned
      classFrom: "item" | "density"
      fak: { classes: string[]; as: string }[]
      linearFoot?: { from: string; weightPerFoot: string } | null
      trailer?: { width: string; height: string }
      cubicCapacity?: { from: string; densityUnder: string; weightPerFoot: string; asClass: string } | null
    }
  | { by: "measure"; perTon: Zoned; least: string; step: string }
  | { by: "way"; stop: string; perUnit: string; unit: "km" | "mi"; minimum: string }

export type When =
  | { all: When[] }
  | { any: When[] }
  | { not: When }
  | {
      fact: string
      figure?: string
      option?: string
      area?: string
      sizeClass?: string
      countries?: string[]
      zones?: string[]
      packaging?: string[]
      from?: string
      until?: string
    }

export interface Surcharge {
  code: string
  amount: { basis: string; figure: Zoned; least?: string; most?: string; of?: string[] }
  discount?: string
  group?: string | null
  when: When
}

export interface Service {
  code: string
  chart: string
  zones: string[]
  lengthUnit: "in" | "cm"
  weighing: { unit: "lb" | "kg"; steps: { upTo: string | null; step: string }[]; least?: string }
  dimensional: { step: string; rounding: "up" | "nearest"; divisor: string; threshold?: string | null } | null
  limits: Partial<Record<"weight" | "total" | "length" | "lengthAndGirth" | "height" | "value", string | null>> & {
    pieces?: number | null
  }
  sizeClasses?: { code: string; when: When; leastWeight?: string | null }[]
  price: Price
  discounts?: [string, string][]
  leastNet?: string
  surcharges?: Surcharge[]
  fuel: { table: string; on: string[] } | null
  taxes?: string[]
  reach: { countries: string[]; statesNotServed?: string[]; postBox: boolean; military: boolean }
  goods: {
    handling: "parcel" | "pallet" | "any"
    dangerous: "none" | "limited-quantity" | "all"
    classes?: string[]
    regime?: "road" | "air" | null
    categories?: { category: string; needs?: string[] }[]
    only?: string | null
  }
  options?: { option: string; excludes?: string[]; requires?: string[] }[]
  cover: { included: string; most: string }
  returns?: { paid: "at-once" | "when-scanned"; validDays: number } | null
}

export interface Published {
  carrier: string
  currency: string
  country: string
  validFrom: string
  validTo?: string | null
  areas?: Record<string, PostalRow[]>
  charts: Record<string, Chart>
  fuel?: Record<string, { weeks: [string, string][] } | { prices: [string, string][]; steps: [string, string][] }>
  taxes?: Record<string, { share: string; countries?: string[] }>
  handover?: HandoverRules
  services: Service[]
}

export interface AskedPackage {
  readonly weightLb: string
  readonly sizeIn: readonly string[]
  readonly packaging?: string | null
  readonly handling?: string
  readonly freightClass?: string | null
  readonly stackable?: boolean
  readonly dryIceKg?: string | null
  readonly declared?: string | null
}

export interface QuoteRequest {
  readonly service: string
  readonly shipDate: string
  readonly sender: { readonly postalCode: string; readonly country: string }
  readonly receiver: {
    readonly postalCode: string
    readonly state: string
    readonly country: string
    readonly lines: readonly string[]
    readonly residential: boolean
  }
  readonly packages: readonly AskedPackage[]
  readonly options?: readonly string[]
  readonly dangerous?: readonly {
    readonly hazard: string
    readonly limitedQuantity: boolean
    readonly regulatedByAir?: boolean
  }[]
  /** Categories of goods that are treated apart, and what there is for them. */
  readonly categories?: {
    readonly some: readonly string[]
    readonly all: string | null
    readonly has: readonly string[]
  } | null
  /** What the goods are worth. */
  readonly value?: string | null
  /** The way in kilometres, where it is asked by distance. */
  readonly distanceKm?: string | null
}

export class NotCarried extends Error {}

export const cents = (text: string): number => Math.round(Number(text) * 100)
/** Integer share in ten-thousandths. */
export const tenThousandths = (text: string): number => Math.round(Number(text) * 10_000)
/** `amount × share`, rounded half up to whole cents. */
export const part = (amount: number, share: number): number => Math.floor((amount * share + 5_000) / 10_000)
/** Up to a multiple of a step, not disturbed by the last digits of a binary fraction. */
export const stepUp = (figure: number, step: number): number =>
  Math.round(Math.ceil(Math.round((figure / step) * 1e7) / 1e7) * step * 1e9) / 1e9
/** Half up to whole cents of an amount that may have fractions of one. */
export const wholeCents = (amount: number): number => Math.floor(Math.round(amount * 1e6) / 1e6 + 0.5)

export const zoned = (figures: Zoned, zone: string): string | undefined =>
  typeof figures === "string" ? figures : figures[zone]

const code = (text: string) => text.toUpperCase().replace(/[^A-Z0-9]/g, "")
export const within = (
  [country, from, to]: readonly string[],
  place: { country: string; postalCode: string },
): boolean => {
  const beginning = code(place.postalCode).slice(0, from?.length)
  return (
    country === place.country &&
    beginning >= (from ?? "") &&
    beginning <= (to ?? "") &&
    beginning.length === from?.length
  )
}
