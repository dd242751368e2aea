import { createHash } from "node:crypto"
import { setImmediate } from "node:timers/promises"
import type { Money } from "core/money/index.ts"
import type { Suggestion, SuggestionInput } from "core/packing/index.ts"
import type { Outcome } from "core/refusal/index.ts"
import { compute } from "../compute/pool.ts"
import { loadsOfLine } from "../packaging/boxes.ts"
import { contentOf } from "../packaging/catalog.ts"
import { askedOf, type Ground, type OrderPlan, planOrder } from "../plan/plan.ts"
import type { PlannedRows } from "../plan/plannedRows.ts"
import { mostPacked, unitsIn } from "../plan/suggested.ts"
import { compare, type Offer, type Rateable } from "../rating/offers.ts"

/** What goods cost when they are packed as the bench will suggest, by the service that the bench will propose. */
export interface PackedPrice {
  readonly plan: OrderPlan
  readonly offer: Offer
  readonly cost: Money
}

/**
 * An order, or several as one, packed by the very method of the bench. Null where nothing takes it, a piece goes into no
 * carton, or there are too many pieces to work out a packing for an offer.
 */
export function packedRateable(
  ground: Ground,
  { order, lines }: PlannedRows,
): { readonly plan: OrderPlan; readonly goods: Rateable } | null {
  const loads = lines.flatMap((line, at) =>
    loadsOfLine({ id: line.id, piece: contentOf(line, at, line.ordered) }, line.ordered),
  )
  if (unitsIn(loads) > mostPacked) return null
  const plan = planOrder(ground, order, lines)
  return plan.serviceId === null ? null : { plan, goods: askedOf(ground, order, lines) }
}

/** Prices already worked out, by all that they were worked out from. */
const prices = new Map<string, Promise<PackedPrice | null>>()
const mostPrices = 2_000
const fingerprints = new WeakMap<Ground, string>()
/** A fingerprint of plain data. */
export const digest = (of: unknown): string =>
  createHash("sha256").update(JSON.stringify(of, withMaps)).digest("base64")
const withMaps = (_: string, value: unknown): unknown =>
  value instanceof Map || value instanceof Set ? [...value] : value

/** What prices depend on besides the order: what can be booked until when with whom, by which tariffs, in which cartons. */
function fingerprint(ground: Ground): string {
  const known = fingerprints.get(ground)
  if (known) return known
  const services = ground.services.map(({ versions, ...one }) => [one, versions.map((version) => version.id)])
  const { today, at, collections, packaging, book, warehouse, cartons } = ground
  const made = digest([services, today, at, collections, packaging, book, warehouse, cartons])
  fingerprints.set(ground, made)
  return made
}

/**
 * What that costs by the service that the bench will propose, compared over all services. Worked out once for the same
 * order on the same ground: offers to combine ask for some four hundred, of which a change alters a few.
 */
export function packedPrice(ground: Ground, rows: PlannedRows): Promise<PackedPrice | null> {
  const key = `${fingerprint(ground)} ${digest(rows)}`
  const known = prices.get(key)
  if (known) return known
  if (prices.size >= mostPrices) prices.delete(prices.keys().next().value as string)
  const price = workOutPrice(ground, rows)
  prices.set(key, price)
  // what broke off is tried again
  price.catch(() => prices.delete(key))
  return price
}

async function workOutPrice(ground: Ground, rows: PlannedRows): Promise<PackedPrice | null> {
  // each takes some milliseconds, and a page asks for dozens: what others ask for comes between
  await setImmediate()
  const packed = packedRateable(ground, rows)
  if (!packed) return null
  const { preselected } = compare(ground, packed.goods)
  return preselected?.price ? { plan: packed.plan, offer: preselected, cost: preselected.price.contract } : null
}

/** Packings already worked out, by what they were worked out from: a page that is opened again asks for the same. */
const kept = new Map<string, Promise<Outcome<Suggestion>>>()
const mostKept = 500

/** The suggested packing of goods, worked out in the pool, once for the same input. */
export function suggested(input: SuggestionInput): Promise<Outcome<Suggestion>> {
  const key = digest(input)
  const known = kept.get(key)
  if (known) return known
  if (kept.size >= mostKept) kept.delete(kept.keys().next().value as string)
  const found = compute("suggest", input)
  kept.set(key, found)
  // what broke off is tried again
  found.catch(() => kept.delete(key))
  return found
}
