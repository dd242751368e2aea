import {
  type BuiltPallet,
  checkPallet,
  type Loose,
  type PackagingType,
  type PackLoad,
  stackingStrength,
  type UsableBox,
} from "core/packing/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { mass, size } from "core/units/index.ts"

type Edges = readonly [length: number, width: number, height: number]

/** One ordinary piece of 1 kg, its edges in millimeters. */
export const load = (key: string, [length, width, height]: Edges, more: Partial<PackLoad> = {}): PackLoad => ({
  key,
  sku: key,
  kind: "general",
  hazard: null,
  length,
  width,
  height,
  weight: 1,
  upright: false,
  loadLimit: null,
  quantity: 1,
  ownCarton: false,
  ...more,
})
/** A box without walls that costs nothing and bears a ton, its edges in millimeters. */
export const box = (code: string, [length, width, height]: Edges, more: Partial<UsableBox> = {}): UsableBox => ({
  code,
  length,
  width,
  height,
  maxLoad: 1_000,
  outer: { length, width, height },
  tare: 0,
  stock: null,
  cost: 0,
  carrier: null,
  ...more,
})

/** A common pallet of 48 × 40 in: deck 6 in, 44 lb, takes 2000 lb up to 72 in high. */
export const pallet48: PackagingType = {
  code: "P48",
  name: "Pallet 48 × 40",
  kind: "pallet",
  inner: size(48, 40, 66, "in"),
  outer: size(48, 40, 6, "in"),
  tare: mass(44, "lb"),
  maxLoad: mass(2000, "lb"),
}

/** What the checker finds on a common pallet, of cartons that bear what their boards do. */
export function wrongOnPallet(cartons: readonly Loose[], places: BuiltPallet["places"]): Reason[] {
  const { inner, maxLoad } = pallet48
  const [length, width, height] = [inner.length.toNumber(), inner.width.toNumber(), inner.height.toNumber()]
  const loaded = cartons.map(({ number, size: edges, weight }) => ({
    number,
    length: edges.length.toNumber(),
    width: edges.width.toNumber(),
    height: edges.height.toNumber(),
    weight: weight.toNumber(),
    bears: stackingStrength(2 * (edges.length.toNumber() + edges.width.toNumber())),
  }))
  return checkPallet({ code: "P48", length, width, height, maxLoad: maxLoad.toNumber() }, loaded, places)
}
