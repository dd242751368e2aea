import { readFileSync } from "node:fs"
import { join } from "node:path"
import type { HandoverRules } from "./handover.ts"
import { boxes, byClass, byMeasure, byUnit, byWay, byWeight } from "./prices.ts"
import {
  type AskedPackage,
  cents,
  NotCarried,
  type Published,
  part,
  type QuoteRequest,
  type Service,
  type Surcharge,
  stepUp,
  tenThousandths,
  type When,
  wholeCents,
  within,
  zoned,
} from "./published.ts"

/**
 * The carrier's own price list and arithmetic, apart from the application's on purpose: whole cents in integers, so
 * that an error on either side shows as a difference.
 */
export interface Quoted {
  readonly amount: string
  readonly currency: string
  readonly zone: string
}

/** A line of the carrier's bill, in whole cents: before and after discount, and for which piece. */
interface Line {
  readonly code: string
  readonly list: number
  readonly net: number
  readonly piece: number | null
}

/** A package in the service's units. */
export interface Piece {
  readonly asked: AskedPackage
  readonly pounds: number
  readonly weight: number
  /** Edges as they are and as they are rounded, longest first. */
  readonly raw: [number, number, number]
  readonly edges: [number, number, number]
  readonly actual: number
  billed: number
  sizeClass: string | null
}

const girth = ([a, b, c]: [number, number, number]) => a + 2 * (b + c)

export class PriceList {
  private readonly tariff: Published
  readonly numbers: "plain" | "s10"
  readonly voidMinutes: number

  constructor(folder: string, carrier: string) {
    this.tariff = JSON.parse(readFileSync(join(folder, `${carrier}.json`), "utf8")) as Published
    const own = (
      JSON.parse(readFileSync(join(folder, "carriers.json"), "utf8")) as {
        code: string
        numbers: "plain" | "s10"
        voidMinutes: number
      }[]
    ).find((one) => one.code === carrier)
    if (!own) throw new Error(`no carrier ${carrier}`)
    this.numbers = own.numbers
    this.voidMinutes = own.voidMinutes
  }

  /** How goods are handed over. */
  get handover(): HandoverRules {
    return this.tariff.handover ?? {}
  }

  get currency(): string {
    return this.tariff.currency
  }

  /** Whether a service's price is due only once a package of it is scanned. */
  dueWhenScanned(code: string): boolean {
    return this.tariff.services.find((one) => one.code === code)?.returns?.paid === "when-scanned"
  }

  /** What the carrier charges. Throws NotCarried with its reason. */
  quote(request: QuoteRequest): Quoted {
    const service = this.tariff.services.find((one) => one.code === request.service)
    if (!service) throw new NotCarried(`no service ${request.service}`)
    const zone = this.zone(service, request)
    this.accept(service, request)
    const pieces = request.packages.map((one) => this.piece(service, request, zone, one))
    const fuel = service.fuel ? this.fuel(service.fuel.table, request.shipDate) : 0
    const { lines: base, weight } = this.base(service, zone, request, pieces)
    const carried = [...base, ...this.surcharges(service, zone, request, pieces, weight, base)]
    const on = carried.filter((line) => service.fuel?.on.includes(line.code)).reduce((sum, line) => sum + line.net, 0)
    const fuelled = carried.reduce((sum, line) => sum + line.net, 0) + part(on, fuel)
    const taxes = (service.taxes ?? []).reduce((sum, name) => {
      const tax = this.tariff.taxes?.[name]
      const due = tax && (!tax.countries?.length || tax.countries.includes(request.receiver.country))
      return sum + (due ? part(fuelled, tenThousandths(tax.share)) : 0)
    }, 0)
    const total = fuelled + taxes
    return {
      amount: `${Math.floor(total / 100)}.${String(total % 100).padStart(2, "0")}`,
      currency: this.tariff.currency,
      zone,
    }
  }

  private zone(service: Service, request: QuoteRequest): string {
    const { distanceKm } = request
    // what comes back is read from where it goes to
    const [sender, receiver] = service.returns ? [request.receiver, request.sender] : [request.sender, request.receiver]
    const chart = this.tariff.charts[service.chart]
    let zone: string | undefined
    if (chart?.by === "postal") {
      const origin = chart.origins.find((one) => within(one.from, sender))
      zone = origin?.ranges.find((row) => within(row, receiver))?.[3]
    } else if (chart?.by === "distance" && distanceKm) {
      const far = Number(distanceKm) / (chart.unit === "mi" ? 1.609344 : 1)
      zone = chart.bands.find(([upTo]) => far <= Number(upTo))?.[1]
    } else if (chart?.by === "lane") {
      const lies = (region: string, place: typeof sender) => chart.regions[region]?.some((row) => within(row, place))
      zone = chart.lanes.find(([from, to]) => lies(from, sender) && lies(to, receiver))?.[2]
    }
    if (zone === undefined || !service.zones.includes(zone)) throw new NotCarried("destination not served")
    return zone
  }

  /** Whether goods, receiver and wishes are such as the service takes. */
  private accept(service: Service, request: QuoteRequest): void {
    const { receiver, packages } = request
    const { reach, goods, limits } = service
    if (request.shipDate < this.tariff.validFrom) throw new NotCarried("the tariff does not hold yet")
    if (!reach.countries.includes(receiver.country)) throw new NotCarried("country not served")
    if (service.returns && !reach.countries.includes(request.sender.country)) throw new NotCarried("country not served")
    if (receiver.country === this.tariff.country && reach.statesNotServed?.includes(receiver.state))
      throw new NotCarried("state not served")
    if (!reach.postBox && receiver.lines.some((line) => /\bp\.?\s*o\.?\s*box\b/i.test(line)))
      throw new NotCarried("no post office boxes")
    const dangerous = request.dangerous ?? []
    if (dangerous.length > 0 && goods.dangerous === "none") throw new NotCarried("no dangerous goods")
    if (
      goods.dangerous === "limited-quantity" &&
      dangerous.some((one) => !one.limitedQuantity || (goods.regime === "air" && one.regulatedByAir))
    )
      throw new NotCarried("limited quantities only")
    if (goods.classes?.length && dangerous.some((one) => !goods.classes?.includes(one.hazard)))
      throw new NotCarried("not this class of dangerous goods")
    if (goods.only && request.categories?.all !== goods.only) throw new NotCarried(`${goods.only} only`)
    for (const category of request.categories?.some ?? []) {
      const rule = goods.categories?.find((one) => one.category === category)
      if (!rule && category === "alcohol") throw new NotCarried("no alcohol")
      for (const need of rule?.needs ?? [])
        if (
          need === "adult-signature"
            ? !request.options?.includes("signature-adult")
            : !request.categories?.has.includes(need)
        )
          throw new NotCarried(`${category}: ${need} is missing`)
    }
    if (limits.value && Number(request.value ?? 0) > Number(limits.value)) throw new NotCarried("too valuable")
    if (limits.pieces && packages.length > limits.pieces) throw new NotCarried("too many pieces")
    const asked = request.options ?? []
    for (const option of asked) {
      const rule = service.options?.find((one) => one.option === option)
      if (!rule) throw new NotCarried(`no ${option}`)
      if (rule.excludes?.some((other) => asked.includes(other))) throw new NotCarried(`${option} and another`)
      if (rule.requires?.some((other) => !asked.includes(other))) throw new NotCarried(`${option} needs another`)
    }
    if (packages.some((one) => Number(one.declared ?? 0) > Number(service.cover.most))) throw new NotCarried("cover")
    const total = packages.reduce((sum, one) => sum + Number(one.weightLb), 0)
    if (limits.total && total * (service.weighing.unit === "kg" ? 0.45359237 : 1) > Number(limits.total) + 1e-9)
      throw new NotCarried("shipment too heavy")
  }

  private piece(service: Service, request: QuoteRequest, zone: string, asked: AskedPackage): Piece {
    const { weighing, limits, dimensional } = service
    const pallet = asked.handling === "pallet"
    if (pallet && service.goods.handling === "parcel") throw new NotCarried("no pallets")
    if (!pallet && service.goods.handling === "pallet") throw new NotCarried("pallets only")
    const pounds = Number(asked.weightLb)
    const weight = pounds * (weighing.unit === "kg" ? 0.45359237 : 1)
    const perInch = service.lengthUnit === "cm" ? 2.54 : 1
    const asSent = asked.sizeIn.map((edge) => Number(edge) * perInch)
    const raw = [...asSent].sort((a, b) => b - a) as [number, number, number]
    const over = (limit: string | null | undefined, figure: number) => limit != null && figure > Number(limit) + 1e-9
    if (over(limits.weight, weight)) throw new NotCarried("package too heavy")
    if (over(limits.length, raw[0])) throw new NotCarried("package too long")
    if (over(limits.lengthAndGirth, girth(raw))) throw new NotCarried("package too large")
    if (over(limits.height, asSent[2] as number)) throw new NotCarried("package too high")
    const edges = (
      dimensional
        ? raw.map((edge) => {
            const step = Number(dimensional.step)
            return dimensional.rounding === "up"
              ? stepUp(edge, step)
              : Math.floor(Math.round((edge / step) * 1e9) / 1e9 + 0.5) * step
          })
        : raw
    ) as [number, number, number]
    const volume = edges[0] * edges[1] * edges[2]
    const bySize =
      dimensional && !(dimensional.threshold && volume <= Number(dimensional.threshold))
        ? weighed(service, volume / Number(dimensional.divisor))
        : 0
    const actual = weighed(service, weight)
    const piece: Piece = {
      asked,
      pounds,
      weight,
      raw,
      edges,
      actual,
      billed: Math.max(actual, bySize, Number(weighing.least ?? 0)),
      sizeClass: null,
    }
    const found = service.sizeClasses?.find((one) => this.holds(one.when, service, zone, request, [piece]))
    piece.sizeClass = found?.code ?? null
    piece.billed = Math.max(piece.billed, Number(found?.leastWeight ?? 0))
    return piece
  }

  private fuel(table: string, day: string): number {
    const found = this.tariff.fuel?.[table]
    const latest = (rows: [string, string][]) =>
      rows
        .filter(([since]) => since <= day)
        .sort((a, b) => (a[0] < b[0] ? -1 : 1))
        .at(-1)?.[1]
    const price = found && "prices" in found ? latest(found.prices) : undefined
    const share =
      found && "weeks" in found
        ? latest(found.weeks)
        : found?.steps.filter(([least]) => price !== undefined && Number(least) <= Number(price)).at(-1)?.[1]
    if (share === undefined) throw new NotCarried("no fuel share for this day")
    return tenThousandths(share)
  }

  /** The base lines, and the weight by which other charges go. */
  private base(
    service: Service,
    zone: string,
    request: QuoteRequest,
    pieces: Piece[],
  ): { lines: Line[]; weight: number } {
    const { price } = service
    const net = (list: number): number => {
      const share = (service.discounts ?? []).filter(([from]) => list >= cents(from)).at(-1)?.[1] ?? "0"
      return Math.max(part(list, 10_000 - tenThousandths(share)), cents(service.leastNet ?? "0"))
    }
    const line = (list: number, piece: number | null): Line => ({ code: "base", list, net: net(list), piece })
    const whole = (list: number, weight: number) => ({ lines: [line(list, null)], weight })
    const billed = pieces.reduce((sum, one) => sum + one.billed, 0)
    switch (price.by) {
      case "weight": {
        const { each, together } = byWeight(service, price, zone, pieces)
        const total = ({ lines }: { lines: Line[] }) => lines.reduce((sum, one) => sum + one.net, 0)
        const joined = together && whole(together.list, together.weight)
        const single =
          each && price.per === "shipment"
            ? whole(each[0] as number, billed)
            : each && { lines: each.map((list, index) => line(list, index)), weight: billed }
        const lower = price.hundredweight?.choose === "lower"
        if (joined && !(single && lower && total(single) <= total(joined))) return joined
        if (!single) throw new NotCarried("no price at this weight")
        return single
      }
      case "box":
        return {
          lines: boxes(price, zone, pieces).map((list, index) => line(list, index)),
          weight: pieces.reduce((sum, one) => sum + one.actual, 0),
        }
      case "unit": {
        const { list, weight } = byUnit(service, price, zone, pieces)
        return whole(list, weight)
      }
      case "class": {
        const { list } = byClass(price, zone, pieces)
        return whole(list, billed)
      }
      case "measure": {
        const { list, tons } = byMeasure(price, zone, pieces)
        return whole(list, tons * 1000)
      }
      case "way":
        return whole(
          byWay(price, request),
          pieces.reduce((sum, one) => sum + one.actual, 0),
        )
    }
  }

  private surcharges(
    service: Service,
    zone: string,
    request: QuoteRequest,
    pieces: Piece[],
    weight: number,
    base: Line[],
  ): Line[] {
    const due: (Line & { group: string | null })[] = []
    const kept = () =>
      due.filter(
        (one, index) =>
          one.group === null ||
          !due.some(
            (other, at) =>
              at !== index &&
              other.group === one.group &&
              other.piece === one.piece &&
              (other.list > one.list || (other.list === one.list && at < index)),
          ),
      )
    const rules = [...(service.surcharges ?? [])].sort(
      (a, b) => Number(a.amount.basis === "share") - Number(b.amount.basis === "share"),
    )
    for (const rule of rules) {
      const each = ["package", "dry-ice", "value"].includes(rule.amount.basis)
      const turns: [number | null, Piece[]][] = each ? pieces.map((one, index) => [index, [one]]) : [[null, pieces]]
      for (const [piece, some] of turns) {
        if (!this.holds(rule.when, service, zone, request, some)) continue
        const [list, before] = this.surcharge(rule, service, zone, weight, some[0] as Piece, [...base, ...kept()])
        if (list > 0)
          due.push({
            code: rule.code,
            list,
            net: part(before, 10_000 - tenThousandths(rule.discount ?? "0")),
            piece,
            group: rule.group ?? null,
          })
      }
    }
    return kept()
  }

  /** A surcharge at list, and what its discount is taken of. */
  private surcharge(
    { amount }: Surcharge,
    service: Service,
    zone: string,
    weight: number,
    piece: Piece,
    soFar: Line[],
  ): [number, number] {
    const text = zoned(amount.figure, zone)
    if (text === undefined) throw new NotCarried("no surcharge rate for this zone")
    const bounded = (figure: number) =>
      Math.min(
        amount.most ? cents(amount.most) : Number.POSITIVE_INFINITY,
        Math.max(cents(amount.least ?? "0"), figure),
      )
    const same = (figure: number): [number, number] => [figure, figure]
    switch (amount.basis) {
      case "hundredweight":
        return same(bounded(wholeCents((weight * cents(text)) / 100)))
      case "weight-unit":
        return same(bounded(wholeCents(weight * cents(text))))
      case "dry-ice": {
        const kilos = Math.ceil(Math.round(Number(piece.asked.dryIceKg ?? 0) * 1e6) / 1e6)
        return same(kilos > 0 ? bounded(kilos * cents(text)) : 0)
      }
      case "value": {
        const over = cents(piece.asked.declared ?? "0") - cents(service.cover.included)
        return same(over > 0 ? bounded(Math.ceil(over / 10_000) * cents(text)) : 0)
      }
      case "share": {
        const named = soFar.filter((line) => amount.of?.includes(line.code))
        const sum = (side: "list" | "net") => named.reduce((all, line) => all + line[side], 0)
        return [bounded(part(sum("list"), tenThousandths(text))), bounded(part(sum("net"), tenThousandths(text)))]
      }
      default:
        return same(cents(text))
    }
  }

  private holds(when: When, service: Service, zone: string, request: QuoteRequest, pieces: Piece[]): boolean {
    const again = (one: When) => this.holds(one, service, zone, request, pieces)
    if ("all" in when) return when.all.every(again)
    if ("any" in when) return when.any.some(again)
    if ("not" in when) return !again(when.not)
    const limit = Number(when.figure)
    const some = (figure: (piece: Piece) => number) => pieces.some((piece) => figure(piece) > limit + 1e-9)
    const { receiver } = request
    switch (when.fact) {
      case "residential":
        return receiver.residential
      case "option":
        return request.options?.includes(when.option ?? "") === true
      case "weight-over":
        return some((one) => one.weight)
      case "longest-over":
        return some((one) => one.edges[0])
      case "second-over":
        return some((one) => one.edges[1])
      case "girth-over":
        return some((one) => girth(one.edges))
      case "volume-over":
        return some((one) => one.edges[0] * one.edges[1] * one.edges[2])
      case "size-class":
        return pieces.some((one) => one.sizeClass === when.sizeClass)
      case "packaging":
        return pieces.some((one) => when.packaging?.includes(one.asked.packaging ?? ""))
      case "not-stackable":
        return pieces.some((one) => !one.asked.stackable)
      case "area":
        return this.tariff.areas?.[when.area ?? ""]?.some((row) => within(row, receiver)) === true
      case "country":
        return when.countries?.includes(receiver.country) === true
      case "zone":
        return when.zones?.includes(zone) === true
      case "value-over":
        return Number(request.value ?? 0) > limit
      case "dangerous":
        return (request.dangerous?.length ?? 0) > 0
      case "pieces-over":
        return request.packages.length > limit
      case "total-over":
        return (
          request.packages.reduce((sum, one) => sum + Number(one.weightLb), 0) *
            (service.weighing.unit === "kg" ? 0.45359237 : 1) >
          limit + 1e-9
        )
      case "season":
        return request.shipDate >= (when.from ?? "") && request.shipDate <= (when.until ?? "")
      default:
        throw new NotCarried(`a condition that is not known here: ${when.fact}`)
    }
  }
}

/** A weight up to the step that holds at it. */
export function weighed({ weighing }: Service, weight: number): number {
  const row =
    weighing.steps.find((one) => one.upTo === null || weight <= Number(one.upTo) + 1e-9) ?? weighing.steps.at(-1)
  return stepUp(weight, Number(row?.step ?? "1"))
}
