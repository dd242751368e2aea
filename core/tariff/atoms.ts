import { z } from "zod"
import { isoDay, wallTime } from "../calendar/schema.ts"

/** The small parts that tariff documents are made of. Figures are text, so that no binary fraction comes near them. */

export const figure = z
  .string()
  .regex(/^\d{1,9}(\.\d{1,6})?$/, "a figure is text such as 12.50")
  .meta({ description: "A figure of zero or more as text, such as 12.50" })

/** A figure that something is divided by or rounded to. */
export const positive = figure
  .refine((text) => Number(text) > 0, "it is more than zero")
  .meta({ description: "A figure over zero as text" })

export const share = figure
  .refine((text) => Number(text) <= 1, "a share lies between 0 and 1")
  .meta({ description: "A share between 0 and 1 as text: 0.35 is 35 %" })

export const code = z
  .string()
  .regex(/^[A-Za-z0-9][A-Za-z0-9 ._/-]{0,31}$/, "a code has up to 32 letters, figures and . _ / -")
  .refine((text) => !(text in Object.prototype), "this word can't be used as a code")
  .meta({ description: "A short name that other parts of the document refer to" })

export const words = z.string().trim().min(1).max(120)
export const date = isoDay
export const time = wallTime("a time is written HH:MM")
export const country = z.string().regex(/^[A-Z]{2}$/, "a country is its two letters by ISO 3166-1")
/** ISO weekday numbers, 1 Monday to 7 Sunday. */
export const weekdays = z.array(z.number().int().min(1).max(7)).min(1)

/** The beginning of a postal code. */
export const postal = z
  .string()
  .regex(/^[A-Z0-9]{0,10}$/, "the beginning of a postal code: capitals and figures without spaces")

/**
 * Postal codes of one country from one beginning to another, both included: `["US", "535", "588"]`. Only as many
 * characters are compared as the bounds have; empty bounds mean the whole country.
 */
export const postalRange = z
  .tuple([country, postal, postal])
  .refine(([, from, to]) => from.length === to.length, "both ends of a range have the same number of characters")
  .refine(([, from, to]) => from <= to, "a range begins at its lower end")
  .meta({ description: "Country, first and last beginning of a postal code, both included; empty: the whole country" })
export type PostalRange = z.infer<typeof postalRange>

export interface Place {
  readonly country: string
  readonly postalCode: string
}

/** A postal code as ranges compare it: capitals and figures only. */
export const comparable = (postalCode: string): string => postalCode.toUpperCase().replace(/[^A-Z0-9]/g, "")

/** Whether a place lies in a range. */
export const inRange = (range: PostalRange, place: Place): boolean => rangeTest(place)(range)

/** The same for many ranges of one place, whose postal code is read once. */
export function rangeTest(place: Place): (range: readonly [string, string, string, ...unknown[]]) => boolean {
  const code = comparable(place.postalCode)
  return ([of, from, to]) => {
    if (of !== place.country) return false
    const beginning = code.slice(0, from.length)
    return beginning.length === from.length && from <= beginning && beginning <= to
  }
}
