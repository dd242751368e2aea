import { figureFor, type Service, type Surcharge } from "../../tariff/index.ts"
import { type Amounts, type Share, share } from "./amounts.ts"
import { type CompiledCondition, compileCondition, type LaneFacts, type Test, type Together } from "./conditions.ts"
import { ceilOf, counted, decimalsOf, plus, scaleOf, times } from "./exact.ts"
import type { Counted } from "./measuring.ts"
import { partsInKilogram } from "./packages.ts"
import type { BaseCharges } from "./pricing.ts"

type Basis = Surcharge["amount"]["basis"]

/** A surcharge of a zone in whole numbers. */
interface Rule {
  readonly code: string
  readonly group: string | null
  readonly each: boolean
  readonly when: CompiledCondition
  /** What it comes to; null where the tariff has no figure for the zone. */
  readonly amount: ((asked: Asked) => Charge | null) | null
}

/** A surcharge with its condition as the lane leaves it. */
export interface OpenRule {
  readonly rule: Rule
  /** Null where it is due whatever the packages. */
  readonly test: Test | null
}

interface Charge {
  readonly list: number
  readonly contract: number
}

/** A charge that is due, with the package that it is for. */
interface Due extends Charge {
  readonly code: string
  readonly group: string | null
  readonly one: Counted | null
}

interface Asked {
  readonly one: Counted | null
  readonly base: BaseCharges
  readonly due: readonly Due[]
}

const perPackage: ReadonlySet<Basis> = new Set(["package", "dry-ice", "value"])

/** The surcharges of a service in a zone, in the order in which they are charged: shares of other charges last. */
export function compileSurcharges(service: Service, zone: string, amounts: Amounts): readonly Rule[] {
  const shares = service.surcharges.filter((one) => one.amount.basis === "share")
  return [...service.surcharges.filter((one) => one.amount.basis !== "share"), ...shares].map((rule) => ({
    code: rule.code,
    group: rule.group,
    each: perPackage.has(rule.amount.basis),
    when: compileCondition(rule.when, service),
    amount: compileAmount(rule, service, zone, amounts),
  }))
}

/** The rules that may be due on a lane. */
export function openRules(rules: readonly Rule[], lane: LaneFacts): readonly OpenRule[] {
  const open: OpenRule[] = []
  for (const rule of rules) {
    const settled = rule.when(lane)
    if (settled !== false) open.push({ rule, test: settled === true ? null : settled })
  }
  return open
}

/** A charge by code, in parts of the tariff's money. */
export interface CodedCharge extends Charge {
  readonly code: string
}

/** The surcharges of a shipment, of a group the largest for each package; null where one is due and has no figure. */
export function dueCharges(
  rules: readonly OpenRule[],
  base: BaseCharges,
  all: Together,
): readonly CodedCharge[] | null {
  const due: Due[] = []
  const add = ({ rule, test }: OpenRule, one: Counted | null): boolean => {
    if (test && !test(one, all)) return true
    if (!rule.amount) return false
    const charge = rule.amount({ one, base, due })
    if (charge) due.push({ code: rule.code, group: rule.group, one, list: charge.list, contract: charge.contract })
    return true
  }
  for (const open of rules) {
    if (!open.rule.each) {
      if (!add(open, null)) return null
    } else for (const one of all.packages) if (!add(open, one)) return null
  }
  return due.some((one) => one.group !== null) ? due.filter((one) => !beaten(one, due)) : due
}

/** Of a group only the largest is charged, for each package by itself; the first of equal ones. */
function beaten(one: Due, due: readonly Due[]): boolean {
  if (one.group === null) return false
  let before = true
  for (const other of due) {
    if (other === one) before = false
    else if (
      other.group === one.group &&
      other.one === one.one &&
      (other.list > one.list || (before && other.list === one.list))
    )
      return true
  }
  return false
}

function compileAmount(
  { amount, discount }: Surcharge,
  service: Service,
  zone: string,
  amounts: Amounts,
): ((asked: Asked) => Charge | null) | null {
  const text = figureFor(amount.figure, zone)
  if (text === null) return null
  const own = scaleOf(decimalsOf(text))
  const figure = counted(text, own)
  const off = share(discount)
  const least = amount.least === undefined ? 0 : amounts.lineOf(amount.least)
  const most = amount.most === undefined ? Number.POSITIVE_INFINITY : amounts.lineOf(amount.most)
  const atLeast = Number(amount.least ?? 0) > 0
  const never = amount.most !== undefined && Number(amount.most) === 0
  /** A line keeps the order of amounts, so that it can be bounded after it is rounded. */
  const bounded = (line: number) => Math.min(Math.max(line, least), most)
  const charged = (list: number, contract = list): Charge => ({
    list,
    contract: off.over === 0 ? contract : amounts.less(contract, off),
  })
  /** `over / under` of the currency within the bounds; null where it comes to nothing. */
  const ofAmount = (over: number, under: number): Charge | null =>
    never || (over === 0 && !atLeast) ? null : charged(bounded(amounts.line(over, under)))

  switch (amount.basis) {
    case "shipment":
    case "package": {
      const fixed = figure === 0 ? null : charged(amounts.line(figure, own))
      return () => fixed
    }
    case "hundredweight":
      return ({ base }) => ofAmount(times(figure, base.weight), times(times(own, base.weightScale), 100))
    case "weight-unit":
      return ({ base }) => ofAmount(times(figure, base.weight), times(own, base.weightScale))
    case "dry-ice":
      return ({ one }) => {
        const kilograms = one ? ceilOf(one.one.dryIce, partsInKilogram) : 0
        return kilograms === 0 ? null : ofAmount(times(figure, kilograms), own)
      }
    case "value": {
      const included = counted(service.cover.included, 1_000_000)
      return ({ one }) => {
        const over = (one?.one.declared ?? 0) - included
        return over <= 0 ? null : ofAmount(times(figure, ceilOf(over, 100_000_000)), own)
      }
    }
    case "share":
      return shareOfCharges(new Set(amount.of), { over: figure, under: own })
  }

  function shareOfCharges(of: ReadonlySet<string>, part: Share) {
    const ofBase = of.has("base")
    return ({ base, due }: Asked): Charge | null => {
      let [list, contract] = [0, 0]
      if (ofBase)
        for (const one of base.charges) {
          list = plus(list, one.list)
          contract = plus(contract, one.contract)
        }
      for (const one of due)
        if (of.has(one.code) && !beaten(one, due)) {
          list = plus(list, one.list)
          contract = plus(contract, one.contract)
        }
      if (never || (!atLeast && (list === 0 || part.over === 0))) return null
      return charged(bounded(amounts.shareOf(list, part)), bounded(amounts.shareOf(contract, part)))
    }
  }
}
