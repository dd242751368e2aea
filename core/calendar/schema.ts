import * as z from "zod"
import type { LocalDate, LocalTime } from "./index.ts"

/** A day that the calendar has, `YYYY-MM-DD`, in data from outside. */
export const isoDay = isoDayOr()

/** The same with words of one's own for what is none. */
export function isoDayOr(error?: string) {
  return z.iso.date(error) as z.ZodISODate & { readonly _zod: { readonly output: LocalDate } }
}

/** A time of the wall clock, `HH:MM`, in data from outside. */
export const wallTime = (error: string) =>
  z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, error) as z.ZodString & {
    readonly _zod: { readonly output: LocalTime }
  }
