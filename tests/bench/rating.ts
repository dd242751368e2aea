import { readdirSync, readFileSync } from "node:fs"
import { cpus } from "node:os"
import { money } from "core/money/index.ts"
import { countedPackage, laneOf, priceShipment, type RatedPackage, rateShipment } from "core/rating/index.ts"
import { lintTariff, type Service, type Tariff, tariffSchema } from "core/tariff/index.ts"
import { length, mass, size } from "core/units/index.ts"
import type { Knex } from "knex"
import { closePool, compute } from "server/compute/pool.ts"
import { type PlainGround, plainGround, plainRateable } from "server/rating/batch.ts"
import { compare, type Rateable, ratingGround, requestFor } from "server/rating/offers.ts"
import { warehouseById } from "server/setup/warehouse.ts"

const say = (text: string) => process.stdout.write(`${text}\n`)

/** The same figures on every run. */
function random(seed: number): () => number {
  let state = seed
  return () => {
    state = (state * 1_103_515_245 + 12_345) % 2_147_483_648
    return state / 2_147_483_648
  }
}

const cities = [
  ["CO", "80205"],
  ["IL", "60601"],
  ["ND", "58102"],
  ["WI", "53703"],
  ["CA", "94107"],
  ["NY", "10001"],
  ["TX", "77002"],
  ["MN", "55401"],
] as const

export function shipments(count: number, packages: number): Rateable[] {
  const next = random(7)
  const between = (low: number, high: number) => Math.round(low + next() * (high - low))
  return Array.from({ length: count }, (_, at): Rateable => {
    const [state, postalCode] = cities[at % cities.length] as (typeof cities)[number]
    const pack = (number: number): RatedPackage => ({
      number,
      weight: mass(between(2, 45), "lb"),
      size: size(between(6, 24), between(6, 18), between(4, 16), "in"),
      handling: "parcel",
      declared: null,
    })
    const parcels = Array.from({ length: packages }, (_, number) => pack(number + 1))
    const pallet: RatedPackage = {
      number: 1,
      weight: mass(60 + 22 * packages, "lb"),
      size: size(48, 40, 30, "in"),
      handling: "pallet",
    }
    return {
      shipTo: {
        company: "Somebody",
        attention: "",
        street: "1 Any Street",
        street2: "",
        city: "",
        state,
        postalCode,
        country: "US",
        phone: "",
        kind: at % 3 === 0 ? "residential" : "business",
      },
      parcels,
      pallets: [pallet],
      standing: "loose",
      promisedOn: null,
      dangerous: [],
      options: [],
      value: money(500, "USD"),
      distance: length(900_000_000, "mm"),
      payer: "shipper",
      account: "",
      dutiesPayer: null,
      shipOn: null,
      collectionId: null,
      chosenServiceId: null,
    }
  })
}

/** Seconds that something takes at its quickest of three. */
function quickest(work: () => void): number {
  return Math.min(
    ...[1, 2, 3].map(() => {
      const start = performance.now()
      work()
      return (performance.now() - start) / 1000
    }),
  )
}

/** Rating on one core, how it grows, in the pool of workers, what it holds in memory; and the linter. */
export async function benchRating(db: Knex, now: Date): Promise<void> {
  const ground = await ratingGround(db, await warehouseById(db, 1), now)
  const some = shipments(200, 2)
  const rateAll = (of: readonly Rateable[], services = ground.services) => {
    for (const one of of) compare({ ...ground, services }, one)
  }
  rateAll(some.slice(0, 50))
  const base = quickest(() => rateAll(some))
  const rates = some.length * ground.services.length
  say(`\nrating, one core: ${some.length} shipments of 2 packages × ${ground.services.length} services`)
  say(
    `  ${Math.round(rates / base)} rates a second, ${((base / some.length) * 1000).toFixed(2)} ms a shipment by all services`,
  )
  const four = shipments(200, 4)
  const packages = quickest(() => rateAll(four))
  say(`  packages doubled: ${(packages / base).toFixed(2)} times`)
  const twice = [...ground.services, ...ground.services]
  const services = quickest(() => rateAll(some, twice))
  say(`  services doubled: ${(services / base).toFixed(2)} times`)
  const many = shipments(20, 60)
  const sixty = quickest(() => rateAll(many)) / many.length
  say(`  a shipment of 60 packages: ${(sixty / (base / some.length)).toFixed(1)} times one of 2`)
  byKind(ground.services.length, some)
  for (const when of ["just started", "again", "warm"]) await inPool(plainGround(ground), base / some.length, when)
  await closePool()
  const documents = readdirSync("demo/tariffs")
    .filter((name) => /^[A-Z]{4}\.json$/.test(name))
    .map((name) => JSON.parse(readFileSync(`demo/tariffs/${name}`, "utf8")))
  const parsed = documents.map((one) => tariffSchema.parse(one))
  const parse = quickest(() => documents.forEach((one) => tariffSchema.parse(one)))
  const lint = quickest(() => parsed.forEach((one) => lintTariff(one)))
  say(`  ${documents.length} tariffs read: ${(parse * 1000).toFixed(0)} ms; linted: ${(lint * 1000).toFixed(0)} ms`)

  function byKind(_: number, all: readonly Rateable[]): void {
    const kinds = new Map<string, { tariff: Tariff; terms: Service }[]>()
    for (const service of ground.services)
      for (const { tariff } of service.versions.slice(0, 1)) {
        const terms = tariff.services.find((one) => one.code === service.code)
        if (terms) kinds.set(terms.price.by, [...(kinds.get(terms.price.by) ?? []), { tariff, terms }])
      }
    for (const [kind, held] of kinds) {
      // what takes the shipment: a refusal is quick either way
      const asked = all.flatMap((one) =>
        held.flatMap(({ tariff, terms }) => {
          const request = requestFor(ground, one, terms, "2026-11-24")
          return priceShipment(tariff, terms, request) ? [{ tariff, terms, request }] : []
        }),
      )
      if (asked.length === 0) continue
      const each = (work: (one: (typeof asked)[number]) => unknown, times: number) =>
        (quickest(() => {
          for (let round = 0; round < times; round += 1) for (const one of asked) work(one)
        }) /
          asked.length /
          times) *
        1e6
      const explained = each((one) => rateShipment(one.tariff, one.terms, one.request), 2)
      const compiled = each((one) => priceShipment(one.tariff, one.terms, one.request), 20)
      const lanes = asked.map((one) => ({
        lane: laneOf(one.tariff, one.terms, one.request),
        packages: one.request.packages.flatMap((pack) => countedPackage(pack) ?? []),
      }))
      let at = 0
      const price = each(() => {
        const { lane, packages } = lanes[at++ % lanes.length] as (typeof lanes)[number]
        lane?.price(packages)
      }, 20)
      say(
        `  price by ${kind}: ${explained.toFixed(0)} µs explained, ${compiled.toFixed(1)} µs compiled (${(explained / compiled).toFixed(0)} times), ${price.toFixed(1)} µs for other packages on the same way`,
      )
    }
  }
}

/** Two thousand shipments by thirty services in the pool, as a run does it, against one core. */
async function inPool(ground: PlainGround, alone: number, when: string): Promise<void> {
  const all = shipments(2_000, 2).map((one, id) => ({ id, rateable: plainRateable(one) }))
  const part = (from: number) => compute("compareMany", { ground, shipments: all.slice(from, from + 100) })
  const before = process.memoryUsage().rss
  const start = performance.now()
  let at = 0
  let most = before
  const lane = async () => {
    while (at < all.length) {
      const from = at
      at += 100
      await part(from)
      most = Math.max(most, process.memoryUsage().rss)
    }
  }
  await Promise.all([lane(), lane()])
  const seconds = (performance.now() - start) / 1000
  say(
    `  2 000 shipments × ${ground.services.length} services in the pool of 2 threads (${cpus().length} cores, ${when}): ${seconds.toFixed(1)} s, ${((alone * 2_000) / seconds).toFixed(2)} times one core`,
  )
  say(
    `  memory of the process with its threads: ${Math.round(before / 2 ** 20)} MB before, ${Math.round(most / 2 ** 20)} MB at most`,
  )
}
