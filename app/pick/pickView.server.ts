import type { OrderId } from "core/ids/index.ts"
import { nextStop } from "core/picking/index.ts"
import { namesOf } from "server/accounts/users.ts"
import { shortChoices } from "server/decisions/short.ts"
import { floorOf } from "server/floorPlan/index.ts"
import type { Work } from "server/http/context.ts"
import { lastTake, type OrderStop } from "server/picking/index.ts"
import type { Walked } from "server/picking/stops.ts"
import type { BinMark, DrawnFloor } from "../parts/FloorDrawing.tsx"

/** What picking an order and walking a run show alike: stops, the floor with the walk, what can be put back. */
export async function pickView(
  work: Work,
  scope: { readonly orderId: OrderId } | { readonly runId: number },
  { stops, metres, plainMetres, proof, wish }: Walked,
  search: URLSearchParams,
) {
  const { db, warehouse, actor } = work
  const wanted = Number(search.get("stop"))
  const chosen = stops.find((one) => one.allocationId === wanted && one.picked < one.quantity)
  const stop = chosen ?? nextStop(stops, actor.userId)
  const [floor, names, last, choices] = await Promise.all([
    floorOf(db, warehouse.id),
    namesOf(db, [...new Set(stops.flatMap((one) => one.claimedBy ?? []))]),
    lastTake(work, scope),
    search.get("short") !== null && stop ? shortChoices(work, stop.allocationId) : null,
  ])
  return {
    stops,
    stop,
    metres,
    plainMetres,
    proof,
    wish,
    floor: floor.desk && floor.bench ? drawn(floor.plan) : null,
    marks: marksOf(stops, stop, floor.plan.bins),
    path: pathOf(stops, floor),
    people: Object.fromEntries(names) as Readonly<Record<number, string>>,
    me: actor.userId,
    key: crypto.randomUUID(),
    last,
    short: choices && stop ? { allocationId: stop.allocationId, choices } : null,
  }
}

export type PickView = Awaited<ReturnType<typeof pickView>>

function drawn({ bins: _, ...floor }: DrawnFloor & { bins: unknown }): DrawnFloor {
  return floor
}

function marksOf(
  stops: readonly OrderStop[],
  next: OrderStop | null,
  bins: readonly { readonly code: string; readonly x: number; readonly y: number }[],
): BinMark[] {
  const at = new Map(bins.map((bin) => [bin.code.toUpperCase(), bin]))
  return [...new Set(stops.map((stop) => stop.bin))].flatMap((bin) => {
    const place = at.get(bin.toUpperCase())
    if (!place) return []
    const own = stops.filter((stop) => stop.bin === bin)
    const done = own.every((stop) => stop.picked >= stop.quantity)
    return [{ bin, x: place.x, y: place.y, state: next?.bin === bin ? "next" : done ? "done" : ("open" as const) }]
  })
}

/** The corners of the whole walk, from the desk over all bins to the bench. */
function pathOf(stops: readonly OrderStop[], floor: Awaited<ReturnType<typeof floorOf>>): { x: number; y: number }[] {
  if (!floor.desk || !floor.bench || stops.length === 0) return []
  const bins = [...new Set(stops.map((stop) => stop.bin))].filter((bin) => floor.distances.knows(bin))
  const places = [floor.desk, ...bins, floor.bench]
  return places.slice(1).flatMap((place, index) => [...floor.distances.way(places[index] as string, place)])
}
