import { readdirSync, readFileSync } from "node:fs"
import type { Address } from "core/address/index.ts"
import type { PackLoad, ServiceLane, UsableBox } from "core/packing/index.ts"
import { laneOf } from "core/rating/index.ts"
import { tariffSchema } from "core/tariff/index.ts"
import { lengthIn, mass, massIn, size } from "core/units/index.ts"
import { items, packaging } from "../../demo/goods.ts"
import { type DemoOrder, plainOrder } from "../../demo/orders.ts"
import { seeded } from "../../demo/seeded.ts"
import type { PlainBox } from "./firstFit.ts"

/** Orders like those of the demo, as packing sees them, with the ways that keep their promises. */
export interface SampleOrder {
  readonly number: string
  readonly loads: readonly PackLoad[]
  readonly lanes: readonly ServiceLane[]
}

const tariffs = readdirSync("demo/tariffs")
  .filter((name) => /^[A-Z]{4}\.json$/.test(name))
  .map((name) => tariffSchema.parse(JSON.parse(readFileSync(`demo/tariffs/${name}`, "utf8"))))

const millimetres = (inches: readonly [string, string, string]) => {
  const one = size(...inches, "in")
  return [one.length, one.width, one.height].map((edge) => lengthIn(edge, "mm").toNumber()) as [number, number, number]
}
const kilograms = (pounds: string) => massIn(mass(pounds, "lb"), "kg").toNumber()

export const boxes: readonly UsableBox[] = packaging
  .filter((one) => one.kind === undefined)
  .map((one) => {
    const [length, width, height] = millimetres(one.inner)
    const [l, w, h] = millimetres(one.outer)
    return {
      code: one.code,
      length,
      width,
      height,
      maxLoad: kilograms(one.maxLoad),
      outer: { length: l, width: w, height: h },
      tare: kilograms(one.tare),
      stock: null,
      cost: Number(one.price ?? 0),
      carrier: null,
    }
  })
/** What handling a package costs: two and a half minutes of work at 27 an hour, as in the demo. */
export const handling = 1.13

export const plainBoxes: readonly PlainBox[] = boxes.map((one) => ({
  ...one,
  outerVolume: one.outer.length * one.outer.width * one.outer.height,
}))

function loadsOf(order: DemoOrder): PackLoad[] {
  return order.lines.map((line, index) => {
    const item = items.find((one) => one.sku === line.sku) as (typeof items)[number]
    const [length, width, height] = millimetres(item.size)
    return {
      key: String(index + 1),
      sku: item.sku,
      kind: item.kind ?? "general",
      hazard: item.unNumber ? (item.dangerous?.class ?? "?") : null,
      length,
      width,
      height,
      weight: kilograms(item.weight),
      upright: item.upright ?? false,
      loadLimit: item.loadLimit ? kilograms(item.loadLimit) : null,
      ownCarton: item.ownCarton ?? false,
      quantity: line.quantity * (line.unit === "case" ? (item.case?.count ?? 1) : 1),
    }
  })
}

/** Ways by all parcel services of the demo that arrive by the promise; of all where none does. */
function lanesOf(order: DemoOrder) {
  const { customer } = order
  const shipTo: Address = {
    company: customer.name,
    attention: "",
    street: customer.street,
    street2: "",
    city: customer.city,
    state: customer.state,
    postalCode: customer.postal,
    country: customer.country ?? "US",
    phone: "",
    kind: customer.kind,
  }
  const all = tariffs.flatMap((tariff) =>
    tariff.services
      .filter((service) => !service.returns && service.goods.handling !== "pallet")
      .flatMap((service) => {
        const lane = laneOf(tariff, service, {
          from: { country: "US", postalCode: "55802" },
          shipTo,
          shipDate: "2026-11-24",
          today: "2026-11-24",
          at: "09:00",
        })
        return lane ? [{ service: service.code, name: service.name, carrier: tariff.carrier, lane }] : []
      }),
  )
  const inTime = all.filter(({ lane }) => lane.arrival.date <= order.promised)
  return inTime.length > 0 ? inTime : all
}

export function sampleOrders(count: number, seed: number): SampleOrder[] {
  const random = seeded(seed)
  return Array.from({ length: count }, (_, index) => {
    const order = plainOrder(index, random)
    return { number: order.number, loads: loadsOf(order), lanes: lanesOf(order) }
  }).filter((one) => one.lanes.length > 0)
}
