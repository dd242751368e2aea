import { emptyPlan, floorDistances } from "core/floorPlan/index.ts"
import { walk } from "core/picking/index.ts"
import type { Context } from "server/actors/index.ts"
import { closePool, compute } from "server/compute/pool.ts"
import { runsWanted } from "server/compute/tasks.ts"
import { recheck, recheckMany } from "server/decisions/recheck.ts"
import { groundOf } from "server/plan/plan.ts"
import { demoPlan } from "../../demo/floor.ts"

const say = (text: string) => process.stdout.write(`${text}\n`)

/** A small generator of even numbers between 0 and 1, so that every run measures the same. */
function seeded(seed: number): () => number {
  let state = seed
  return () => {
    state = (state * 16_807) % 2_147_483_647
    return state / 2_147_483_647
  }
}

function timed<T>(work: () => T): [ms: number, value: T] {
  const began = performance.now()
  const value = work()
  return [performance.now() - began, value]
}

/** Walks in a hall of so many blocks: against plain aisle order, and how far from the shortest at most. */
function benchWalks(blocks: number, random: () => number): void {
  const told = [5, 15, 30, 60].map((n) => {
    const halls = Array.from({ length: 20 }, () => {
      const bins = Array.from({ length: n }, (_, at) => {
        const aisle = Math.floor(random() * 11)
        return { code: `b${at}`, aisle: `A${aisle}`, x: 2 + aisle * 4.2, y: Math.round(random() * 300) / 10, level: 0 }
      })
      return floorDistances({
        ...emptyPlan,
        width: 60,
        depth: 40,
        places: [
          { kind: "desk", code: "DESK", name: "", x: 2, y: 0 },
          { kind: "bench", code: "BENCH", name: "", x: 14, y: 0 },
        ],
        aisles: Array.from({ length: 11 }, (_, at) => ({ code: `A${at}`, x: 2 + at * 4.2, from: 0, to: 30 })),
        crossAisles: Array.from({ length: blocks + 1 }, (_, at) => ({
          code: `X${at}`,
          y: (at * 30) / blocks,
          from: 0,
          to: 60,
        })),
        bins,
      })
    })
    let [ms, plain, within] = [0, 0, 0]
    for (const hall of halls) {
      const [took, found] = timed(() =>
        walk(
          hall.plan.bins.map((one) => one.code),
          hall,
          "DESK",
          "BENCH",
        ),
      )
      ms += took / halls.length
      plain += (found.plainMetres as number) / (found.metres as number) / halls.length
      within = Math.max(within, found.proof?.is === "within" ? found.proof.percent : 0)
    }
    return `${n} bins ${ms.toFixed(1)} ms, plain order ${plain.toFixed(3)} times as long${within > 0 ? `, at most ${within} % over the shortest` : ""}`
  })
  say(`  ${blocks} ${blocks === 1 ? "block" : "blocks"}: ${told.join("; ")}`)
}

/** Walks and runs, in core alone. */
export async function benchFloor(): Promise<void> {
  const random = seeded(7)
  const bins = Array.from({ length: 600 }, () => {
    const aisle = "ABCDEFGHKQZ"[Math.floor(random() * 11)]
    return `${aisle}-${String(1 + Math.floor(random() * 20)).padStart(2, "0")}-${1 + Math.floor(random() * 5)}`
  })
  const plan = demoPlan(1, [...new Set(bins)])
  const names = plan.bins.map((bin) => bin.code)
  const some = (n: number) => Array.from({ length: n }, () => names[Math.floor(random() * names.length)] as string)
  say("\nfloor (core)")
  for (const blocks of [1, 2, 3, 4]) benchWalks(blocks, random)
  const ordersOf = (n: number) =>
    Array.from({ length: n }, (_, id) => ({
      id,
      bins: some(1 + Math.floor(random() * 4)),
      litres: 20,
      kilograms: 4,
      totes: 1,
    }))
  const wanted = (n: number) => ({
    orders: ordersOf(n),
    cart: { totes: 12, litres: null, kilograms: null },
    atMost: 12,
    floor: { plan, desk: "DESK", bench: "BENCH" },
  })
  const [small] = timed(() => runsWanted(wanted(75)))
  const [large, built] = timed(() => runsWanted(wanted(300)))
  const metres = (of: "metres" | "apartMetres") => built.runs.reduce((sum, run) => sum + run[of], 0)
  say(
    `  runs of 300 orders: ${built.runs.length} in ${large.toFixed(0)} ms, ${(large / small).toFixed(1)} times as long as for 75; ${metres("metres").toFixed(0)} m instead of ${metres("apartMetres").toFixed(0)} m one by one`,
  )
  const cold = performance.now()
  await compute("runsWanted", wanted(2))
  const [began, input] = [performance.now(), wanted(300)]
  await compute("runsWanted", input)
  say(
    `  the same in the pool: ${(performance.now() - began).toFixed(0)} ms; its first thread starts in ${(began - cold).toFixed(0)} ms`,
  )
  await closePool()
}

/** Stock of 300 orders freed and allocated again, on the database: one after another, and many in a transaction. */
export async function benchAllocation({ db, actor, now }: Context): Promise<void> {
  const ids: number[] = await db("sales_order").whereNull("left_line_at").orderBy("id").limit(300).pluck("id")
  // the orders of this run were written as rows: what they hold is not told to the stock yet
  await db.raw(
    "UPDATE stock s SET s.allocated = COALESCE((SELECT SUM(a.quantity - a.picked) FROM allocation a WHERE a.stock_id = s.id), 0)",
  )
  const ground = await groundOf(db, actor.warehouseId, now)
  const alone = performance.now()
  for (const id of ids) await db.transaction((trx) => recheck(trx, id, actor, now, { ground, dealing: true }))
  const many = performance.now()
  await recheckMany(db, ids, actor, now, { dealing: true })
  const figure = (ms: number) => `${(ms / 1000).toFixed(2)} s, ${(ms / ids.length).toFixed(1)} ms each`
  say(`  ${ids.length} orders checked, freed and allocated anew, one after another: ${figure(many - alone)}`)
  say(
    `  the same together: ${figure(performance.now() - many)}, ${((many - alone) / (performance.now() - many)).toFixed(1)} times as fast`,
  )
}
