import { figureFor, type PriceBy } from "../../tariff/index.ts"
import type { Amount } from "./amounts.ts"
import { ceilOf, counted, decimalsOf, floorOf, mostDecimals, plus, scaleOf, times } from "./exact.ts"
import { type BaseCharges, type Billed, type Compiling, sumOf, type ZonePrice } from "./pricing.ts"

/** A table of weight and zone, and hundredweight: the same as `prices/byWeight`. */
export function byWeight(price: PriceBy<"weight">, asked: Compiling): ZonePrice {
  const at = tableOf(price, asked)
  const joined = price.hundredweight ? hundredweight(price.hundredweight, asked) : null
  const { scale } = asked
  const single = ({ packages }: Billed): BaseCharges | null => {
    if (price.per === "shipment") {
      const weight = sumOf(packages, (one) => one.billed)
      const charge = at(weight)
      return charge && { charges: [charge], perPackage: false, weight, weightScale: scale }
    }
    const charges: Amount[] = []
    let weight = 0
    for (const one of packages) {
      const charge = at(one.billed)
      if (!charge) return null
      charges.push(charge)
      weight += one.billed
    }
    return { charges, perPackage: true, weight, weightScale: scale }
  }
  if (!joined) return single
  return (billed) => {
    const apart = single(billed)
    const together = joined(billed)
    if (!together) return apart
    if (!apart || price.hundredweight?.choose === "always") return together
    return contractOf(together) < contractOf(apart) ? together : apart
  }
}

const contractOf = ({ charges }: BaseCharges): number => charges.reduce((sum, one) => sum + one.contract, 0)

/** The charge at a weight: of the first row that reaches it, or of the last and each started step beyond. */
function tableOf(
  { rows, beyond }: PriceBy<"weight">,
  { service, zone, scale, amounts, charge }: Compiling,
): (weight: number) => Amount | null {
  const column = service.zones.indexOf(zone) + 1
  const limits: number[] = []
  const charges: (Amount | null)[] = []
  let highest = -1
  for (const row of rows) {
    const decimals = scaleOf(decimalsOf(row[0]))
    const limit = floorOf(times(counted(row[0], decimals), scale), decimals)
    // a row that does not reach further than one before it is never the first
    if (limit <= highest) continue
    highest = limit
    limits.push(limit)
    const text = row[column]
    charges.push(text === undefined ? null : charge(amounts.lineOf(text)))
  }
  const last = rows.at(-1)
  const rate = beyond && figureFor(beyond.rate, zone)
  const lastPrice = last?.[column]
  const further =
    beyond && last && rate !== null && lastPrice !== undefined
      ? furtherOn(last[0], lastPrice, beyond.step, rate, { scale, amounts, charge })
      : null
  return (weight) => {
    let [low, high] = [0, limits.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if (weight <= (limits[middle] as number)) high = middle
      else low = middle + 1
    }
    return low < limits.length ? (charges[low] ?? null) : further ? further(weight) : null
  }
}

function furtherOn(
  last: string,
  price: string,
  step: string,
  rate: string,
  { scale, amounts, charge }: Pick<Compiling, "scale" | "amounts" | "charge">,
): (weight: number) => Amount {
  const fine = Math.max(scale, scaleOf(mostDecimals([last, step])))
  const [from, each] = [counted(last, fine), counted(step, fine)]
  const money = scaleOf(mostDecimals([price, rate]))
  const [start, more] = [counted(price, money), counted(rate, money)]
  return (weight) => {
    const over = times(weight, fine / scale) - from
    return charge(amounts.line(plus(start, times(ceilOf(Math.max(0, over), each), more)), money))
  }
}

function hundredweight(
  rule: NonNullable<PriceBy<"weight">["hundredweight"]>,
  { service, zone, scale, amounts, charge }: Compiling,
): ZonePrice {
  const column = service.zones.indexOf(zone) + 1
  const reached = (text: string) => {
    const own = scaleOf(decimalsOf(text))
    return ceilOf(times(counted(text, own), scale), own)
  }
  const leastTotal = reached(rule.leastTotal)
  const leastEach = counted(rule.leastEach, scale)
  const rows = rule.rows.map((row) => {
    const text = row[column]
    const own = scaleOf(decimalsOf(text ?? "0"))
    return { atLeast: reached(row[0]), rate: text === undefined ? null : counted(text, own), own }
  })
  return ({ packages }) => {
    if (packages.length < rule.leastPieces) return null
    const weight = sumOf(packages, (one) => Math.max(one.billed, leastEach))
    if (weight < leastTotal) return null
    const row = rows.findLast((one) => weight >= one.atLeast)
    if (!row || row.rate === null) return null
    const list = amounts.line(times(weight, row.rate), times(100 * scale, row.own))
    return { charges: [charge(list)], perPackage: false, weight, weightScale: scale }
  }
}
