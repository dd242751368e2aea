import { Decimal } from "decimal.js"
import { accepted, type Outcome, type Reason, reason, refused } from "../refusal/index.ts"
import { figureFor, type Surcharge } from "../tariff/index.ts"
import { massIn } from "../units/index.ts"
import { type Charge, lessShare, lineAmount, percent } from "./charge.ts"
import { type Situation, whyHolds } from "./conditions.ts"
import type { Measured } from "./measures.ts"

/** A surcharge that is due, before its group is looked at. */
interface Due extends Charge {
  readonly group: string | null
}

/**
 * The surcharges of a shipment: those on a package for each that they hold for, those on the shipment once, shares of
 * other charges last. Of a group only the largest is charged, for each package by itself. Refused where an amount is
 * due and the tariff has none for the zone.
 */
export function surcharges(situation: Situation, base: readonly Charge[], weight: Decimal): Outcome<readonly Charge[]> {
  const { service } = situation
  const due: Due[] = []
  const missing: Reason[] = []
  const shares = service.surcharges.filter((one) => one.amount.basis === "share")
  for (const rule of [...service.surcharges.filter((one) => one.amount.basis !== "share"), ...shares]) {
    for (const one of perPackage.has(rule.amount.basis) ? situation.packages : [null]) {
      const why = whyHolds(rule.when, { ...situation, one })
      if (!why) continue
      const figure = amountOf(rule, situation, one, weight, [...base, ...largest(due)])
      if (figure === null) missing.push(reason("rate.no-surcharge-rate", { code: rule.code, zone: situation.zone }))
      else if (figure.amount.gt(0)) due.push(dueCharge(rule, situation, one, figure, why))
    }
  }
  return missing.length > 0 ? refused(...missing) : accepted(largest(due))
}

const perPackage: ReadonlySet<Surcharge["amount"]["basis"]> = new Set(["package", "dry-ice", "value"])

/** What a surcharge comes to at list, with the words for it; null where the tariff has no figure for the zone. */
function amountOf(
  { amount }: Surcharge,
  { zone, service }: Situation,
  one: Measured | null,
  weight: Decimal,
  soFar: readonly Charge[],
): { amount: Decimal; contractAmount?: Decimal; why: Reason } | null {
  const text = figureFor(amount.figure, zone)
  if (text === null) return null
  const figure = new Decimal(text)
  const bounded = (value: Decimal) =>
    Decimal.min(Decimal.max(value, amount.least ?? 0), amount.most ?? Number.POSITIVE_INFINITY)
  const unit = service.weighing.unit
  const bounds = { least: amount.least ?? "", most: amount.most ?? "" }
  switch (amount.basis) {
    case "shipment":
    case "package":
      return { amount: figure, why: reason(`why.${amount.basis}`, { figure: text }) }
    case "hundredweight":
      return {
        amount: bounded(figure.mul(weight).div(100)),
        why: reason("why.per-hundred", { figure: text, weight: weight.toString(), unit, ...bounds }),
      }
    case "weight-unit":
      return {
        amount: bounded(figure.mul(weight)),
        why: reason("why.per-weight", { figure: text, weight: weight.toString(), unit, ...bounds }),
      }
    case "dry-ice": {
      const kilograms = one?.one.dryIce ? massIn(one.one.dryIce, "kg").ceil() : new Decimal(0)
      return {
        amount: kilograms.isZero() ? kilograms : bounded(figure.mul(kilograms)),
        why: reason("why.dry-ice", { figure: text, kilograms: kilograms.toString(), ...bounds }),
      }
    }
    case "value": {
      const declared = one?.one.declared?.amount ?? new Decimal(0)
      const over = declared.sub(service.cover.included)
      const hundreds = over.lte(0) ? new Decimal(0) : over.div(100).ceil()
      return {
        amount: hundreds.isZero() ? hundreds : bounded(figure.mul(hundreds)),
        why: reason("why.value", {
          figure: text,
          hundreds: hundreds.toString(),
          declared: declared.toFixed(2),
          included: service.cover.included,
          ...bounds,
        }),
      }
    }
    case "share": {
      const named = soFar.filter((charge) => amount.of?.includes(charge.code))
      const sum = (side: "list" | "contract") => named.reduce((all, one) => all.add(one[side].amount), new Decimal(0))
      return {
        amount: bounded(sum("list").mul(figure)),
        contractAmount: bounded(sum("contract").mul(figure)),
        why: reason("why.share", { share: percent(text), of: sum("contract").toFixed(2), ...bounds }),
      }
    }
  }
}

function dueCharge(
  rule: Surcharge,
  { tariff }: Situation,
  one: Measured | null,
  figure: { amount: Decimal; contractAmount?: Decimal; why: Reason },
  why: readonly Reason[],
): Due {
  const list = lineAmount(tariff, figure.amount)
  const contract = figure.contractAmount ? lineAmount(tariff, figure.contractAmount) : list
  return {
    code: rule.code,
    group: rule.group,
    package: one?.one.number ?? null,
    list,
    contract: Number(rule.discount) === 0 ? contract : lessShare(tariff, contract, rule.discount),
    why: [
      figure.why,
      ...why,
      ...(Number(rule.discount) === 0
        ? []
        : [reason("why.discount", { share: percent(rule.discount), list: list.amount.toFixed(2) })]),
    ],
  }
}

/** Of each group, for each package by itself, only the largest; the first of equal ones. */
function largest(due: readonly Due[]): Charge[] {
  const beaten = (one: Due) =>
    one.group !== null &&
    due.some(
      (other) =>
        other !== one &&
        other.group === one.group &&
        other.package === one.package &&
        (other.list.amount.gt(one.list.amount) ||
          (other.list.amount.eq(one.list.amount) && due.indexOf(other) < due.indexOf(one))),
    )
  return due.filter((one) => !beaten(one)).map(({ group, ...charge }) => charge)
}
