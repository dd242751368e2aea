import { sumMoney } from "core/money/index.ts"
import {
  type BuiltPallet,
  buildPallets,
  type Content,
  contentsWeight,
  goesAsFreight,
  type PackagingType,
  palletSize,
  suggestPackaging,
} from "core/packing/index.ts"
import { type RatedPackage, sharedClass } from "core/rating/index.ts"
import { type Mass, sumMass, volumeIn } from "core/units/index.ts"
import { palletIn } from "../packaging/catalog.ts"
import type { Rateable } from "../rating/offers.ts"

/** Packages of an order above which nobody sends them one by one, and an estimate is arithmetic. */
export const mostRated = 200

/**
 * The packages that goods would probably make: those that are suggested, where they were worked out (`packed`), else as many of the best suited carton as they need by volume and load, the
 * weight shared evenly; pieces that no parcel takes on pallets of their own, by their size. Above `mostRated` cartons
 * they are not set on pallets one by one: all are alike, so are the pallets, and only these are offered. Packages are
 * listed up to `mostRated`; `packages` is how many there really are, and more than are listed are not to be rated.
 */
export function estimated(
  types: readonly PackagingType[],
  contents: readonly Content[],
  preferred: string | undefined,
  packed: readonly RatedPackage[] | null = null,
): Estimate {
  const pallet = palletIn(types)
  const heavy = contents.filter((one) => goesAsFreight(one.item))
  const light = contents.filter((one) => !goesAsFreight(one.item))
  const cartons = light.length > 0 && !packed ? cartonsFor(types, light, preferred) : null
  const count = packed?.length ?? cartons?.count ?? 0
  const parcels = packed ?? (cartons ? listed(cartons.one, count) : [])
  if (!pallet) return { parcels, pallets: [], standing: "loose", packages: count }
  const on = packed
    ? packedOn(pallet, packed)
    : cartons
      ? palletsOf(pallet, cartons.one, count)
      : { list: [], count: 0 }
  const alone = heavy.flatMap((one): RatedPackage[] => {
    const weight = sumMass([one.item.unitWeight, pallet.tare])
    const size = palletSize(pallet, [{ number: 1, weight, size: one.item.unitSize }])
    return listed({ weight, size, handling: "pallet", freightClass: one.item.freightClass ?? null }, one.quantity)
  })
  const pallets = [...on.list, ...alone].slice(0, mostRated).map((one, index) => ({ ...one, number: index + 1 }))
  const standing = on.count + heavy.reduce((sum, one) => sum + one.quantity, 0)
  // goods that must stand on a pallet leave no choice, nor do more cartons than anybody sends by themselves
  return heavy.length > 0 || count > mostRated
    ? { parcels: pallets, pallets, standing: "pallet", packages: standing }
    : { parcels, pallets, standing: "loose", packages: count }
}

export interface Estimate extends Pick<Rateable, "parcels" | "pallets" | "standing"> {
  /** How many packages, or pallets where they must stand on them, it really is. */
  readonly packages: number
}

type Alike = Omit<RatedPackage, "number">

/** Built pallets as the engine takes them, numbered from 1, with the class and the declared value of the cartons on them. */
export function palletsRated(built: readonly BuiltPallet[], cartons: readonly RatedPackage[]): RatedPackage[] {
  const byNumber = new Map(cartons.map((one) => [one.number, one]))
  return built.map((one, at): RatedPackage => {
    const on = one.places.flatMap(({ number }) => byNumber.get(number) ?? [])
    const declared = on.flatMap((carton) => carton.declared ?? [])
    const [first] = declared
    return {
      number: at + 1,
      weight: one.gross,
      size: one.outer,
      handling: "pallet",
      freightClass: sharedClass(on),
      ...(first ? { declared: sumMoney(declared, first.currency) } : {}),
    }
  })
}

const listed = (one: Alike, count: number): RatedPackage[] =>
  Array.from({ length: Math.min(count, mostRated) }, (_, index) => ({ number: index + 1, ...one }))

/** Cartons as they were packed, on pallets; those that stand on none stay loose. */
function packedOn(pallet: PackagingType, packed: readonly RatedPackage[]): { list: readonly Alike[]; count: number } {
  const built = buildPallets(pallet, packed)
  if (!built.ok) return { list: packed, count: packed.length }
  const set = palletsRated(built.value, packed)
  return { list: set, count: set.length }
}

/** So many equal cartons on pallets: really set on them up to `mostRated`, by what one pallet takes above. */
function palletsOf(pallet: PackagingType, one: Alike, count: number): { list: readonly Alike[]; count: number } {
  const cartons = listed(one, count)
  const built = buildPallets(pallet, cartons)
  if (!built.ok) return { list: cartons, count }
  const set = palletsRated(built.value, cartons)
  const full = built.value[0]
  if (count <= mostRated || !full) return { list: set, count: set.length }
  const pallets = Math.ceil(count / full.places.length)
  const { freightClass = null } = one
  return {
    list: listed({ weight: full.gross, size: full.outer, handling: "pallet", freightClass }, pallets),
    count: pallets,
  }
}

function cartonsFor(
  types: readonly PackagingType[],
  contents: readonly Content[],
  preferred: string | undefined,
): { readonly one: Alike; readonly count: number } | null {
  const type = types.find((one) => one.code === preferred && one.kind === "carton") ?? suggestPackaging(types, contents)
  if (!type) return null
  const volume = contents.reduce((sum, one) => sum + Number(volumeIn(one.item.unitSize, "in")) * one.quantity, 0)
  const load = contentsWeight(contents)
  const count = Math.max(
    1,
    Math.ceil(volume / (Number(volumeIn(type.inner, "in")) * 0.8)),
    load.div(type.maxLoad).ceil().toNumber(),
  )
  const weight = sumMass([load.div(count) as Mass, type.tare])
  return { one: { weight, size: type.outer, freightClass: sharedClass(contents.map(({ item }) => item)) }, count }
}
