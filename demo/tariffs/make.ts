import { writeFileSync } from "node:fs"
import { dirname, join } from "node:path"
import { fileURLToPath } from "node:url"
import { type TariffDocument, tariffSchema, tariffText, type ZoneChart, zonesOf } from "core/tariff/index.ts"
import { meridian, swiftwater } from "./express.ts"
import { halcyon, ironbark, ownVehicle, pinecoast, sledgeway } from "./freight.ts"
import { boreal, civic, hearthway, larkspur, sierra } from "./parcel.ts"

/**
 * Makes the invented tariffs of the demo's carriers as JSON documents beside this file: `npm run tariffs`.
 * Prices come from formulas of our own and mean nothing outside the demo; distances are those between the centers
 * of three-digit ZIP areas (package `zipcodes`). The documents are committed, so that this need not run.
 */
const folder = dirname(fileURLToPath(import.meta.url))
const tariffs: readonly TariffDocument[] = [
  larkspur,
  meridian,
  boreal,
  civic,
  swiftwater,
  ironbark,
  sledgeway,
  sierra,
  hearthway,
  pinecoast,
  halcyon,
  ownVehicle,
]

/** A tariff without what nothing in it uses: zones that its chart does not know, areas, cover that can't be asked for. */
function tidied(tariff: TariffDocument): TariffDocument {
  const text = JSON.stringify(tariff.services)
  const areas = Object.entries(tariff.areas ?? {}).filter(([name]) => text.includes(`"${name}"`))
  return {
    ...tariff,
    areas: Object.fromEntries(areas),
    services: tariff.services.map((service) => {
      const known = new Set(zonesOf(tariff.charts[service.chart] as ZoneChart))
      const kept = service.zones.flatMap((zone, at) => (known.has(zone) ? [at] : []))
      const zones = kept.map((at) => service.zones[at] as string)
      const { price, transit, cover, options = [] } = service
      const columns = (rows: [string, ...string[]][]) =>
        rows.map(([weight, ...cells]): [string, ...string[]] => [weight, ...kept.map((at) => cells[at] as string)])
      return {
        ...service,
        zones,
        price: price.by === "weight" ? { ...price, rows: columns(price.rows) } : price,
        transit: { ...transit, days: Object.fromEntries(zones.map((zone) => [zone, transit.days[zone] as number])) },
        cover: options.some((one) => one.option === "declared-value") ? cover : { ...cover, most: cover.included },
      }
    }),
  }
}

for (const tariff of tariffs.map(tidied)) {
  tariffSchema.parse(tariff)
  writeFileSync(join(folder, `${tariff.carrier}.json`), tariffText(tariff))
}
