import type { LocalDate } from "core/calendar/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { preselect } from "core/rating/index.ts"
import { Decimal } from "decimal.js"
import type { Context } from "../actors/index.ts"
import { mayJoin } from "../decisions/join.ts"
import { rateable } from "../packages/goods.ts"
import { handled, type Shipment, type ShipmentPackage, shipmentOf } from "../packages/shipment.ts"
import { packedRateable } from "../packing/packedPrice.ts"
import { groundOf } from "../plan/plan.ts"
import { plannedRowsOf } from "../plan/plannedRows.ts"
import { arrivesAt, type Comparison, compare, costOf, type Offer, type Rateable } from "../rating/offers.ts"
import { warehouseById } from "../setup/warehouse.ts"
import type { Rated } from "./buy.ts"
import { otherwise } from "./otherwise.ts"

/** Another way of sending the same goods, at its best service in time; `cost` is what this shipment adds to our bill. */
export interface Variant {
  readonly kind: "as-packed" | "pallet" | "loose" | "otherwise" | "joined" | "two"
  readonly cost: string
  readonly arrives: string
  readonly late: boolean
  readonly services: readonly { readonly code: string; readonly name: string }[]
  /** The order that it is joined with. */
  readonly other: string | null
  /** Packages that go by themselves. */
  readonly apart: readonly number[]
}

/** Most packages of which a shipment in two is looked for, and most orders that it is joined with. */
const mostPackages = 12
const mostOrders = 3

/**
 * The ways in which these goods could be sent: as they are packed, on a pallet or without it, together with another
 * order for the same place, and as two shipments. Of each the cheapest service in time, or the earliest.
 */
export async function variantsOf(context: Context, rated: Rated, shipment: Shipment): Promise<Variant[]> {
  const standing = (needs: boolean) => best(rated, shipment.promisedOn, (offer) => (offer.needs !== null) === needs)
  const now = standing(false)
  const other = standing(true)
  const found = [
    now && variant("as-packed", [now]),
    other && variant(other.needs === "pallet" ? "pallet" : "loose", [other]),
    await packedOtherwise(context, rated, shipment),
    ...(await joinedWays(context, rated, shipment)),
    inTwo(rated, shipment),
  ]
  return found.filter((one) => one !== null)
}

/** The best way of another packing, where there is one, as a variant. */
async function packedOtherwise(context: Context, rated: Rated, shipment: Shipment): Promise<Variant | null> {
  const found = await otherwise(context.db, rated, shipment)
  return found && variant("otherwise", [found.offer])
}

const arrival = ({ price }: Offer) => (price ? arrivesAt(price) : "")

/** The cheapest offer in time, or the earliest, of those that are looked at; as the comparison itself chooses. */
function best(
  { offers }: Comparison,
  promisedOn: LocalDate | null,
  of: (offer: Offer) => boolean = () => true,
): Offer | null {
  const rated = offers.flatMap((offer) =>
    offer.price && !offer.down && of(offer) ? [{ offer, cost: costOf(offer.price), arrives: arrival(offer) }] : [],
  )
  return preselect(rated, promisedOn)?.offer ?? null
}

function variant(
  kind: Variant["kind"],
  offers: readonly Offer[],
  more: Partial<Pick<Variant, "other" | "apart" | "cost">> = {},
): Variant {
  const cost = offers.reduce((sum, one) => sum.add(one.price ? costOf(one.price) : 0), new Decimal(0))
  return {
    kind,
    cost: cost.toFixed(2),
    arrives: offers.map(arrival).sort().at(-1) ?? "",
    late: offers.some((one) => one.late),
    services: offers.map((one) => ({ code: one.service.code, name: one.service.name })),
    other: null,
    apart: [],
    ...more,
  }
}

/** A shipment with another order, which it may be joined with. */
export interface JoinedWay extends Variant {
  readonly otherId: OrderId
  /** Somebody has packed of that order: of two that are packed one must be unpacked first. */
  readonly otherPacked: boolean
}

/**
 * Together with each other order for the same place that waits and may be joined: what both cost together, less the
 * other by itself.
 */
export async function joinedWays(context: Context, rated: Rated, shipment: Shipment): Promise<JoinedWay[]> {
  const { db, actor } = context
  const place = await db("sales_order").where({ id: shipment.orderId }).first("ship_to_key")
  if (!place?.ship_to_key || shipment.members.length > 1) return []
  const ids: OrderId[] = await db("sales_order as o")
    .where({ "o.warehouse_id": actor.warehouseId, "o.ship_to_key": place.ship_to_key })
    .whereNot("o.id", shipment.orderId)
    .whereNull("o.left_line_at")
    .whereNull("o.joined_to_id")
    .whereNull("o.cancelled_at")
    .whereNotExists(db("order_stop as s").whereRaw("s.order_id = o.id").select(db.raw("1")))
    .orderBy("o.id")
    .limit(mostOrders)
    .pluck("o.id")
  if (ids.length === 0) return []
  const ground = await groundOf(db, actor.warehouseId, context.now)
  const rows = await plannedRowsOf(db, [...ids, shipment.orderId])
  const own = rows.get(shipment.orderId)?.order
  const mine = rateable(rated.ground.warehouse, shipment, rated.pallet)
  const variants: JoinedWay[] = []
  for (const id of ids) {
    const other = rows.get(id)
    if (!other?.order || !own || !mayJoin(ground, own, other.order)) continue
    const there = await shipmentOf(db, id)
    const packed = there && there.state === "open" && handled(there.packages).some((one) => one.contents.length > 0)
    const theirs = packed
      ? rateable(await warehouseById(db, actor.warehouseId), there, rated.pallet)
      : packedRateable(ground, other)?.goods
    if (!theirs) continue
    const alone = best(compare(rated.ground, theirs), theirs.promisedOn)
    const both = best(compare(rated.ground, together(mine, theirs)), earliest(mine, theirs))
    if (!alone?.price || !both?.price) continue
    const cost = costOf(both.price).sub(costOf(alone.price)).toFixed(2)
    variants.push({
      ...variant("joined", [both], { other: other.order.order_number, cost }),
      otherId: other.order.id,
      otherPacked: (there?.packages.length ?? 0) > 0,
    })
  }
  return variants
}

/** Of goods of two shipments together: all are of a category only where those of both are. */
const bothCategories = (a: Rateable["categories"], b: Rateable["categories"]): Rateable["categories"] =>
  a || b
    ? {
        some: [...new Set([...(a?.some ?? []), ...(b?.some ?? [])])],
        all: a?.all && a.all === b?.all ? a.all : null,
        has: (a ?? b)?.has ?? [],
      }
    : undefined

const earliest = (a: Rateable, b: Rateable): LocalDate | null =>
  [a.promisedOn, b.promisedOn].flatMap((day) => day ?? []).sort()[0] ?? null

/** Two shipments to one place as one. */
function together(a: Rateable, b: Rateable): Rateable {
  const numbered = (packages: Rateable["parcels"]) => packages.map((one, at) => ({ ...one, number: at + 1 }))
  return {
    ...a,
    parcels: numbered([...a.parcels, ...b.parcels]),
    pallets: numbered([...a.pallets, ...b.pallets]),
    promisedOn: earliest(a, b),
    dangerous: [...a.dangerous, ...b.dangerous],
    categories: bothCategories(a.categories, b.categories),
    options: [...new Set([...a.options, ...b.options])],
    value: a.value && b.value ? { ...a.value, amount: a.value.amount.add(b.value.amount) } : (a.value ?? b.value),
  }
}

/**
 * The best shipment in two: the packages with dangerous goods by themselves, or one package by itself. Null where there
 * is one package, or no way in two that all services together take.
 */
function inTwo(rated: Rated, shipment: Shipment): Variant | null {
  const packages = handled(shipment.packages)
  if (packages.length < 2 || packages.length > mostPackages) return null
  const risky = packages.filter((one) => holdsDangerous(shipment, one)).map((one) => one.number)
  const splits = [
    ...packages.map((one) => [one.number]),
    ...(risky.length > 1 && risky.length < packages.length ? [risky] : []),
  ]
  const part = (numbers: ReadonlySet<number>, inside: boolean): Offer | null => {
    const packs = shipment.packages.filter((one) => numbers.has(one.on ?? one.number) === inside)
    const goods = rateable(rated.ground.warehouse, partOf(shipment, packs), rated.pallet)
    return best(compare(rated.ground, goods), shipment.promisedOn, (offer) => offer.needs === null)
  }
  const ways = splits.flatMap((apart): Variant[] => {
    const numbers = new Set(apart)
    const [one, two] = [part(numbers, true), part(numbers, false)]
    return one && two ? [variant("two", [one, two], { apart })] : []
  })
  return ways.sort((a, b) => Number(a.late) - Number(b.late) || Number(a.cost) - Number(b.cost))[0] ?? null
}

const holdsDangerous = (shipment: Shipment, one: ShipmentPackage): boolean =>
  one.lineIds.some((id) => shipment.lines.some((line) => line.id === id && line.dangerous !== null))

/** A shipment with some of its packages only, and the lines that are in them. */
function partOf(shipment: Shipment, packages: readonly ShipmentPackage[]): Shipment {
  const inside = new Set(packages.flatMap((one) => one.lineIds))
  return { ...shipment, packages, lines: shipment.lines.filter((line) => inside.has(line.id)) }
}
