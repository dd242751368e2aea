import { type PlainWay, sharedClass } from "../rating/index.ts"
import { mass, size } from "../units/index.ts"
import type { PackagingType } from "./index.ts"
import { buildPallets } from "./pallet.ts"
import type { UsableBox } from "./place.ts"
import { cheapest } from "./search/price.ts"
import type { PricedBox } from "./search/problem.ts"
import {
  lanesOf,
  packagesOf,
  type ServiceLane,
  type SuggestedBox,
  type Suggestion,
  type SuggestionInput,
} from "./suggest.ts"

/** By what goods may go on pallets: plain data. Millimeters and kilograms. */
export interface FreightInput {
  readonly pallet: {
    readonly code: string
    readonly name: string
    /** The room for its load. */
    readonly inner: UsableBox["outer"]
    readonly outer: UsableBox["outer"]
    readonly tare: number
    readonly maxLoad: number
  }
  /** Whether others may stand on these pallets. */
  readonly stackable: boolean
  /** The ways that would be chosen among. */
  readonly ways: readonly PlainWay[]
}

/** The same goods on pallets, or the heaviest cartons on pallets and the others by themselves, as two shipments. */
export interface Standing {
  readonly kind: "pallet" | "mix"
  readonly boxes: readonly SuggestedBox[]
  readonly pallets: number
  /** How many cartons go by themselves. */
  readonly loose: number
  /** What both shipments cost to send. */
  readonly sent: number
  /** Sending, handling of cartons and pallets, and cartons. */
  readonly total: number
  readonly currency: string
  /** Names of the services: of the pallets, and of the cartons that go by themselves. */
  readonly services: readonly string[]
}

/** Cartons up to which a mix is looked for: pallets are built for each. */
const mostMixed = 16

/**
 * Other ways for packed goods to stand: all on pallets, of whichever packing costs least so; and the heaviest on pallets
 * where the others by themselves make that cheaper than either. None where nothing takes pallets, or nothing can be built.
 */
export function otherStandings(input: SuggestionInput, packings: readonly Suggestion[]): Standing[] {
  const { freight } = input
  const [first] = packings
  if (!freight || freight.ways.length === 0 || !first || first.boxes.length === 0) return []
  const lanes = { freight: lanesOf(freight), parcel: lanesOf(input) }
  const onPallets = packings
    .filter((one) => one.left.length === 0)
    .flatMap((one) => placedOn(input, freight, lanes, one, Number.POSITIVE_INFINITY) ?? [])
    .sort((a, b) => a.total - b.total)[0]
  const count = packagesOf(input, first).length
  // nobody asks for a single carton on a pallet that costs more
  const told = onPallets && (count > 1 || !first.cost || onPallets.total < first.cost.total)
  const found = told ? [onPallets] : []
  if (count < 2 || count > mostMixed || first.left.length > 0) return found
  const least = Math.min(onPallets?.total ?? Number.POSITIVE_INFINITY, first.cost?.total ?? Number.POSITIVE_INFINITY)
  const mixed = Array.from({ length: count - 1 }, (_, at) => placedOn(input, freight, lanes, first, at + 1))
    .flatMap((one) => one ?? [])
    .sort((a, b) => a.total - b.total)[0]
  return mixed && mixed.total < least - 0.005 ? [...found, mixed] : found
}

/** A packing with its heaviest cartons on pallets; null where nothing takes these, or the others. */
function placedOn(
  input: SuggestionInput,
  { pallet, stackable }: FreightInput,
  lanes: { readonly freight: readonly ServiceLane[]; readonly parcel: readonly ServiceLane[] },
  packing: Suggestion,
  most: number,
): Standing | null {
  const { handling = 0, dryIce = 0 } = input
  const all = packagesOf(input, packing).sort((a, b) => b.kilograms - a.kilograms)
  const [standing, loose] = [all.slice(0, most), all.slice(most)]
  const built = buildPallets(
    typeOf(pallet),
    standing.map((one, at) => ({
      number: at + 1,
      weight: mass(one.kilograms, "kg"),
      size: size(one.outer.length, one.outer.width, one.outer.height, "mm"),
    })),
  )
  if (!built.ok) return null
  const pallets = built.value.map(
    (one): PricedBox => ({
      code: pallet.code,
      outer: {
        length: one.outer.length.toNumber(),
        width: one.outer.width.toNumber(),
        height: one.outer.height.toNumber(),
      },
      kilograms: one.gross.toNumber(),
      carrier: null,
      declared: one.places.reduce((sum, { number }) => sum + (standing[number - 1]?.declared ?? 0), 0),
      dryIce,
      freightClass: sharedClass(one.places.flatMap(({ number }) => standing[number - 1] ?? [])),
      pallet: { stackable },
    }),
  )
  const freight = cheapest(lanes.freight, pallets)
  const parcels = loose.length > 0 ? cheapest(lanes.parcel, loose) : null
  const way = freight && lanes.freight[freight.at]
  if (!freight || !way || (loose.length > 0 && !parcels)) return null
  const other = parcels && lanes.parcel[parcels.at]
  const cartons = packing.boxes.reduce(
    (sum, { code }) => sum + (input.boxes.find((box) => box.code === code)?.cost ?? 0),
    0,
  )
  return {
    kind: loose.length > 0 ? "mix" : "pallet",
    boxes: packing.boxes,
    pallets: pallets.length,
    loose: loose.length,
    sent: freight.cost + (parcels?.cost ?? 0),
    total: freight.cost + (parcels?.cost ?? 0) + (all.length + pallets.length) * handling + cartons,
    currency: way.lane.currency,
    services: [way.name, ...(other ? [other.name] : [])],
  }
}

const typeOf = ({ code, name, inner, outer, tare, maxLoad }: FreightInput["pallet"]): PackagingType => ({
  code,
  name,
  kind: "pallet",
  inner: size(inner.length, inner.width, inner.height, "mm"),
  outer: size(outer.length, outer.width, outer.height, "mm"),
  tare: mass(tare, "kg"),
  maxLoad: mass(maxLoad, "kg"),
})
