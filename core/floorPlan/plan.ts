import { z } from "zod"
import { type Reason, reason } from "../refusal/index.ts"

const code = z
  .string()
  .trim()
  .regex(/^[A-Za-z0-9][A-Za-z0-9._-]{0,15}$/)
const name = z.string().trim().max(40)
/** A place on the floor in meters from its lower left corner. */
const metre = z.number().min(0).max(2_000)
const span = z.number().positive().max(2_000)

export const zoneKinds = ["ambient", "cold", "cage"] as const
export type ZoneKind = (typeof zoneKinds)[number]

/**
 * A warehouse's floor as data. Aisles run along y at one x, cross aisles along x at one y; people walk on both and
 * nowhere else. Racks are drawn; a bin is reached from its aisle at its own y. All figures are meters.
 */
export const planSchema = z.strictObject({
  width: span,
  depth: span,
  /** Where walks begin (desk) and end (bench), and the dock doors. */
  places: z.array(z.strictObject({ kind: z.enum(["desk", "bench", "door"]), code, name, x: metre, y: metre })).max(200),
  aisles: z.array(z.strictObject({ code, x: metre, from: metre, to: metre })).max(200),
  crossAisles: z.array(z.strictObject({ code, y: metre, from: metre, to: metre })).max(50),
  racks: z
    .array(
      z.strictObject({ code, x: metre, y: metre, width: span, depth: span, levels: z.number().int().min(1).max(20) }),
    )
    .max(2_000),
  zones: z
    .array(z.strictObject({ code, name, kind: z.enum(zoneKinds), x: metre, y: metre, width: span, depth: span }))
    .max(50),
  bins: z
    .array(z.strictObject({ code, aisle: code, x: metre, y: metre, level: z.number().int().min(0).max(20) }))
    .max(20_000),
})
export type FloorPlan = z.infer<typeof planSchema>
export type PlanBin = FloorPlan["bins"][number]
export type Zone = FloorPlan["zones"][number]

/** A floor on which nothing is known yet. */
export const emptyPlan: FloorPlan = {
  width: 10,
  depth: 10,
  places: [],
  aisles: [],
  crossAisles: [],
  racks: [],
  zones: [],
  bins: [],
}

/** The zone that a place of the floor lies in; the smallest where zones lie in one another, null outside all. */
export function zoneAt(zones: readonly Zone[], x: number, y: number): Zone | null {
  const holding = zones.filter(
    (zone) => x >= zone.x && x <= zone.x + zone.width && y >= zone.y && y <= zone.y + zone.depth,
  )
  return [...holding].sort((a, b) => a.width * a.depth - b.width * b.depth)[0] ?? null
}

/** How far a bin may lie from the middle of its aisle and still be reached from it, in meters (common practice). */
const reach = 3

/**
 * Everything that is wrong with a plan, each with the thing that it is about: what lies off the floor, is called twice,
 * stands beside no aisle, or can't be walked to. A plan without bins is no mistake.
 */
export function planFlaws(plan: FloorPlan): Reason[] {
  const found: Reason[] = []
  const named: [string, readonly { readonly code: string }[]][] = [
    ["place", plan.places],
    ["aisle", plan.aisles],
    ["cross-aisle", plan.crossAisles],
    ["rack", plan.racks],
    ["zone", plan.zones],
    ["bin", plan.bins],
  ]
  for (const [what, things] of named) {
    const seen = new Set<string>()
    for (const { code: own } of things) {
      const key = own.toUpperCase()
      if (seen.has(key)) found.push(reason("floor-plan.twice", { what, code: own }))
      seen.add(key)
    }
  }
  const off = (what: string, own: string, ...corners: readonly (readonly [x: number, y: number])[]) => {
    if (corners.some(([x, y]) => x > plan.width || y > plan.depth))
      found.push(reason("floor-plan.off-floor", { what, code: own }))
  }
  for (const one of plan.places) off("place", one.code, [one.x, one.y])
  for (const one of plan.aisles) {
    off("aisle", one.code, [one.x, one.to])
    if (one.to <= one.from) found.push(reason("floor-plan.no-length", { what: "aisle", code: one.code }))
  }
  for (const one of plan.crossAisles) {
    off("cross-aisle", one.code, [one.to, one.y])
    if (one.to <= one.from) found.push(reason("floor-plan.no-length", { what: "cross-aisle", code: one.code }))
  }
  for (const one of plan.racks) off("rack", one.code, [one.x + one.width, one.y + one.depth])
  for (const one of plan.zones) off("zone", one.code, [one.x + one.width, one.y + one.depth])
  const aisles = new Map(plan.aisles.map((one) => [one.code.toUpperCase(), one]))
  for (const bin of plan.bins) {
    off("bin", bin.code, [bin.x, bin.y])
    const aisle = aisles.get(bin.aisle.toUpperCase())
    if (!aisle) found.push(reason("floor-plan.bin-no-aisle", { bin: bin.code, aisle: bin.aisle }))
    else if (bin.y < aisle.from || bin.y > aisle.to || Math.abs(bin.x - aisle.x) > reach)
      found.push(reason("floor-plan.bin-off-aisle", { bin: bin.code, aisle: bin.aisle }))
  }
  if (plan.bins.length > 0)
    for (const kind of ["desk", "bench"] as const)
      if (!plan.places.some((one) => one.kind === kind)) found.push(reason("floor-plan.no-place", { kind }))
  found.push(...apart(plan))
  return found
}

/** Aisles that can't be walked to from the others. */
function apart(plan: FloorPlan): Reason[] {
  if (plan.aisles.length === 0) return []
  const group = plan.aisles.map((_, index) => index)
  const root = (index: number): number => (group[index] === index ? index : root(group[index] as number))
  for (const cross of plan.crossAisles) {
    const met = plan.aisles.flatMap((aisle, index) => (crosses(aisle, cross) ? [index] : []))
    for (const index of met) group[root(index)] = root(met[0] as number)
  }
  const main = root(0)
  return plan.aisles.flatMap((aisle, index) =>
    root(index) === main ? [] : [reason("floor-plan.aisle-apart", { aisle: aisle.code })],
  )
}

/** Whether an aisle and a cross aisle meet. */
export const crosses = (
  aisle: { readonly x: number; readonly from: number; readonly to: number },
  cross: { readonly y: number; readonly from: number; readonly to: number },
): boolean => cross.y >= aisle.from && cross.y <= aisle.to && aisle.x >= cross.from && aisle.x <= cross.to
