import {
  cents,
  NotCarried,
  type Price,
  type QuoteRequest,
  type Service,
  stepUp,
  wholeCents,
  zoned,
} from "./published.ts"
import { type Piece, weighed } from "./tariff.ts"

type By<K extends Price["by"]> = Extract<Price, { by: K }>

/** List prices in whole cents: of each piece (or of all, as one), and together per 100 where that may hold. */
export function byWeight(service: Service, price: By<"weight">, zone: string, pieces: Piece[]) {
  const column = service.zones.indexOf(zone) + 1
  const at = (weight: number): number | null => {
    const row = price.rows.find(([upTo]) => weight <= Number(upTo))
    if (row) return row[column] === undefined ? null : cents(row[column])
    const last = price.rows.at(-1)
    const rate = price.beyond && zoned(price.beyond.rate, zone)
    if (!price.beyond || !rate || last?.[column] === undefined) return null
    return cents(last[column]) + Math.ceil((weight - Number(last[0])) / Number(price.beyond.step)) * cents(rate)
  }
  const weights =
    price.per === "shipment" ? [pieces.reduce((sum, one) => sum + one.billed, 0)] : pieces.map((one) => one.billed)
  const each = weights.map(at)
  let together: { list: number; weight: number } | null = null
  const rule = price.hundredweight
  if (rule && pieces.length >= rule.leastPieces) {
    const weight = pieces.reduce((sum, one) => sum + Math.max(one.billed, Number(rule.leastEach)), 0)
    const row = rule.rows.filter(([least]) => weight >= Number(least)).at(-1)
    const rate = row?.[column]
    if (weight >= Number(rule.leastTotal) && rate !== undefined)
      together = { list: wholeCents((weight * cents(rate)) / 100), weight }
  }
  return { each: each.includes(null) ? null : (each as number[]), together }
}

export const boxes = (price: By<"box">, zone: string, pieces: Piece[]): number[] =>
  pieces.map((one) => {
    const figures = price.boxes[one.asked.packaging ?? ""]
    const text = figures === undefined ? undefined : zoned(figures, zone)
    if (text === undefined) throw new NotCarried("not in our box")
    return cents(text)
  })

/** So much for a unit of the whole shipment's chargeable weight. */
export function byUnit(service: Service, price: By<"unit">, zone: string, pieces: Piece[]) {
  const rates = price.rates[zone]
  if (!rates) throw new NotCarried("no rate for this zone")
  const actual = pieces.reduce((sum, one) => sum + one.weight, 0)
  const cubic = pieces.reduce((sum, one) => sum + one.edges[0] * one.edges[1] * one.edges[2], 0)
  const bySize = service.dimensional ? cubic / Number(service.dimensional.divisor) : 0
  const weight = weighed(service, Math.max(actual, bySize))
  let best = Number.POSITIVE_INFINITY
  price.breaks.forEach((least, index) => {
    const next = price.breaks[index + 1]
    if (next !== undefined && weight >= Number(next)) return
    if (Number(least) > weight && !price.asWeight) return
    best = Math.min(best, Math.max(weight, Number(least)) * cents(rates[index] as string))
  })
  return { list: Math.max(wholeCents(best), cents(zoned(price.minimum, zone) ?? "0")), weight }
}

/** Revenue tons, of 1000 kg or a cubic meter. */
export function byMeasure(price: By<"measure">, zone: string, pieces: Piece[]) {
  const rate = zoned(price.perTon, zone)
  if (rate === undefined) throw new NotCarried("no rate for this zone")
  const tons = pieces.reduce((sum, one) => sum + one.pounds * 0.45359237, 0) / 1000
  const cubic = pieces.reduce((sum, one) => sum + one.asked.sizeIn.reduce((v, edge) => v * Number(edge) * 0.0254, 1), 0)
  const paid = stepUp(Math.max(tons, cubic, Number(price.least)), Number(price.step))
  return { list: wholeCents(paid * cents(rate)), tons: paid }
}

export function byWay(price: By<"way">, request: QuoteRequest): number {
  if (!request.distanceKm) throw new NotCarried("the way is not known")
  const far = Math.ceil(Math.round((Number(request.distanceKm) / (price.unit === "mi" ? 1.609344 : 1)) * 1e6) / 1e6)
  return Math.max(cents(price.stop) + far * cents(price.perUnit), cents(price.minimum))
}

/** Lower bounds of density in thousandths of lb/ft³, with the class from there on. */
const scale: [number, string][] = [
  [50_000, "50"],
  [35_000, "55"],
  [30_000, "60"],
  [22_500, "65"],
  [15_000, "70"],
  [12_000, "85"],
  [10_000, "92.5"],
  [8_000, "100"],
  [6_000, "125"],
  [4_000, "175"],
  [2_000, "250"],
  [1_000, "300"],
  [0, "400"],
]

const feetOf = (one: Piece) => one.asked.sizeIn.reduce((volume, edge) => volume * Number(edge), 1) / 1728

/** Pallets priced together: class and break, or as a higher break's weight; by volume or floor where these hold. */
export function byClass(price: By<"class">, zone: string, pieces: Piece[]): { list: number } {
  const lane = price.rates[zone] ?? {}
  const classOf = (one: Piece): string => {
    const byDensity = () =>
      (scale.find(([least]) => (one.pounds * 1000) / feetOf(one) + 1e-7 >= least) as [number, string])[1]
    const own = price.classFrom === "density" ? byDensity() : (one.asked.freightClass ?? byDensity())
    return price.fak.find((agreed) => agreed.classes.includes(own))?.as ?? own
  }
  let byClass = new Map<string, number>()
  for (const one of pieces) byClass.set(classOf(one), (byClass.get(classOf(one)) ?? 0) + one.billed)
  const pounds = pieces.reduce((sum, one) => sum + one.billed, 0)
  const feet = pieces.reduce((sum, one) => sum + feetOf(one), 0)
  const cubic = price.cubicCapacity
  if (cubic && feet >= Number(cubic.from) - 1e-9 && pounds < feet * Number(cubic.densityUnder) - 1e-9)
    byClass = new Map([[cubic.asClass, Math.max(pounds, stepUp(feet * Number(cubic.weightPerFoot), 1))]])
  const rate = (freightClass: string, index: number): number => {
    const text = lane[freightClass]?.[index]
    if (text === undefined) throw new NotCarried("no rate for this class")
    return cents(text)
  }
  const total = () => [...byClass.values()].reduce((sum, one) => sum + one, 0)
  const floor = price.linearFoot ? floorFeet(pieces, price.trailer ?? { width: "96", height: "108" }) : 0
  if (price.linearFoot && floor >= Number(price.linearFoot.from) - 1e-9) {
    const least = stepUp(floor * Number(price.linearFoot.weightPerFoot), 1)
    const missing = least - total()
    if (missing > 0) {
      const at = price.breaks.filter((one) => least >= Number(one)).length - 1
      const [lowest] = [...byClass.keys()].sort((a, b) => rate(a, at) - rate(b, at) || Number(a) - Number(b))
      byClass.set(lowest as string, (byClass.get(lowest as string) as number) + missing)
    }
  }
  const weight = total()
  let cheapest = Number.POSITIVE_INFINITY
  price.breaks.forEach((least, index) => {
    const next = price.breaks[index + 1]
    if (next !== undefined && weight >= Number(next)) return
    let sum = 0
    let lowest = Number.POSITIVE_INFINITY
    for (const [freightClass, each] of byClass) {
      sum += each * rate(freightClass, index)
      lowest = Math.min(lowest, rate(freightClass, index))
    }
    cheapest = Math.min(cheapest, sum + Math.max(0, Number(least) - weight) * lowest)
  })
  return { list: Math.max(wholeCents(cheapest / 100), cents(zoned(price.minimum, zone) ?? "0")) }
}

/** Feet of floor: stackable pallets two high where they fit, places side by side in pairs, the longest first. */
function floorFeet(pieces: Piece[], trailer: { width: string; height: string }): number {
  type Spot = [long: number, short: number, high: number]
  const order = (a: Spot, b: Spot) => b[0] - a[0] || b[1] - a[1] || b[2] - a[2]
  const spot = (one: Piece): Spot => {
    const [l, w, h] = one.asked.sizeIn.map(Number) as [number, number, number]
    return [Math.max(l, w), Math.min(l, w), h]
  }
  const width = Number(trailer.width)
  const low = pieces
    .filter((one) => one.asked.stackable)
    .map(spot)
    .sort(order)
  const spots = pieces.filter((one) => !one.asked.stackable).map(spot)
  for (let base = low.shift(); base; base = low.shift()) {
    const [long, short, high] = base
    const top = low.findIndex((one) => one[0] <= long && one[1] <= short && one[2] + high <= Number(trailer.height))
    if (top >= 0) low.splice(top, 1)
    spots.push(base)
  }
  spots.sort(order)
  let inches = 0
  for (let first = spots.shift(); first; first = spots.shift()) {
    const turns = (one: Spot): [number, number][] => [
      [one[0], one[1]],
      [one[1], one[0]],
    ]
    let best: { at: number; long: number } | null = null
    for (const [at, other] of spots.entries())
      for (const [along, across] of turns(first))
        for (const [along2, across2] of turns(other)) {
          const long = Math.max(along, along2)
          if (across + across2 <= width && (!best || long < best.long)) best = { at, long }
        }
    if (best) spots.splice(best.at, 1)
    inches += best ? best.long : first[1] <= width && first[0] <= width ? first[1] : first[0]
  }
  return inches / 12
}
