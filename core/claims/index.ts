import { addMonths, format, parseISO } from "date-fns"
import { Decimal } from "decimal.js"
import { z } from "zod"
import { addDays, type LocalDate } from "../calendar/index.ts"
import { type Money, money, roundMoney, sumMoney } from "../money/index.ts"

/** What a carrier is asked to make good: a package that never came, goods that came broken, or too few of them. */
export const claimKinds = ["loss", "damage", "shortage"] as const
export type ClaimKind = (typeof claimKinds)[number]

export const claimStates = ["draft", "filed", "acknowledged", "paid", "denied", "withdrawn"] as const
export type ClaimState = (typeof claimStates)[number]

/** A photo of damaged goods, at most: as a telephone takes it, in bytes and pixels. */
export const mostPhoto = { bytes: 5 * 1024 * 1024, width: 6_000, height: 6_000 } as const

/** Lists that claims stand in. */
export const claimLists = ["draft", "open", "overdue", "settled"] as const
export type ClaimList = (typeof claimLists)[number]

/** What may be asked of a claim next. */
export const nextStates: Readonly<Record<ClaimState, readonly ClaimState[]>> = {
  draft: ["filed", "withdrawn"],
  filed: ["acknowledged", "paid", "denied", "withdrawn"],
  acknowledged: ["paid", "denied", "withdrawn"],
  // one that was denied may be paid after all
  denied: ["paid", "withdrawn"],
  paid: [],
  withdrawn: [],
}

const within = z.object({ n: z.number().int().min(1).max(400), unit: z.enum(["days", "months"]) })
const amount = z
  .string()
  .regex(/^\d{1,9}(\.\d{1,4})?$/)
  .nullable()

/** By when a carrier takes claims, and what it makes good at most. */
export const claimTermsSchema = z.object({
  /** Where claims are sent to; empty: they are filed by hand, such as on the carrier's own page. */
  email: z.string().max(120),
  lossWithin: within,
  damageWithin: within,
  /** Whether the time for a loss runs from the day on which it was shipped, or on which it should have come. */
  lossFrom: z.enum(["shipped", "due"]),
  /** Liability where no value was declared: for a package, for a pound; null: no such limit. */
  perPackage: amount,
  perPound: amount,
  /** Whether the freight of what is lost is paid back. */
  freight: z.boolean(),
})
export type ClaimTerms = z.infer<typeof claimTermsSchema>

/** Where nobody has said a parcel carrier's terms (common practice, no source). */
export const parcelTerms: ClaimTerms = {
  email: "",
  lossWithin: { n: 60, unit: "days" },
  damageWithin: { n: 60, unit: "days" },
  lossFrom: "shipped",
  perPackage: "100",
  perPound: null,
  freight: true,
}
/**
 * Where nobody has said a freight carrier's: nine months, the least that a carrier may set by 49 U.S.C. 14706(e)(1); no
 * limit but the value, as by 14706(a)(1) where none was agreed (both from memory).
 */
export const freightTerms: ClaimTerms = {
  email: "",
  lossWithin: { n: 9, unit: "months" },
  damageWithin: { n: 9, unit: "months" },
  lossFrom: "due",
  perPackage: null,
  perPound: null,
  freight: true,
}

export interface ClaimDays {
  readonly shippedOn: LocalDate
  /** When it should have come; null: nobody said. */
  readonly dueOn: LocalDate | null
  readonly deliveredOn: LocalDate | null
}

/** A day so many months on; where there is none of that number, the last of its month. */
const monthsOn = (date: LocalDate, months: number): LocalDate =>
  format(addMonths(parseISO(date), months), "yyyy-MM-dd") as LocalDate

/**
 * The last day on which a claim can be filed: damage and shortage from the delivery, loss from when it was shipped or
 * should have come.
 *
 * @example fileBy("damage", { shippedOn: "2026-11-19", dueOn: null, deliveredOn: "2026-11-23" }, freightTerms) // 2027-08-23
 */
export function fileBy(kind: ClaimKind, days: ClaimDays, terms: ClaimTerms): LocalDate {
  const from =
    kind === "loss"
      ? terms.lossFrom === "due"
        ? (days.dueOn ?? days.shippedOn)
        : days.shippedOn
      : (days.deliveredOn ?? days.shippedOn)
  const { n, unit } = kind === "loss" ? terms.lossWithin : terms.damageWithin
  return unit === "days" ? addDays(from, n) : monthsOn(from, n)
}

/**
 * By when a carrier acknowledges a claim (30 days) and pays, declines or makes an offer (120 days): 49 CFR 370.5(a) and
 * 370.9(a), for freight carriers (from memory); others are reminded by the same.
 */
export const answerDays = { filed: 30, acknowledged: 120 } as const
export const acknowledgedBy = (filedOn: LocalDate): LocalDate => addDays(filedOn, answerDays.filed)
export const answeredBy = (filedOn: LocalDate): LocalDate => addDays(filedOn, answerDays.acknowledged)

/** Goods that are claimed, at what the order says they cost. */
export interface ClaimLine {
  readonly pieces: number
  readonly unitValue: Decimal.Value
}

/** The value of a line, to the cent. */
export const lineValue = ({ pieces, unitValue }: ClaimLine, currency: string): Money =>
  roundMoney(money(new Decimal(unitValue).mul(pieces), currency))

export interface Claimed {
  readonly lines: readonly ClaimLine[]
  readonly currency: string
  /** What carrying the whole shipment cost, and what all goods in it are worth. */
  readonly freight: Decimal.Value
  readonly shipmentValue: Decimal.Value
  /** What was declared to the carrier of the packages concerned, all together; null: nothing. */
  readonly declared: Decimal.Value | null
  /** How many of them nothing was declared of, and what these weigh. */
  readonly undeclared: { readonly packages: number; readonly pounds: Decimal.Value }
}

export interface ClaimAmounts {
  readonly goods: Money
  /** The share of the freight that goes with the goods. */
  readonly freight: Money
  /** What is claimed. */
  readonly total: Money
  /** What the carrier owes at most for the goods; null: their value. */
  readonly limit: Money | null
  /** What can be expected: no more of the goods than the limit. */
  readonly expected: Money
}

/**
 * What a claim comes to. Goods at their value to the cent, line by line; of the freight the share that is theirs by value,
 * no more than all of it. A carrier owes what was declared, and for packages of which nothing was its limit for packages or
 * pounds, whichever is more.
 */
export function claimAmounts(claimed: Claimed, terms: ClaimTerms): ClaimAmounts {
  const { currency } = claimed
  const goods = sumMoney(
    claimed.lines.map((line) => lineValue(line, currency)),
    currency,
  )
  const whole = new Decimal(claimed.shipmentValue)
  const share = whole.gt(0) ? Decimal.min(1, goods.amount.div(whole)) : new Decimal(0)
  const freight = roundMoney(money(terms.freight ? share.mul(claimed.freight) : 0, currency))
  const { packages, pounds } = claimed.undeclared
  const limits = [
    ...(terms.perPackage === null ? [] : [new Decimal(terms.perPackage).mul(packages)]),
    ...(terms.perPound === null ? [] : [new Decimal(terms.perPound).mul(pounds)]),
  ]
  const bounded = packages === 0 || limits.length > 0
  const most = Decimal.max(0, ...limits).add(claimed.declared ?? 0)
  const limit = bounded ? roundMoney(money(most, currency)) : null
  const owed = limit ? Decimal.min(limit.amount, goods.amount) : goods.amount
  return {
    goods,
    freight,
    total: sumMoney([goods, freight], currency),
    limit,
    expected: sumMoney([money(owed, currency), freight], currency),
  }
}
