import { readFileSync } from "node:fs"
import { join } from "node:path"
import { freightCharges, type PublishedFreightTariff } from "./freight.ts"

/**
 * The carrier's own price list and arithmetic, apart from the application's on purpose: whole cents and whole
 * thousandths in integers, so that an error on either side shows as a difference.
 */
interface PublishedParcelTariff {
  kind?: "parcel"
  currency: string
  weightUnit?: "lb" | "kg"
  lengthUnit?: "in" | "cm"
  flatRate?: Record<string, string> | null
  weightStep: string
  dimension: { step: string; rounding: "up" | "nearest"; divisor: string; thresholdVolume: string | null }
  limits: { weight: string; length: string; lengthAndGirth: string }
  suitability: PublishedSuitability
  discount: string
  minimumNet: string
  surcharges: {
    code: string
    amount: string
    discount: string
    when: { fact: string; figure?: string; zip3?: string[] }
  }[]
  fuel: { share: string; on: string[] }
  zones: string[]
  rows: string[][]
}

interface PublishedSuitability {
  postBox: boolean
  residential: boolean
  business: boolean
  statesNotServed: string[]
  countries?: string[]
}

type PublishedTariff = PublishedParcelTariff | PublishedFreightTariff

interface Zones {
  origin: string
  ranges: [string, string, string][]
  countries?: Record<string, string>
}

export interface Quoted {
  readonly amount: string
  readonly currency: string
  readonly zone: string
}

export interface QuoteRequest {
  readonly service: string
  readonly sender: { readonly postalCode: string }
  readonly receiver: {
    readonly postalCode: string
    readonly state: string
    readonly country: string
    readonly lines: readonly string[]
    readonly residential: boolean
  }
  readonly packages: readonly {
    readonly weightLb: string
    readonly sizeIn: readonly string[]
    readonly packaging?: string | null
    readonly handling?: string
    readonly freightClass?: string | null
  }[]
  readonly liftgate?: boolean
}

export class NotCarried extends Error {}

export const cents = (text: string): number => Math.round(Number(text) * 100)
/** Integer share in ten-thousandths. */
export const tenThousandths = (text: string): number => Math.round(Number(text) * 10_000)
/** `amount × share`, rounded half up to whole cents. */
export const part = (amount: number, share: number): number => Math.floor((amount * share + 5_000) / 10_000)
const stepUp = (figure: number, step: number): number => Math.ceil(Math.round((figure / step) * 1e6) / 1e6) * step

export class PriceList {
  private readonly tariffs = new Map<string, PublishedTariff>()
  private readonly charts: Zones[]
  readonly numbers: "plain" | "s10"
  readonly voidMinutes: number

  constructor(folder: string, carrier: string) {
    const index = JSON.parse(readFileSync(join(folder, `${carrier}.json`), "utf8")) as {
      services: { code: string }[]
      zones: Zones[]
      numbers: "plain" | "s10"
      voidMinutes: number
    }
    this.charts = index.zones
    this.numbers = index.numbers
    this.voidMinutes = index.voidMinutes
    for (const service of index.services) {
      this.tariffs.set(
        service.code,
        JSON.parse(readFileSync(join(folder, `${service.code}.json`), "utf8")) as PublishedTariff,
      )
    }
  }

  /** What the carrier charges. Throws NotCarried with its reason. */
  quote(request: QuoteRequest): Quoted {
    const tariff = this.tariffs.get(request.service)
    if (!tariff) throw new NotCarried(`no service ${request.service}`)
    const { receiver } = request
    const area = receiver.postalCode.slice(0, 3)
    const chart = this.charts.find((one) => one.origin === request.sender.postalCode.slice(0, 3))
    const home = receiver.country === "US"
    const zone = home
      ? chart?.ranges.find(([from, to]) => area >= from && area <= to)?.[2]
      : chart?.countries?.[receiver.country]
    const column = zone === undefined ? -1 : tariff.zones.indexOf(zone)
    const served = (tariff.suitability.countries ?? ["US"]).includes(receiver.country)
    if (zone === undefined || column < 0 || !served) throw new NotCarried("destination not served")
    if (home && tariff.suitability.statesNotServed.includes(receiver.state)) throw new NotCarried("state not served")
    if (!tariff.suitability.postBox && receiver.lines.some((line) => /\bp\.?\s*o\.?\s*box\b/i.test(line)))
      throw new NotCarried("no post office boxes")
    const charges: { code: string; net: number }[] = []
    if (tariff.kind === "freight") charges.push(...freightCharges(tariff, zone, request))
    else for (const one of request.packages) charges.push(...this.packageCharges(tariff, column, receiver, area, one))
    const fuelBase = charges
      .filter((charge) => tariff.fuel.on.includes(charge.code))
      .reduce((sum, charge) => sum + charge.net, 0)
    const total =
      charges.reduce((sum, charge) => sum + charge.net, 0) + part(fuelBase, tenThousandths(tariff.fuel.share))
    return {
      amount: `${Math.floor(total / 100)}.${String(total % 100).padStart(2, "0")}`,
      currency: tariff.currency,
      zone,
    }
  }

  private packageCharges(
    tariff: PublishedParcelTariff,
    column: number,
    receiver: QuoteRequest["receiver"],
    area: string,
    one: QuoteRequest["packages"][number],
  ) {
    if (one.handling === "pallet") throw new NotCarried("no pallets")
    const weight = Number(one.weightLb) * (tariff.weightUnit === "kg" ? 0.45359237 : 1)
    if (weight > Number(tariff.limits.weight)) throw new NotCarried("package too heavy")
    const perInch = tariff.lengthUnit === "cm" ? 2.54 : 1
    const raw = one.sizeIn.map((edge) => Number(edge) * perInch).sort((a, b) => b - a) as [number, number, number]
    if (raw[0] > Number(tariff.limits.length)) throw new NotCarried("package too long")
    if (raw[0] + 2 * (raw[1] + raw[2]) > Number(tariff.limits.lengthAndGirth)) throw new NotCarried("package too large")
    const step = Number(tariff.dimension.step)
    const edges = raw.map((edge) =>
      tariff.dimension.rounding === "up" ? stepUp(edge, step) : Math.floor(edge / step + 0.5 + 1e-9) * step,
    ) as [number, number, number]
    const volume = edges[0] * edges[1] * edges[2]
    const small = tariff.dimension.thresholdVolume !== null && volume <= Number(tariff.dimension.thresholdVolume)
    const dimensional = small ? 0 : stepUp(volume / Number(tariff.dimension.divisor), Number(tariff.weightStep))
    const billed = Math.max(stepUp(weight, Number(tariff.weightStep)), dimensional)
    const row = tariff.rows.find(([upTo]) => billed <= Number(upTo))
    const price = tariff.flatRate ? tariff.flatRate[one.packaging ?? ""] : row?.[column + 1]
    if (price === undefined) throw new NotCarried(tariff.flatRate ? "not in our box" : "no price at this weight")
    const list = cents(price)
    const net = Math.max(cents(tariff.minimumNet), part(list, 10_000 - tenThousandths(tariff.discount)))
    const charges = [{ code: "base", net }]
    for (const extra of tariff.surcharges) {
      const applies =
        (extra.when.fact === "residential" && receiver.residential) ||
        (extra.when.fact === "weight-over" && weight > Number(extra.when.figure)) ||
        (extra.when.fact === "longest-over" && edges[0] > Number(extra.when.figure)) ||
        (extra.when.fact === "postal-area" && (extra.when.zip3 ?? []).includes(area))
      if (applies)
        charges.push({ code: extra.code, net: part(cents(extra.amount), 10_000 - tenThousandths(extra.discount)) })
    }
    return charges
  }
}
