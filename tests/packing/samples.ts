import type { PackLoad, UsableBox } from "core/packing/index.ts"

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
