import { z } from "zod"
import type { LocalDate } from "../calendar/index.ts"
import { date, figure, share } from "./atoms.ts"

/** Shares as the carrier publishes them: each holds from its day until the next. */
const weekly = z.strictObject({ weeks: z.array(z.tuple([date, share])).min(1) })

/** A price of fuel from each week on, and the share that goes with a price: each from its price until the next. */
const byPrice = z.strictObject({
  prices: z.array(z.tuple([date, figure])).min(1),
  steps: z.array(z.tuple([figure, share])).min(1),
})

export const fuelTableSchema = z.union([weekly, byPrice])
export type FuelTable = z.infer<typeof fuelTableSchema>

export interface FuelShare {
  readonly share: string
  /** The first day of the week whose figure holds. */
  readonly since: LocalDate
  /** The price of fuel that the share goes with, where the table goes by price. */
  readonly price: string | null
}

/**
 * The fuel share on a day: the last published one holds until the next. Null before the table begins, or where the
 * price lies under its first step.
 */
export function fuelOn(table: FuelTable, day: LocalDate): FuelShare | null {
  if ("weeks" in table) {
    const week = latest(table.weeks, day)
    return week ? { share: week[1], since: week[0], price: null } : null
  }
  const week = latest(table.prices, day)
  if (!week) return null
  const step = table.steps.filter(([atLeast]) => Number(atLeast) <= Number(week[1])).at(-1)
  return step ? { share: step[1], since: week[0], price: week[1] } : null
}

const latest = (rows: readonly [LocalDate, string][], day: LocalDate) =>
  rows.reduce<[LocalDate, string] | null>(
    (last, row) => (row[0] <= day && (last === null || row[0] > last[0]) ? row : last),
    null,
  )
