import type { LocalDate } from "../../calendar/index.ts"
import { amountBases, type FigureByZone, type Price } from "../prices.ts"
import type { Service, Tariff } from "../schema.ts"
import {
  type Column,
  codeCell,
  columnsOf,
  countryCell,
  dateCell,
  daysCell,
  figureCell,
  jsonCell,
  oneOf,
  optional,
  postalCell,
  shareCell,
} from "./cells.ts"

type Rows = readonly (readonly string[])[]
type Records = readonly Record<string, string>[]

/** One table of a tariff: its columns, its rows, and the tariff with other rows. */
export interface Kind {
  readonly name: string
  readonly columns: readonly Column[]
  readonly rows: Rows
  readonly put: (records: Records) => Tariff
}

const figures = (byZone: FigureByZone, zone: string): string =>
  typeof byZone === "string" ? byZone : (byZone[zone] ?? "")
const get = (record: Record<string, string>, name: string): string => record[name] as string
const column = (name: string, check: Column["check"]): Column => ({ name, check })

/** Every table that a tariff has. */
export function kindsOf(tariff: Tariff): Kind[] {
  return [
    ...Object.keys(tariff.charts).flatMap((name) => chartKinds(tariff, name)),
    ...areas(tariff),
    ...Object.keys(tariff.fuel).flatMap((name) => fuelKinds(tariff, name)),
    ...tariff.services.flatMap((service, at) => serviceKinds(tariff, service, at)),
  ]
}

const rangeColumns = [column("country", countryCell), column("first", postalCell), column("last", postalCell)]
type Range = [string, string, string]
const rangeOf = (record: Record<string, string>): Range => [
  get(record, "country"),
  get(record, "first"),
  get(record, "last"),
]

function chartKinds(tariff: Tariff, name: string): Kind[] {
  const chart = tariff.charts[name]
  const put = (changed: Tariff["charts"][string]): Tariff => ({
    ...tariff,
    charts: { ...tariff.charts, [name]: changed },
  })
  if (!chart) return []
  switch (chart.by) {
    case "postal":
      return [
        {
          name: `zones.${name}`,
          columns: [
            column("from_country", countryCell),
            column("from_first", postalCell),
            column("from_last", postalCell),
            ...rangeColumns,
            column("zone", codeCell),
          ],
          rows: chart.origins.flatMap((origin) => origin.ranges.map((range) => [...origin.from, ...range])),
          put: (records) => {
            const origins = new Map<string, { from: Range; ranges: [...Range, string][] }>()
            for (const record of records) {
              const from: Range = [get(record, "from_country"), get(record, "from_first"), get(record, "from_last")]
              const origin = origins.get(from.join(" ")) ?? { from, ranges: [] }
              origin.ranges.push([...rangeOf(record), get(record, "zone")])
              origins.set(from.join(" "), origin)
            }
            return put({ by: "postal", origins: [...origins.values()] })
          },
        },
      ]
    case "distance":
      return [
        {
          name: `zones.${name}`,
          columns: [column("up_to", figureCell), column("zone", codeCell)],
          rows: chart.bands,
          put: (records) => put({ ...chart, bands: records.map((one) => [get(one, "up_to"), get(one, "zone")]) }),
        },
      ]
    case "lane":
      return [
        {
          name: `zones.${name}`,
          columns: [column("from", codeCell), column("to", codeCell), column("zone", codeCell)],
          rows: chart.lanes,
          put: (records) =>
            put({ ...chart, lanes: records.map((one) => [get(one, "from"), get(one, "to"), get(one, "zone")]) }),
        },
        named(`regions.${name}`, "region", chart.regions, (regions) => put({ ...chart, regions })),
      ]
  }
}

/** Lists of ranges under names, a row for each. */
function named(
  name: string,
  key: string,
  lists: Readonly<Record<string, readonly Range[]>>,
  put: (lists: Record<string, Range[]>) => Tariff,
): Kind {
  return {
    name,
    columns: [column(key, codeCell), ...rangeColumns],
    rows: Object.entries(lists).flatMap(([of, ranges]) => ranges.map((range) => [of, ...range])),
    put: (records) => {
      const changed: Record<string, Range[]> = {}
      for (const record of records) changed[get(record, key)] = [...(changed[get(record, key)] ?? []), rangeOf(record)]
      return put(changed)
    },
  }
}

const areas = (tariff: Tariff): Kind[] =>
  Object.keys(tariff.areas).length === 0
    ? []
    : [named("areas", "area", tariff.areas, (changed) => ({ ...tariff, areas: changed }))]

/** The cell of a week has been read by `dateCell`. */
const dated = ([week, value]: [string, string]): [LocalDate, string] => [week as LocalDate, value]

function fuelKinds(tariff: Tariff, name: string): Kind[] {
  const table = tariff.fuel[name]
  const put = (changed: Tariff["fuel"][string]): Tariff => ({ ...tariff, fuel: { ...tariff.fuel, [name]: changed } })
  if (!table) return []
  const pairs = (of: string, a: Column, b: Column, rows: Rows, keep: (pairs: [string, string][]) => Tariff): Kind => ({
    name: `${of}.${name}`,
    columns: [a, b],
    rows,
    put: (records) => keep(records.map((one) => [get(one, a.name), get(one, b.name)])),
  })
  if ("weeks" in table)
    return [
      pairs("fuel", column("week", dateCell), column("share", shareCell), table.weeks, (weeks) =>
        put({ weeks: weeks.map(dated) }),
      ),
    ]
  return [
    pairs("fuel", column("week", dateCell), column("price", figureCell), table.prices, (prices) =>
      put({ ...table, prices: prices.map(dated) }),
    ),
    pairs("fuel-steps", column("at_least", figureCell), column("share", shareCell), table.steps, (steps) =>
      put({ ...table, steps }),
    ),
  ]
}

function serviceKinds(tariff: Tariff, service: Service, at: number): Kind[] {
  const keep = (changed: Partial<Service>): Tariff => ({
    ...tariff,
    services: tariff.services.map((one, index) => (index === at ? { ...one, ...changed } : one)),
  })
  return [
    ...priceKinds(service, (price) => keep({ price })),
    ...surcharges(service, (changed) => keep({ surcharges: changed })),
    {
      name: `transit.${service.code}`,
      columns: [column("zone", oneOf(service.zones)), column("days", daysCell)],
      rows: service.zones.map((zone) => [zone, String(service.transit.days[zone] ?? "")]),
      put: (records) =>
        keep({
          transit: {
            ...service.transit,
            days: Object.fromEntries(records.map((one) => [get(one, "zone"), Number(get(one, "days"))])),
          },
        }),
    },
  ]
}

function priceKinds({ code, price, zones }: Service, keep: (price: Price) => Tariff): Kind[] {
  const byZone = columnsOf(zones, figureCell)
  /** Rows of a key and a figure for each zone. */
  const grid = (name: string, key: Column, rows: Rows, put: (rows: [string, ...string[]][]) => Tariff): Kind => ({
    name: `${name}.${code}`,
    columns: [key, ...byZone],
    rows,
    put: (records) => put(records.map((one) => [get(one, key.name), ...zones.map((zone) => get(one, zone))])),
  })
  const zoneCell = oneOf(zones)
  const perZone = (name: string, of: string, by: FigureByZone, put: (by: Record<string, string>) => Tariff): Kind => ({
    name: `${name}.${code}`,
    columns: [column("zone", zoneCell), column(of, figureCell)],
    rows: zones.map((zone) => [zone, figures(by, zone)]),
    put: (records) => put(Object.fromEntries(records.map((one) => [get(one, "zone"), get(one, of)]))),
  })
  switch (price.by) {
    case "weight": {
      const { hundredweight } = price
      return [
        grid("rates", column("weight", figureCell), price.rows, (rows) => keep({ ...price, rows })),
        ...(hundredweight
          ? [
              grid("hundredweight", column("from", figureCell), hundredweight.rows, (rows) =>
                keep({ ...price, hundredweight: { ...hundredweight, rows } }),
              ),
            ]
          : []),
      ]
    }
    case "box":
      return [
        grid(
          "rates",
          column("box", codeCell),
          Object.entries(price.boxes).map(([box, by]) => [box, ...zones.map((zone) => figures(by, zone))]),
          (rows) =>
            keep({
              ...price,
              boxes: Object.fromEntries(
                rows.map(([box, ...cells]) => [
                  box,
                  Object.fromEntries(zones.map((zone, at) => [zone, cells[at] as string])),
                ]),
              ),
            }),
        ),
      ]
    case "unit":
      return [
        {
          name: `rates.${code}`,
          columns: [column("zone", zoneCell), column("minimum", figureCell), ...columnsOf(price.breaks, figureCell)],
          rows: zones.map((zone) => [zone, figures(price.minimum, zone), ...(price.rates[zone] ?? [])]),
          put: (records) =>
            keep({
              ...price,
              minimum: Object.fromEntries(records.map((one) => [get(one, "zone"), get(one, "minimum")])),
              rates: Object.fromEntries(
                records.map((one) => [get(one, "zone"), price.breaks.map((least) => get(one, least))]),
              ),
            }),
        },
      ]
    case "class":
      return [
        {
          name: `rates.${code}`,
          columns: [column("zone", zoneCell), column("class", figureCell), ...columnsOf(price.breaks, figureCell)],
          rows: zones.flatMap((zone) =>
            Object.entries(price.rates[zone] ?? {})
              .sort(([a], [b]) => Number(a) - Number(b))
              .map(([name, rates]) => [zone, name, ...rates]),
          ),
          put: (records) => {
            const rates: Record<string, Record<string, string[]>> = {}
            for (const one of records) {
              const zone = get(one, "zone")
              rates[zone] = { ...rates[zone], [get(one, "class")]: price.breaks.map((least) => get(one, least)) }
            }
            return keep({ ...price, rates: rates as typeof price.rates })
          },
        },
        perZone("minimum", "minimum", price.minimum, (minimum) => keep({ ...price, minimum })),
      ]
    case "measure":
      return [perZone("rates", "per_ton", price.perTon, (perTon) => keep({ ...price, perTon }))]
    case "way":
      return []
  }
}

/** Surcharges, a row each. A figure by zone is written `2=4.10 3=4.30`; conditions as in the document. */
function surcharges(service: Service, keep: (surcharges: Service["surcharges"]) => Tariff): Kind[] {
  const figureOrZones: Column["check"] = (cell) => {
    for (const part of cell.includes("=") ? cell.split(" ").map((one) => one.split("=")[1] ?? "") : [cell]) {
      const why = figureCell(part)
      if (why) return why
    }
    return null
  }
  return [
    {
      name: `surcharges.${service.code}`,
      columns: [
        column("code", codeCell),
        column("basis", oneOf(amountBases)),
        column("figure", figureOrZones),
        column("least", optional(figureCell)),
        column("most", optional(figureCell)),
        column("of", optional(codeCell)),
        column("discount", shareCell),
        column("group", optional(codeCell)),
        column("when", jsonCell),
      ],
      rows: service.surcharges.map(({ code, amount, discount, group, when }) => [
        code,
        amount.basis,
        typeof amount.figure === "string"
          ? amount.figure
          : Object.entries(amount.figure)
              .map(([zone, figure]) => `${zone}=${figure}`)
              .join(" "),
        amount.least ?? "",
        amount.most ?? "",
        (amount.of ?? []).join(" "),
        discount,
        group ?? "",
        JSON.stringify(when),
      ]),
      put: (records) =>
        keep(
          records.map((one) => ({
            code: get(one, "code"),
            amount: {
              basis: get(one, "basis") as (typeof amountBases)[number],
              figure: get(one, "figure").includes("=")
                ? Object.fromEntries(
                    get(one, "figure")
                      .split(" ")
                      .map((part) => part.split("=")),
                  )
                : get(one, "figure"),
              ...(get(one, "least") ? { least: get(one, "least") } : {}),
              ...(get(one, "most") ? { most: get(one, "most") } : {}),
              ...(get(one, "of") ? { of: get(one, "of").split(" ") } : {}),
            },
            discount: get(one, "discount"),
            group: get(one, "group") || null,
            when: JSON.parse(get(one, "when")),
          })),
        ),
    },
  ]
}
