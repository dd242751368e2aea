import { type Address, isMilitary, isPostBox } from "../../address/index.ts"
import type { LocalDate } from "../../calendar/index.ts"
import {
  type ComparablePlace,
  comparablePlace,
  factsIn,
  fuelOn,
  type Place,
  postalIndex,
  type Service,
  type Tariff,
} from "../../tariff/index.ts"
import { type Arrival, arrivalOf } from "../arrival.ts"
import { floorLengthOf, type TrailerInside } from "../floor.ts"
import type { Payer, RateRequest } from "../request.ts"
import { ratedAsResidential } from "../request.ts"
import { goodsRefused, wishesRefused } from "../suitability.ts"
import { type Amounts, compileAmounts, compileBaseCharge, type Share, share } from "./amounts.ts"
import { compileBase, fixedBase } from "./base.ts"
import { type AreaLookup, areaLookup, chartLookup, type ZoneLookup } from "./chart.ts"
import { compileCondition, type LaneFacts, type Settled, type Together } from "./conditions.ts"
import { counted, inexact, plus, wholeParts } from "./exact.ts"
import { type Counted, compileMeasuring, type Measuring, weightScale } from "./measuring.ts"
import { type CountedPackage, lengthParts, massParts, standing, trailerInside } from "./packages.ts"
import type { ZonePrice } from "./pricing.ts"
import { compileSurcharges, dueCharges, type OpenRule, openRules } from "./surcharges.ts"
import { wayAmount } from "./way.ts"

/** A request without its packages: what a lane is asked for. */
export type LaneRequest = Omit<RateRequest, "packages">

export interface LanePrice {
  /** In parts of `scale` of the currency. */
  readonly list: number
  readonly contract: number
}

/** A way by a service on a day, ready to price any set of packages. */
export interface Lane {
  readonly zone: string
  readonly arrival: Arrival
  readonly payer: Payer
  readonly currency: string
  /** Parts of the currency that prices are counted in. */
  readonly scale: number
  /** The price of packages, or null where the service does not take them. Throws `inexact` where it can't say. */
  price(packages: readonly CountedPackage[]): LanePrice | null
}

/** A service made ready: a lane for a request, or null where it does not go that way. */
export type CompiledService = (request: LaneRequest) => Lane | null

const tariffs = new WeakMap<Tariff, Map<Service, CompiledService | null>>()
const shared = new WeakMap<Tariff, { charts: Map<string, ZoneLookup>; areas: AreaLookup }>()

/** A service of a tariff, compiled once; null where its figures are too fine or too large for whole numbers. */
export function compiledService(tariff: Tariff, service: Service): CompiledService | null {
  const services = tariffs.get(tariff) ?? new Map<Service, CompiledService | null>()
  tariffs.set(tariff, services)
  const known = services.get(service)
  if (known !== undefined) return known
  let compiled: CompiledService | null = null
  try {
    compiled = compile(tariff, service)
  } catch (thrown) {
    if (thrown !== inexact) throw thrown
  }
  services.set(service, compiled)
  return compiled
}

function sharedOf(tariff: Tariff) {
  const known = shared.get(tariff) ?? { charts: new Map<string, ZoneLookup>(), areas: areaLookup(tariff.areas) }
  shared.set(tariff, known)
  return known
}

/** What is looked up of an address, kept with it: every service asks. */
interface Receiver {
  readonly place: ComparablePlace
  readonly postBox: boolean
  readonly military: boolean
}
const receivers = new WeakMap<Address, Receiver>()
function receiverOf(address: Address): Receiver {
  const known = receivers.get(address)
  if (known) return known
  const found = { place: comparablePlace(address), postBox: isPostBox(address), military: isMilitary(address) }
  receivers.set(address, found)
  return found
}

const senders = new WeakMap<Place, ComparablePlace>()
function senderOf(place: Place): ComparablePlace {
  const known = senders.get(place) ?? comparablePlace(place)
  senders.set(place, known)
  return known
}

/** What a zone of a service is priced by. */
interface ZonePart {
  readonly base: ZonePrice | null
  readonly rules: ReturnType<typeof compileSurcharges>
}

function compile(tariff: Tariff, service: Service): CompiledService {
  const { charts, areas } = sharedOf(tariff)
  const chart = charts.get(service.chart) ?? chartOf(tariff, service)
  if (chart) charts.set(service.chart, chart)
  const amounts = compileAmounts(tariff, [service])
  const scale = weightScale(service)
  const measuring = compileMeasuring(service, scale)
  const charge = compileBaseCharge(service, amounts)
  const classes = service.sizeClasses.map((one) => ({
    code: one.code,
    leastWeight: one.leastWeight === null ? 0 : counted(one.leastWeight, scale),
    when: compileCondition(one.when, service),
  }))
  const taxes = service.taxes.flatMap((name) => {
    const tax = Object.hasOwn(tariff.taxes, name) ? tariff.taxes[name] : undefined
    return tax ? [{ countries: tax.countries, share: share(tax.share) }] : []
  })
  const looksAtFloor = service.surcharges.some((one) => factsIn(one.when).some((fact) => fact.fact === "floor-over"))
  const prepared: Prepared = {
    measuring,
    amounts,
    limits: compileLimits(service),
    trailer: looksAtFloor && service.price.by === "class" ? trailerInside(service.price.trailer) : null,
    fuelled: new Set(service.fuel?.on),
  }
  const zones = new Map<string, ZonePart>()
  const zonePart = (zone: string): ZonePart => {
    const known = zones.get(zone) ?? {
      base: compileBase({ service, zone, scale, measuring, amounts, charge }),
      rules: compileSurcharges(service, zone, amounts),
    }
    zones.set(zone, known)
    return known
  }
  const fuelShare = kept((day: LocalDate): Share | null | undefined => {
    if (!service.fuel) return null
    const table = Object.hasOwn(tariff.fuel, service.fuel.table) ? tariff.fuel[service.fuel.table] : undefined
    const found = table ? fuelOn(table, day) : null
    return found ? share(found.share) : undefined
  })
  const arrivals = arrivalsOf(tariff, service)

  return (request) => {
    const { shipTo, from, shipDate } = request
    if (shipDate < tariff.validFrom || (tariff.validTo !== null && shipDate > tariff.validTo)) return null
    const receiver = receiverOf(shipTo)
    const here = senderOf(from)
    if (!reachable(tariff, service, request, receiver, areas)) return null
    const distance = request.distance ?? null
    const zone = chart
      ? service.returns
        ? chart(receiver.place, here, distance)
        : chart(here, receiver.place, distance)
      : null
    if (zone === null || !service.zones.includes(zone)) return null
    if (!willing(service, request)) return null
    const arrival = arrivals(zone, request, receiver.place)
    if (!arrival) return null
    const fuel = fuelShare(shipDate)
    if (fuel === undefined) return null
    const part = zonePart(zone)
    const way = service.price.by === "way" ? wayAmount(service.price, distance, amounts) : null
    const base = service.price.by === "way" ? (way === null ? null : fixedBase(charge(way), scale)) : part.base
    if (!base) return null
    const facts: LaneFacts = {
      residential: ratedAsResidential(shipTo),
      options: request.options ?? none,
      areas,
      place: receiver.place,
      country: shipTo.country,
      zone,
      shipDate,
      dangerous: (request.dangerous?.length ?? 0) > 0,
      value: request.value ?? null,
    }
    const payer = request.payer ?? "shipper"
    return new OpenLane(zone, arrival, payer, tariff.currency, prepared, {
      base,
      classes: classes.map((one) => ({ ...one, when: one.when(facts) })),
      rules: openRules(part.rules, facts),
      fuel,
      taxes: taxes.length === 0 ? taxes : taxes.filter((tax) => taxDue(tax, shipTo.country)),
    })
  }
}

const taxDue = ({ countries }: { readonly countries: readonly string[] }, country: string): boolean =>
  countries.length === 0 || countries.includes(country)

/** What a lane has of its service. */
interface Prepared {
  readonly measuring: Measuring
  readonly amounts: Amounts
  readonly limits: (packages: readonly CountedPackage[], mass: number) => boolean
  /** The trailer that floor is reckoned in; null where no condition looks at the floor. */
  readonly trailer: TrailerInside | null
  readonly fuelled: ReadonlySet<string>
}

/** What it has of the way that it goes. */
interface Terms {
  readonly base: ZonePrice
  readonly classes: readonly SettledClass[]
  readonly rules: readonly OpenRule[]
  readonly fuel: Share | null
  readonly taxes: readonly { readonly share: Share }[]
}

interface SettledClass {
  readonly code: string
  readonly leastWeight: number
  readonly when: Settled
}

class OpenLane implements Lane {
  readonly zone: string
  readonly arrival: Arrival
  readonly payer: Payer
  readonly currency: string
  readonly #of: Prepared
  readonly #terms: Terms

  constructor(zone: string, arrival: Arrival, payer: Payer, currency: string, of: Prepared, terms: Terms) {
    this.zone = zone
    this.arrival = arrival
    this.payer = payer
    this.currency = currency
    this.#of = of
    this.#terms = terms
  }

  get scale(): number {
    return this.#of.amounts.scale
  }

  price(packages: readonly CountedPackage[]): LanePrice | null {
    const { measuring, amounts, limits, trailer, fuelled } = this.#of
    const { base, classes, rules, fuel, taxes } = this.#terms
    const together = measured(packages, measuring, classes, trailer)
    if (!together || !limits(packages, together.mass)) return null
    const charged = base(together)
    const extra = charged && dueCharges(rules, charged, together)
    if (!charged || !extra) return null
    let [list, contract] = [0, 0]
    for (const one of charged.charges) {
      list = plus(list, one.list)
      contract = plus(contract, one.contract)
    }
    let [fuelList, fuelContract] = fuelled.has("base") ? [list, contract] : [0, 0]
    for (const one of extra) {
      list = plus(list, one.list)
      contract = plus(contract, one.contract)
      if (fuelled.has(one.code)) {
        fuelList += one.list
        fuelContract += one.contract
      }
    }
    if (fuel) {
      list = plus(list, amounts.shareOf(fuelList, fuel))
      contract = plus(contract, amounts.shareOf(fuelContract, fuel))
    }
    return taxes.length === 0 ? { list, contract } : taxed({ list, contract }, taxes, amounts)
  }
}

const none: ReadonlySet<never> = new Set()

/** Each tax on the sum of all charges before taxes. */
function taxed(sum: LanePrice, taxes: readonly { readonly share: Share }[], amounts: Amounts): LanePrice {
  let { list, contract } = sum
  for (const tax of taxes) {
    list = plus(list, amounts.shareOf(sum.list, tax.share))
    contract = plus(contract, amounts.shareOf(sum.contract, tax.share))
  }
  return { list, contract }
}

function measured(
  packages: readonly CountedPackage[],
  measuring: Measuring,
  classes: readonly SettledClass[],
  trailer: TrailerInside | null,
): Together | null {
  if (packages.length === 0) return null
  const all: Counted[] = []
  let mass = 0
  for (const one of packages) {
    all.push(measuring.measure(one, classes))
    mass = plus(mass, one.mass)
  }
  const floor = trailer ? floorLengthOf(packages.filter((one) => one.pallet).map(standing), trailer) : 0
  return { packages: all, mass, floor }
}

/** Whether packages are within a service's limits: the same as `packagesRefused` and `coverRefused`. */
function compileLimits({ limits, goods, lengthUnit, weighing, cover }: Service) {
  const most = (figure: string | null, unit: number) =>
    figure === null ? Number.POSITIVE_INFINITY : wholeParts(figure, unit)
  const weight = most(limits.weight, massParts[weighing.unit])
  const total = most(limits.total, massParts[weighing.unit])
  const length = most(limits.length, lengthParts[lengthUnit])
  const girth = most(limits.lengthAndGirth, lengthParts[lengthUnit])
  const height = most(limits.height, lengthParts[lengthUnit])
  const pieces = limits.pieces ?? Number.POSITIVE_INFINITY
  const declared = counted(cover.most, 1_000_000)
  return (packages: readonly CountedPackage[], mass: number): boolean => {
    if (packages.length > pieces || mass > total) return false
    for (const { mass: own, edges, height: tall, pallet, declared: value } of packages)
      if (
        own > weight ||
        edges[0] > length ||
        edges[0] + 2 * (edges[1] + edges[2]) > girth ||
        tall > height ||
        value > declared ||
        goods.handling === (pallet ? "parcel" : "pallet")
      )
        return false
    return true
  }
}

/** Whether a service goes there, to such a receiver: the same as `outOfReach`. */
function reachable(
  tariff: Tariff,
  { reach, returns }: Service,
  { from, shipTo }: LaneRequest,
  { place, postBox, military }: Receiver,
  areas: AreaLookup,
): boolean {
  if (returns && !reach.countries.includes(from.country)) return false
  if (!reach.countries.includes(shipTo.country)) return false
  if ((postBox && !reach.postBox) || (military && !reach.military)) return false
  if (shipTo.country === tariff.country && reach.statesNotServed.includes(shipTo.state)) return false
  if (shipTo.kind === "business" ? !reach.business : !reach.residential) return false
  return !reach.areasNotServed.some((area) => areas(area, place))
}

/** Whether a service takes such goods and does what is asked: `goodsRefused` and `wishesRefused` say why not. */
function willing(service: Service, request: LaneRequest): boolean {
  const { dangerous, options, payer = "shipper", dutiesPayer, categories } = request
  const plain =
    !dangerous?.length &&
    !options?.size &&
    !dutiesPayer &&
    !categories?.some.length &&
    service.goods.only === null &&
    service.limits.value === null
  return plain
    ? service.billing.freight.includes(payer)
    : goodsRefused(service, request).length === 0 && wishesRefused(service, request).length === 0
}

const chartOf = (tariff: Tariff, { chart }: Service): ZoneLookup | null => {
  const found = Object.hasOwn(tariff.charts, chart) ? tariff.charts[chart] : undefined
  return found ? chartLookup(found) : null
}

/** Arrivals by what they depend on, kept: thousands of shipments leave on the same day for the same zones. */
function arrivalsOf(tariff: Tariff, service: Service) {
  const { transit } = service
  const lanes = transit.lanes.length === 0 ? null : postalIndex(transit.lanes)
  const known = new Map<string, Arrival | null>()
  const ask = (zone: string, request: LaneRequest) => {
    const answer = arrivalOf(tariff, service, zone, request)
    return answer.ok ? answer.value : null
  }
  return (zone: string, request: LaneRequest, place: ComparablePlace): Arrival | null => {
    // days on which nothing moves at the far end are asked for each time
    if (request.holidays && request.holidays.size > 0) return ask(zone, request)
    const { shipDate, today, at, options } = request
    const late = today === shipDate && !!at && transit.cutOff !== null && at > transit.cutOff
    const lane = lanes ? lanes(place) : -1
    const key = `${zone} ${lane} ${shipDate} ${today ?? ""} ${late} ${options?.has("saturday") === true}`
    const found = known.get(key)
    if (found !== undefined) return found
    // a process lives for weeks: days gone by are not kept
    if (known.size >= 1_000) known.clear()
    const arrival = ask(zone, request)
    known.set(key, arrival)
    return arrival
  }
}

function kept<K, V>(make: (key: K) => V): (key: K) => V {
  const known = new Map<K, V>()
  return (key) => {
    if (known.has(key)) return known.get(key) as V
    if (known.size >= 100) known.clear()
    const value = make(key)
    known.set(key, value)
    return value
  }
}
