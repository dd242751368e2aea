import {
  buildPallets,
  type Content,
  contentsWeight,
  goesAsFreight,
  type PackagingType,
  palletSize,
  suggestPackaging,
} from "core/packing/index.ts"
import type { RatedPackage } from "core/rating/index.ts"
import { type Mass, sumMass, volumeIn } from "core/units/index.ts"
import type { Rateable } from "../rating/offers.ts"

/**
 * The packages that goods would probably make: as many of the best suited carton as they need by volume and load, the
 * weight shared evenly; pieces that no parcel takes on pallets of their own, by their size.
 */
export function estimated(
  types: readonly PackagingType[],
  contents: readonly Content[],
  preferred: string | undefined,
): Pick<Rateable, "parcels" | "pallets" | "standing"> {
  const pallet = types.find((type) => type.kind === "pallet")
  const heavy = contents.filter((one) => goesAsFreight(one.item))
  const light = contents.filter((one) => !goesAsFreight(one.item))
  const parcels = light.length > 0 ? cartonsFor(types, light, preferred) : []
  if (!pallet) return { parcels, pallets: [], standing: "loose" }
  const built = buildPallets(pallet, parcels)
  const cartonsOn: RatedPackage[] = built.ok
    ? built.value.map((one, index) => ({ number: index + 1, weight: one.gross, size: one.outer, handling: "pallet" }))
    : parcels
  const alone = heavy.flatMap((one) => {
    const weight = sumMass([one.item.unitWeight, pallet.tare])
    const size = palletSize(pallet, [{ number: 1, weight, size: one.item.unitSize }])
    return Array.from({ length: one.quantity }, (): RatedPackage => ({ number: 0, weight, size, handling: "pallet" }))
  })
  const pallets = [...cartonsOn, ...alone].map((one, index) => ({ ...one, number: index + 1 }))
  // goods that must stand on a pallet leave no choice
  return heavy.length > 0 ? { parcels: pallets, pallets, standing: "pallet" } : { parcels, pallets, standing: "loose" }
}

function cartonsFor(
  types: readonly PackagingType[],
  contents: readonly Content[],
  preferred: string | undefined,
): RatedPackage[] {
  const type = types.find((one) => one.code === preferred && one.kind === "carton") ?? suggestPackaging(types, contents)
  if (!type) return []
  const volume = contents.reduce((sum, one) => sum + Number(volumeIn(one.item.unitSize, "in")) * one.quantity, 0)
  const load = contentsWeight(contents)
  const count = Math.max(
    1,
    Math.ceil(volume / (Number(volumeIn(type.inner, "in")) * 0.8)),
    load.div(type.maxLoad).ceil().toNumber(),
  )
  const weight = sumMass([load.div(count) as Mass, type.tare])
  return Array.from({ length: count }, (_, index) => ({ number: index + 1, weight, size: type.outer }))
}
