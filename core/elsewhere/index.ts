import { isPostalItemNumber } from "../barcodes/index.ts"
import { isLocalDate, type LocalDate } from "../calendar/index.ts"
import { identifier } from "../identifier/index.ts"
import { knownCurrency } from "../money/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "../refusal/index.ts"

/** What is said of goods that somebody else carried, as it was typed or stands in a file. */
export interface ElsewhereText {
  readonly carrier: string
  readonly service: string
  /** One number, or several apart by blanks or commas. */
  readonly tracking: string
  readonly shippedOn: string
  readonly cost: string
  readonly currency: string
}

export interface Elsewhere {
  readonly carrier: string
  readonly service: string
  readonly tracking: readonly string[]
  readonly shippedOn: LocalDate
  readonly cost: { readonly amount: string; readonly currency: string } | null
}

/** So many packages one order is recorded with at most. */
const mostNumbers = 50

/** The shape of tracking numbers in general (common practice): letters and figures, 6 to 34 of them, at least four figures. */
const shape = /^(?=(?:.*\d){4})[A-Za-z0-9][A-Za-z0-9.-]{4,32}[A-Za-z0-9]$/

/** Two letters, nine figures, two letters: what looks like a postal item number has to be one. */
const postal = /^[A-Z]{2}\d{9}[A-Z]{2}$/

/**
 * Reads what was typed. Refused where no carrier is named, a number has the shape of none, a postal item number has a
 * wrong check digit (UPU S10), the day is none or still to come, or the cost is no amount; with the field of each.
 *
 * @param today the day at the warehouse
 * @param orderedOn goods don't go before they are ordered
 */
export function readElsewhere(
  text: ElsewhereText,
  today: LocalDate,
  orderedOn: LocalDate | null,
  usual: string,
): Outcome<Elsewhere> {
  const flaws: Reason[] = []
  const carrier = identifier(text.carrier)
  if (carrier === "" || carrier.length > 60) flaws.push(reason("elsewhere.carrier", { field: "carrier" }))
  const tracking = [...new Set(text.tracking.split(/[\s,;]+/).filter(Boolean))]
  const bad = tracking.find((one) => !shape.test(one) || (postal.test(one) && !isPostalItemNumber(one)))
  if (tracking.length === 0) flaws.push(reason("elsewhere.no-tracking", { field: "tracking" }))
  else if (tracking.length > mostNumbers)
    flaws.push(reason("elsewhere.too-many", { most: mostNumbers, field: "tracking" }))
  else if (bad !== undefined) flaws.push(reason("elsewhere.tracking", { number: bad.slice(0, 40), field: "tracking" }))
  const shippedOn = text.shippedOn.trim() || today
  if (!isLocalDate(shippedOn)) flaws.push(reason("elsewhere.day", { field: "shippedOn" }))
  else if (shippedOn > today) flaws.push(reason("elsewhere.future", { field: "shippedOn" }))
  else if (orderedOn !== null && shippedOn < orderedOn)
    flaws.push(reason("elsewhere.before", { day: orderedOn, field: "shippedOn" }))
  const amount = text.cost.trim()
  const currency = text.currency.trim().toUpperCase() || usual
  if (amount !== "" && !/^\d{1,7}(\.\d{1,2})?$/.test(amount)) flaws.push(reason("elsewhere.cost", { field: "cost" }))
  if (amount !== "" && !knownCurrency(currency)) flaws.push(reason("elsewhere.currency", { field: "currency" }))
  if (flaws.length > 0 || !isLocalDate(shippedOn)) return refused(...flaws)
  return accepted({
    carrier,
    service: identifier(text.service).slice(0, 60),
    tracking,
    shippedOn,
    cost: amount === "" ? null : { amount: Number(amount).toFixed(2), currency },
  })
}
