import { Decimal } from "decimal.js"
import { type Reason, reason } from "../refusal/index.ts"

/** How far an order of a shipping run is, from what keeps it out for good to what is done. */
export const runSteps = [
  /** It is canceled, with another warehouse, or its labels were bought elsewhere: nothing is to be done here. */
  "out",
  /** It goes with another order of the run, as one shipment. */
  "with",
  "stopped",
  "customs",
  "not-picked",
  "not-packed",
  "size",
  "weight",
  /** A carrier refused it, or its price changed: to be looked at, then bought again. */
  "failed",
  /** It is being packed or rated in the background. */
  "waiting",
  "no-service",
  /** It was changed after it was rated, or its truck has left. */
  "stale",
  /** A paper that its service needs lacks something. */
  "papers",
  /** The carrier's prepaid balance does not reach. */
  "balance",
  "ready",
  /** It is bought with the run and waits for its turn, or for the carrier. */
  "asked",
  "buying",
  "bought",
] as const
export type RunStep = (typeof runSteps)[number]

/** A service's answer that a run goes by. */
export interface RunOffer {
  readonly carrier: string
  /** What we pay; null where another does. */
  readonly cost: string | null
  readonly late: boolean
  /** What is left now of the carrier's prepaid balance; null where it is paid by bill. */
  readonly balance: string | null
  /** The truck that it would leave with has left, or was closed. */
  readonly left: boolean
  /** What must be done with its packages for this service; null: nothing. */
  readonly needs: "pallet" | "loose" | null
}

/** What is known of an order in a run. */
export interface RunFacts {
  readonly state: "waiting" | "rated" | "refused" | "failed" | "asked" | "buying" | "bought"
  /** What the rating or the carrier said last. */
  readonly said: readonly Reason[]
  /** Why it is none of this run's any more; null: it is. */
  readonly out: Reason | null
  /** Number of the order that it is shipped with; null: it goes by itself, or leads. */
  readonly lead: string | null
  readonly stops: readonly Reason[]
  /** Pieces that are ordered, picked, and in packages. */
  readonly ordered: number
  readonly picked: number
  readonly packed: number
  readonly packages: readonly { readonly number: number; readonly flaws: readonly Reason[] }[]
  /** The shipment's version now, and the one that was rated; null where there was no shipment. */
  readonly version: number | null
  readonly ratedVersion: number | null
  readonly offer: RunOffer | null
}

export interface HowFar {
  readonly step: RunStep
  readonly reasons: readonly Reason[]
}

const ofWeight = (flaw: Reason): boolean => flaw.code.startsWith("flaw.weight") || flaw.code === "flaw.not-weighed"

/**
 * How far an order of a run is, and why it is no further. `spent` is what the orders before it in the run take of its
 * carrier's balance.
 */
export function howFar(facts: RunFacts, spent: Decimal = new Decimal(0)): HowFar {
  const at = (step: RunStep, ...reasons: readonly Reason[]): HowFar => ({ step, reasons })
  if (facts.state === "bought" || facts.state === "buying" || facts.state === "asked")
    return at(facts.state, ...facts.said)
  if (facts.out) return at("out", facts.out)
  if (facts.lead !== null) return at("with", reason("shipping-run.with", { orderNumber: facts.lead }))
  const customs = facts.stops.filter((one) => /^(customs|filing)\./.test(one.code))
  if (customs.length > 0 && customs.length === facts.stops.length) return at("customs", ...customs)
  if (facts.stops.length > 0) return at("stopped", ...facts.stops)
  if (facts.picked < facts.ordered)
    return at("not-picked", reason("shipping-run.not-picked", { n: facts.picked, of: facts.ordered }))
  if (facts.packages.length === 0 || facts.packed < facts.ordered)
    return facts.state === "waiting"
      ? at("waiting")
      : at(
          "not-packed",
          ...facts.said.filter((one) => one.code.startsWith("pack")),
          ...(facts.packed > 0 ? [reason("shipping-run.not-packed", { n: facts.packed, of: facts.ordered })] : []),
        )
  const flaws = facts.packages.flatMap((one) =>
    one.flaws
      .filter((flaw) => flaw.code.startsWith("flaw."))
      .map((flaw) => ({ code: flaw.code, values: { ...flaw.values, package: String(one.number) } })),
  )
  if (flaws.length > 0) return at(flaws.every(ofWeight) ? "weight" : "size", ...flaws)
  if (facts.state === "failed") return at("failed", ...facts.said)
  if (facts.state === "waiting") return at("waiting")
  if (facts.version !== facts.ratedVersion) return at("stale")
  if (facts.offer?.left) return at("stale", reason("shipping-run.truck-left"))
  if (facts.state === "refused" || !facts.offer) return at("no-service", ...facts.said)
  const { needs, balance, cost } = facts.offer
  if (needs) return at("not-packed", reason(needs === "pallet" ? "buy.build-pallet" : "buy.take-apart"))
  const lacking = facts.said.filter((one) => !one.code.startsWith("pack"))
  if (lacking.length > 0) return at("papers", ...lacking)
  const left = balance === null || cost === null ? null : new Decimal(balance).sub(spent)
  if (left?.lt(cost as string))
    return at(
      "balance",
      reason("shipping-run.balance", {
        carrier: facts.offer.carrier,
        left: Decimal.max(0, left).toFixed(2),
        lacks: new Decimal(cost as string).sub(left).toFixed(2),
      }),
    )
  return at("ready")
}

/** How far all orders of a run are, in their order: those before take of a prepaid balance what those after have left. */
export function howFarAll(rows: readonly RunFacts[]): HowFar[] {
  const spent = new Map<string, Decimal>()
  return rows.map((facts) => {
    const { offer } = facts
    const before = (offer && spent.get(offer.carrier)) ?? new Decimal(0)
    const found = howFar(facts, before)
    // what is asked for already is not taken from the balance yet
    if (offer?.cost && ["ready", "asked", "buying"].includes(found.step))
      spent.set(offer.carrier, before.add(offer.cost))
    return found
  })
}

/** What a row of a run costs, once it is ready or bought. */
export interface RunCost {
  readonly carrier: string
  readonly packages: number
  /** What we pay, and what the customer is charged, where we do and he is. */
  readonly cost: string | null
  readonly charged: string | null
  readonly late: boolean
}

export interface RunTotals {
  readonly shipments: number
  readonly packages: number
  readonly late: number
  readonly cost: string
  readonly charged: string
}

/** What rows come to, in all and by carrier, the carriers by their names. Amounts are in one currency, to the cent. */
export function runTotals(rows: readonly RunCost[]): {
  readonly all: RunTotals
  readonly carriers: readonly (RunTotals & { readonly carrier: string })[]
} {
  const carriers = [...new Set(rows.map((row) => row.carrier))].sort()
  return {
    all: sumOf(rows),
    carriers: carriers.map((carrier) => ({ carrier, ...sumOf(rows.filter((row) => row.carrier === carrier)) })),
  }
}

const sumOf = (rows: readonly RunCost[]): RunTotals => {
  const sum = (amounts: readonly (string | null)[]) =>
    amounts.reduce((all, one) => (one === null ? all : all.add(one)), new Decimal(0)).toFixed(2)
  return {
    shipments: rows.length,
    packages: rows.reduce((all, row) => all + row.packages, 0),
    late: rows.filter((row) => row.late).length,
    cost: sum(rows.map((row) => row.cost)),
    charged: sum(rows.map((row) => row.charged)),
  }
}

/** A label of a run as it is sorted for printing. */
export interface RunLabel {
  readonly documentId: number
  /** The place of its order in the run. */
  readonly position: number
  readonly package: number
  /** When its package was closed. */
  readonly packedAt: Date | null
  readonly door: string
  readonly cutOff: Date | null
}

export const printOrders = ["packing", "doors"] as const
export type PrintOrder = (typeof printOrders)[number]

/**
 * Labels in the order in which their packages were packed, or by the truck that they leave with, the first to leave
 * first; the packages of a shipment stay together, by their numbers.
 */
export function inPrintOrder<Label extends RunLabel>(labels: readonly Label[], by: PrintOrder): Label[] {
  // a shipment is packed when its first package is
  const packedAt = new Map<number, number>()
  for (const one of labels) {
    const at = one.packedAt?.getTime() ?? Number.POSITIVE_INFINITY
    packedAt.set(one.position, Math.min(packedAt.get(one.position) ?? Number.POSITIVE_INFINITY, at))
  }
  const time = (one: Label) => packedAt.get(one.position) ?? 0
  const ways: readonly ((a: Label, b: Label) => number)[] = [
    ...(by === "doors"
      ? [
          (a: Label, b: Label) => compare(a.cutOff?.getTime() ?? 0, b.cutOff?.getTime() ?? 0),
          (a: Label, b: Label) => compare(a.door, b.door),
        ]
      : []),
    (a, b) => compare(time(a), time(b)),
    (a, b) => compare(a.position, b.position),
    (a, b) => compare(a.package, b.package),
  ]
  return [...labels].sort((a, b) => {
    for (const way of ways) {
      const found = way(a, b)
      if (found !== 0) return found
    }
    return 0
  })
}

const compare = <T extends number | string>(a: T, b: T): number => (a < b ? -1 : a > b ? 1 : 0)
