import { cents, NotCarried, part, type QuoteRequest, tenThousandths } from "./tariff.ts"

/** A freight carrier's published rates, as it reads them itself. */
export interface PublishedFreightTariff {
  kind: "freight"
  currency: string
  suitability: {
    postBox: boolean
    residential: boolean
    business: boolean
    statesNotServed: string[]
    countries?: string[]
  }
  discount: string
  floor: string
  breaks: string[]
  rates: Record<string, Record<string, string[]>>
  minimum: Record<string, string>
  limits: { weight: string; pallets: number; length: string; height: string }
  surcharges: {
    code: string
    amount: string
    discount: string
    when: { fact: string; figure?: string; zip3?: string[] }
    perHundredweight?: { least: string; most: string } | null
  }[]
  fuel: { share: string; on: string[] }
  zones: string[]
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

function classOf(one: QuoteRequest["packages"][number]): string {
  if (one.freightClass) return one.freightClass
  const [l, w, h] = one.sizeIn.map(Number) as [number, number, number]
  const thousandths = (Number(one.weightLb) * 1_728_000) / (l * w * h) + 1e-7
  return (scale.find(([least]) => thousandths >= least) as [number, string])[1]
}

/** Net charges in cents of pallets priced together: class and break, or as a higher break's weight. */
export function freightCharges(
  tariff: PublishedFreightTariff,
  zone: string,
  request: QuoteRequest,
): { code: string; net: number }[] {
  const byClass = new Map<string, number>()
  let longest = 0
  for (const one of request.packages) {
    if (one.handling !== "pallet") throw new NotCarried("pallets only")
    const edges = one.sizeIn.map(Number) as [number, number, number]
    longest = Math.max(longest, ...edges)
    if (edges[2] > Number(tariff.limits.height)) throw new NotCarried("pallet too high")
    const freightClass = classOf(one)
    const pounds = Math.ceil(Math.round(Number(one.weightLb) * 1e6) / 1e6)
    byClass.set(freightClass, (byClass.get(freightClass) ?? 0) + pounds)
  }
  if (request.packages.length > tariff.limits.pallets) throw new NotCarried("too many pallets")
  if (longest > Number(tariff.limits.length)) throw new NotCarried("pallet too long")
  const pounds = [...byClass.values()].reduce((sum, one) => sum + one, 0)
  if (pounds > Number(tariff.limits.weight)) throw new NotCarried("shipment too heavy")

  const lane = tariff.rates[zone] ?? {}
  let cheapest = Number.POSITIVE_INFINITY
  tariff.breaks.forEach((least, index) => {
    const next = tariff.breaks[index + 1]
    if (next !== undefined && pounds >= Number(next)) return
    let sum = 0
    let lowest = Number.POSITIVE_INFINITY
    for (const [freightClass, weight] of byClass) {
      const rate = lane[freightClass]?.[index]
      if (rate === undefined) throw new NotCarried("no rate for this class")
      sum += weight * cents(rate)
      lowest = Math.min(lowest, cents(rate))
    }
    sum += Math.max(0, Number(least) - pounds) * lowest
    cheapest = Math.min(cheapest, sum)
  })
  const list = Math.max(Math.floor((cheapest + 50) / 100), cents(tariff.minimum[zone] ?? "0"))
  const base = Math.max(cents(tariff.floor), part(list, 10_000 - tenThousandths(tariff.discount)))
  const charges = [{ code: "base", net: base }]
  for (const extra of tariff.surcharges) {
    const { fact, figure } = extra.when
    const applies =
      (fact === "liftgate" && request.liftgate === true) ||
      (fact === "residential" && request.receiver.residential) ||
      (fact === "longest-over" && longest > Number(figure)) ||
      (fact === "weight-over" && pounds > Number(figure))
    if (!applies) continue
    const bounds = extra.perHundredweight
    const amount = bounds
      ? Math.min(
          cents(bounds.most),
          Math.max(cents(bounds.least), Math.floor((pounds * cents(extra.amount) + 50) / 100)),
        )
      : cents(extra.amount)
    charges.push({ code: extra.code, net: part(amount, 10_000 - tenThousandths(extra.discount)) })
  }
  return charges
}
