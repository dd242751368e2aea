import { crewOn } from "core/calendar/crew.ts"
import { instantAt } from "core/calendar/index.ts"
import { planDay } from "core/day/index.ts"
import { cover } from "core/plan/index.ts"
import type { Context } from "server/actors/index.ts"
import { dayView } from "server/day/index.ts"
import { joinOffers } from "server/decisions/join.ts"
import { onTheLine, replanAll } from "server/plan/plan.ts"
import { warehouseById } from "server/setup/warehouse.ts"

const say = (text: string) => process.stdout.write(`${text}\n`)

/** Median milliseconds of some runs. */
async function median(runs: number, work: () => unknown): Promise<number> {
  const times: number[] = []
  for (let run = 0; run < runs; run += 1) {
    const began = performance.now()
    await work()
    times.push(performance.now() - began)
  }
  return times.sort((a, b) => a - b)[Math.floor(runs / 2)] as number
}

/** The day planned backwards, by core alone: 3 000 orders beside 300, and the way out of a late truck. */
export async function benchDay(): Promise<void> {
  const zone = "America/Chicago"
  const date = "2026-11-24"
  const crew = crewOn(
    date,
    zone,
    [
      { kind: "shift", starts: "07:00", ends: "17:30" },
      { kind: "break", starts: "12:00", ends: "12:30" },
    ],
    3,
  )
  const collections = (["09:30", "12:15", "14:15", "15:30", "16:30", "17:10", "17:30"] as const).map((time, id) => ({
    id,
    cutOff: instantAt(date, time, zone),
  }))
  const now = instantAt(date, "08:20", zone)
  const orders = (count: number) =>
    Array.from({ length: count }, (_, id) => ({ id, collectionId: id % 7, minutes: 3 + ((id * 7919) % 90) / 10 }))
  const [few, many] = [orders(300), orders(3_000)]
  for (let warm = 0; warm < 20; warm += 1) planDay(collections, few, now, crew)
  const small = await median(40, () => planDay(collections, few, now, crew))
  const large = await median(20, () => planDay(collections, many, now, crew))
  const moves = Array.from({ length: 60 }, (_, id) => ({ minutes: 3 + (id % 11), cost: ((id * 37) % 50) * 100 + 1 }))
  const way = await median(20, () => cover(moves, 300))
  say("\nday plan (core)")
  say(
    `  300 orders ${small.toFixed(2)} ms, 3 000 orders ${large.toFixed(2)} ms: ${(large / small).toFixed(1)} times for ten times the orders`,
  )
  say(`  way out: 300 minutes from 60 orders at the least cost, exactly: ${way.toFixed(1)} ms`)
}

/** Planning what is still open again, with rates of all services, and reading the day, at the size it has now. */
export async function benchLine(context: Context, most: number): Promise<void> {
  const { db, now } = context
  const warehouse = await warehouseById(db, 1)
  const ids = (await onTheLine(db, 1)).slice(0, most)
  const plan = await median(1, () => replanAll(db, 1, ids, now))
  const view = await median(3, () => dayView(context, warehouse))
  const all = (await onTheLine(db, 1)).length
  say(
    `  ${ids.length} orders planned anew in ${(plan / 1000).toFixed(1)} s, ${(plan / ids.length).toFixed(1)} ms each; the day of ${all} orders read in ${view.toFixed(0)} ms`,
  )
  if (all <= 1_000) {
    const first = await median(1, () => joinOffers(context, 1))
    const again = await median(3, () => joinOffers(context, 1))
    say(`  orders worth joining, of ${all}: ${first.toFixed(0)} ms, again ${again.toFixed(0)} ms`)
  }
}
