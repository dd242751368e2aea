import { factsIn, type Service } from "../tariff/index.ts"
import { type CountedPackage, inexact, type Lane, lengthParts, massParts, sorted } from "./compiled/index.ts"
import { densityBounds, type FreightClass } from "./density.ts"

/** A package that is just over a step of its service: what it would cost a little lighter or smaller. */
export interface JustOver {
  /** Its place in the list. */
  readonly at: number
  readonly by: "weight" | "edge" | "girth" | "height"
  /** What it would have to be, in the service's unit, and how far it is over. */
  readonly figure: number
  readonly over: number
  readonly unit: "lb" | "kg" | "in" | "cm"
  /** The class that a pallet would have that much lower; of steps of its height only. */
  readonly freightClass?: FreightClass
  /** In the currency of the lane. */
  readonly saves: number
}

/** How little is "just over": a twentieth of the weight, an inch of an edge (common practice). */
const weightShare = 0.05
const edgeNanometres = 25_400_000
/** How much lower a pallet may be built for a lower class: half a layer (common practice). */
const lowerNanometres = 6 * edgeNanometres

/**
 * The packages that cost less by a service if they were a little lighter, or an edge a little shorter: each step that is
 * just under what they are is priced anew, and the one that saves most is told for each package.
 */
export function justOver(service: Service, lane: Lane, packages: readonly CountedPackage[]): JustOver[] {
  const now = priceOf(lane, packages)
  if (now === null) return []
  const facts = [...service.surcharges, ...service.sizeClasses].flatMap((one) => factsIn(one.when))
  const figures = (...names: readonly string[]) =>
    facts.flatMap((fact) => (names.includes(fact.fact) && "figure" in fact ? [Number(fact.figure)] : []))
  const massUnit = massParts[service.weighing.unit]
  const edgeUnit = lengthParts[service.lengthUnit]
  const step = Number(service.weighing.steps[0]?.step ?? 1)
  return packages.flatMap((one, at): JustOver[] => {
    const weight = one.mass / massUnit
    const tries: (JustOver & { readonly instead: CountedPackage })[] = []
    for (const figure of [...figures("weight-over"), Math.ceil(weight / step - 1e-9) * step - step]) {
      if (figure <= 0 || figure >= weight || figure < weight * (1 - weightShare)) continue
      const instead = { ...one, mass: Math.floor(figure * massUnit) }
      tries.push({ at, by: "weight", figure, over: weight - figure, unit: service.weighing.unit, saves: 0, instead })
    }
    const [longest, second, third] = one.edges
    const girth = longest + 2 * (second + third)
    for (const figure of figures("girth-over")) {
      const over = girth - figure * edgeUnit
      if (over <= 0 || over > 2 * edgeNanometres) continue
      const instead = { ...one, edges: sorted(longest, second - Math.ceil(over / 2), third) }
      tries.push({ at, by: "girth", figure, over: over / edgeUnit, unit: service.lengthUnit, saves: 0, instead })
    }
    one.edges.forEach((edge, index) => {
      for (const figure of index === 0 ? figures("longest-over") : index === 1 ? figures("second-over") : []) {
        const over = edge - figure * edgeUnit
        if (figure <= 0 || over <= 0 || over > edgeNanometres) continue
        const [a, b, c] = one.edges.map((each, other) => (other === index ? Math.floor(figure * edgeUnit) : each))
        const instead = { ...one, edges: sorted(a as number, b as number, c as number) }
        tries.push({ at, by: "edge", figure, over: over / edgeUnit, unit: service.lengthUnit, saves: 0, instead })
      }
    })
    // a class by density is lower for the same weight on a pallet that is not as high
    if (service.price.by === "class" && one.pallet && one.freightClass === null) {
      const base = (longest * second * third) / one.height
      for (const { height, freightClass } of lowerFor(one.mass, base, one.height)) {
        const figure = Math.floor((height / edgeUnit) * 10 + 1e-6) / 10
        const low = Math.floor(figure * edgeUnit)
        if (low <= 0 || one.height - low > lowerNanometres) continue
        const others = one.edges.filter((_, index) => index !== one.edges.indexOf(one.height)) as [number, number]
        const instead = { ...one, height: low, edges: sorted(low, ...others) }
        const over = (one.height - low) / edgeUnit
        tries.push({ at, by: "height", figure, over, unit: service.lengthUnit, freightClass, saves: 0, instead })
      }
    }
    const priced = tries.flatMap(({ instead, ...told }) => {
      const less = priceOf(
        lane,
        packages.map((each, index) => (index === at ? instead : each)),
      )
      return less !== null && less < now ? [{ ...told, saves: (now - less) / lane.scale }] : []
    })
    const best = priced.sort((a, b) => b.saves - a.saves || a.over - b.over)[0]
    return best ? [best] : []
  })
}

/** Heights at which so much weight on a base would be in each denser class, in nanometers, the nearest first. */
function lowerFor(mass: number, base: number, height: number) {
  const pounds = mass / massParts.lb
  const cubicFoot = (12 * edgeNanometres) ** 3
  return densityBounds
    .filter(({ atLeast }) => atLeast > 0)
    .map(({ atLeast, freightClass }) => ({ height: ((pounds / atLeast) * cubicFoot) / base, freightClass }))
    .filter((one) => one.height < height)
    .sort((a, b) => b.height - a.height)
    .slice(0, 2)
}

function priceOf(lane: Lane, packages: readonly CountedPackage[]): number | null {
  try {
    return lane.price(packages)?.contract ?? null
  } catch (thrown) {
    if (thrown === inexact) return null
    throw thrown
  }
}
