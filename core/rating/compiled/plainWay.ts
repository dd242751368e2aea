import type { Address } from "../../address/index.ts"
import type { LocalDate } from "../../calendar/index.ts"
import { type MoneyText, moneyFrom, moneyText } from "../../money/index.ts"
import type { CategoryFacts } from "../../tariff/index.ts"
import {
  comparablePlace,
  type FigureByZone,
  factsIn,
  figureFor,
  fuelOn,
  type OptionCode,
  type Place,
  type Price,
  postalIndex,
  type Service,
  type Tariff,
} from "../../tariff/index.ts"
import { length, lengthIn } from "../../units/index.ts"
import type { DangerousGood, Payer } from "../request.ts"
import { compiledService, type Lane, type LaneRequest } from "./lane.ts"

/**
 * A way by a service as plain data: its tariff with no more in it than the way needs, and what is asked. It goes to a
 * worker's thread, or to the browser's, where packings are priced by the hundred.
 */
export interface PlainWay {
  readonly carrier: string
  readonly service: string
  readonly tariff: Tariff
  readonly from: Place
  readonly shipTo: Address
  readonly shipDate: LocalDate
  readonly distanceMm: string | null
  readonly options: readonly OptionCode[]
  readonly value: MoneyText | null
  readonly dangerous: readonly DangerousGood[]
  readonly categories?: CategoryFacts
  readonly payer: Payer
  readonly dutiesPayer: Payer | null
}

/** The way of a lane that a service has; its prices are those of the whole tariff. */
export function plainWay(tariff: Tariff, service: Service, request: LaneRequest, lane: Lane): PlainWay {
  const { from, shipTo, shipDate } = request
  return {
    carrier: tariff.carrier,
    service: service.code,
    tariff: thinned(tariff, service, request, lane.zone),
    from,
    shipTo,
    shipDate,
    distanceMm: request.distance ? lengthIn(request.distance, "mm").toString() : null,
    options: [...(request.options ?? [])],
    value: request.value ? moneyText(request.value) : null,
    dangerous: request.dangerous ?? [],
    ...(request.categories ? { categories: request.categories } : {}),
    payer: request.payer ?? "shipper",
    dutiesPayer: request.dutiesPayer ?? null,
  }
}

/** The lane of a way that came as plain data; null where its tariff can't be counted in whole numbers. */
export function laneOfPlain(way: PlainWay): Lane | null {
  const [service] = way.tariff.services
  const compiled = service && compiledService(way.tariff, service)
  return (
    compiled?.({
      from: way.from,
      shipTo: way.shipTo,
      shipDate: way.shipDate,
      distance: way.distanceMm === null ? null : length(way.distanceMm, "mm"),
      options: new Set(way.options),
      value: way.value && moneyFrom(way.value),
      dangerous: way.dangerous,
      categories: way.categories,
      payer: way.payer,
      dutiesPayer: way.dutiesPayer,
    }) ?? null
  )
}

/** A tariff with one service, one zone, one week of fuel, and of areas only whether the receiver lies in them. */
function thinned(tariff: Tariff, service: Service, { from, shipTo, shipDate }: LaneRequest, zone: string): Tariff {
  const asked = [...service.surcharges, ...service.sizeClasses]
    .flatMap((one) => factsIn(one.when))
    .flatMap((fact) => (fact.fact === "area" ? [fact.area] : []))
  const place = comparablePlace(shipTo)
  const inside = [...new Set(asked)].filter(
    (area) => Object.hasOwn(tariff.areas, area) && postalIndex(tariff.areas[area] ?? [])(place) >= 0,
  )
  const table = service.fuel && Object.hasOwn(tariff.fuel, service.fuel.table) ? tariff.fuel[service.fuel.table] : null
  const fuel = table ? fuelOn(table, shipDate) : null
  return {
    ...tariff,
    name: tariff.carrier,
    note: "",
    holidays: [],
    areas: Object.fromEntries(inside.map((area) => [area, [[shipTo.country, "", ""]]])),
    charts: {
      [service.chart]: {
        by: "lane",
        regions: { all: [...new Set([from.country, shipTo.country])].map((country) => [country, "", ""]) },
        lanes: [["all", "all", zone]],
      },
    },
    fuel: service.fuel && fuel ? { [service.fuel.table]: { weeks: [[fuel.since, fuel.share]] } } : {},
    taxes: Object.fromEntries(Object.entries(tariff.taxes).filter(([name]) => service.taxes.includes(name))),
    services: [
      {
        ...service,
        zones: [zone],
        price: ofZone(service, zone),
        surcharges: service.surcharges.map((one) => ({
          ...one,
          amount: { ...one.amount, figure: figureOf(one.amount.figure, zone) },
        })),
        reach: { ...service.reach, areasNotServed: [] },
        // when it arrives is known where the way was found
        transit: { ...service.transit, days: { [zone]: 0 }, lanes: [], departs: null, cutOff: null },
      },
    ],
  }
}

/** Of figures by zone the one of a zone, still by zone, so that none is none. */
function figureOf(figures: FigureByZone, zone: string): FigureByZone {
  const figure = figureFor(figures, zone)
  return figure === null ? {} : { [zone]: figure }
}

function ofZone({ price, zones }: Service, zone: string): Price {
  const column = zones.indexOf(zone) + 1
  const only = (row: readonly [string, ...string[]]): [string, ...string[]] =>
    row[column] === undefined ? [row[0]] : [row[0], row[column] as string]
  switch (price.by) {
    case "weight":
      return {
        ...price,
        rows: price.rows.map(only),
        beyond: price.beyond && { ...price.beyond, rate: figureOf(price.beyond.rate, zone) },
        hundredweight: price.hundredweight && { ...price.hundredweight, rows: price.hundredweight.rows.map(only) },
      }
    case "box":
      return {
        ...price,
        boxes: Object.fromEntries(Object.entries(price.boxes).map(([box, figures]) => [box, figureOf(figures, zone)])),
      }
    case "unit":
    case "class":
      return {
        ...price,
        minimum: figureOf(price.minimum, zone),
        rates: Object.hasOwn(price.rates, zone) ? { [zone]: price.rates[zone] } : {},
      } as Price
    case "measure":
      return { ...price, perTon: figureOf(price.perTon, zone) }
    case "way":
      return price
  }
}
