import { figureFor, type PriceBy } from "../../tariff/index.ts"
import { classOfPlainDensity, type FreightClass } from "../density.ts"
import { floorLengthOf } from "../floor.ts"
import { ceilOf, counted, decimalsOf, inParts, mostDecimals, plus, type Ratio, ratio, scaleOf, times } from "./exact.ts"
import type { Counted } from "./measuring.ts"
import { type CountedPackage, lengthParts, massParts, standing, trailerInside } from "./packages.ts"
import { breakIn, type Compiling, fraction, sumOf, volumeOf, type ZonePrice } from "./pricing.ts"

/** Weights of one class, in parts of the service's scale. */
interface ClassParts {
  readonly freightClass: FreightClass
  parts: number
}

/** Freight by class and break: the same as `prices/byClass`. */
export function byClass(price: PriceBy<"class">, { zone, scale, amounts, charge }: Compiling): ZonePrice {
  const texts = Object.hasOwn(price.rates, zone) ? price.rates[zone] : undefined
  const money = scaleOf(mostDecimals(Object.values(texts ?? {}).flat()))
  const rates = new Map(
    Object.entries(texts ?? {}).map(([freightClass, all]) => [
      freightClass as FreightClass,
      all.map((text) => counted(text, money)),
    ]),
  )
  const breaks = price.breaks.map((text) => counted(text, scale))
  const minimum = amounts.lineOf(figureFor(price.minimum, zone) ?? "0")
  const agreed = new Map<FreightClass, FreightClass>()
  for (const { classes, as } of price.fak) for (const one of classes) if (!agreed.has(one)) agreed.set(one, as)
  const trailer = trailerInside(price.trailer)
  const { cubicCapacity: cubic } = price
  const floorRule = price.linearFoot && compileFloor(price.linearFoot)

  return ({ packages }) => {
    const own = sumOf(packages, (one) => one.billed)
    const light = cubic ? lightWeight(cubic, packages, own, scale) : null
    let weights: ClassParts[]
    if (light !== null && cubic) weights = [{ freightClass: cubic.asClass, parts: Math.max(times(light, scale), own) }]
    else {
      weights = []
      for (const one of packages) {
        const its =
          price.classFrom === "density" ? densityClass(one.one) : (one.one.freightClass ?? densityClass(one.one))
        const freightClass = agreed.get(its) ?? its
        const same = weights.find((each) => each.freightClass === freightClass)
        if (same) same.parts += one.billed
        else weights.push({ freightClass, parts: one.billed })
      }
      weights.sort((a, b) => Number(a.freightClass) - Number(b.freightClass))
    }
    if (floorRule) addFloor(weights, floorRule, packages)
    const list = lowest(weights)
    return list === null
      ? null
      : { charges: [charge(Math.max(list, minimum))], perPackage: false, weight: own, weightScale: scale }
  }

  /** Weight that the floor stands for and the goods lack is paid for at the lowest class rate. */
  function addFloor(weights: ClassParts[], rule: FloorRule, packages: readonly Counted[]): void {
    const floor = floorLengthOf(
      packages.map(({ one }) => standing(one)),
      trailer,
    )
    if (floor < rule.from) return
    const least = times(ceilOf(times(floor, rule.weight.over), rule.weight.under), scale)
    const weight = weights.reduce((sum, one) => sum + one.parts, 0)
    if (least <= weight) return
    const column = breakIn(breaks, least)
    const rate = (one: ClassParts) => rates.get(one.freightClass)?.[column] ?? Number.POSITIVE_INFINITY
    const low = weights.reduce((lowest, one) => (rate(one) < rate(lowest) ? one : lowest))
    low.parts += least - weight
  }

  /** The least list amount of the break that the weight falls in, and of higher ones with the deficit paid for. */
  function lowest(weights: readonly ClassParts[]): number | null {
    const each = weights.map((one) => rates.get(one.freightClass))
    if (each.some((one) => one === undefined)) return null
    const weight = weights.reduce((sum, one) => sum + one.parts, 0)
    const own = breakIn(breaks, weight)
    let least = -1
    for (let index = own; index < breaks.length; index += 1) {
      let [sum, low, whole] = [0, Number.POSITIVE_INFINITY, true]
      for (let row = 0; row < weights.length; row += 1) {
        const rate = each[row]?.[index]
        if (rate === undefined) {
          whole = false
          break
        }
        sum = plus(sum, times((weights[row] as ClassParts).parts, rate))
        if (rate < low) low = rate
      }
      if (!whole) continue
      if (index > own) sum = plus(sum, times((breaks[index] as number) - weight, low))
      if (least < 0 || sum < least) least = sum
    }
    return least < 0 ? null : amounts.line(least, times(100 * scale, money))
  }
}

/** Weight for the floor that is taken, from a length of it on: nanometers, and units of weight for each. */
interface FloorRule {
  readonly from: number
  readonly weight: Ratio
}

function compileFloor({ from, weightPerFoot }: NonNullable<PriceBy<"class">["linearFoot"]>): FloorRule {
  const foot = 12 * lengthParts.in
  const least = inParts(from, foot)
  const own = scaleOf(decimalsOf(weightPerFoot))
  return { from: ceilOf(least.over, least.under), weight: ratio(counted(weightPerFoot, own), times(own, foot)) }
}
const cubicFoot = 1728n * BigInt(lengthParts.in) ** 3n
const plainCubicFoot = Number(cubicFoot)

/** The weight that light and large goods are paid for, in whole units; null where they are neither. */
function lightWeight(
  rule: NonNullable<PriceBy<"class">["cubicCapacity"]>,
  packages: readonly Counted[],
  own: number,
  scale: number,
): number | null {
  const volume = packages.reduce((sum, { one }) => sum + volumeOf(one), 0n)
  const [from, fromUnder] = fraction(rule.from)
  if (volume * fromUnder < from * cubicFoot) return null
  const [density, densityUnder] = fraction(rule.densityUnder)
  if (BigInt(own) * cubicFoot * densityUnder >= volume * density * BigInt(scale)) return null
  const [each, eachUnder] = fraction(rule.weightPerFoot)
  const divisor = cubicFoot * eachUnder
  return Number((volume * each + divisor - 1n) / divisor)
}

/** The class by density: a double says it, but for what lies on the bound of a class. */
function densityClass(one: CountedPackage): FreightClass {
  const perFoot = ((one.mass / massParts.lb) * plainCubicFoot) / (one.edges[0] * one.edges[1] * one.edges[2])
  const tenths = Math.round(perFoot * 10)
  const onBound =
    Math.abs(perFoot * 10 - tenths) <= 1e-9 * tenths &&
    BigInt(one.mass) * cubicFoot * 10n === BigInt(tenths) * volumeOf(one) * BigInt(massParts.lb)
  return classOfPlainDensity(onBound ? tenths / 10 : perFoot)
}
