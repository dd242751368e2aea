import { cheapest, pricerOf } from "core/packing/search/price.ts"
import { problemOf } from "core/packing/search/problem.ts"
import { PackingSearch } from "core/packing/search/search.ts"
import { firstFit } from "./firstFit.ts"
import { boxes, plainBoxes, sampleOrders } from "./orders.ts"

const H = Number(process.argv[5] ?? 1.5)
const n = Number(process.argv[2] ?? 300),
  steps = Number(process.argv[3] ?? 400)
const orders = sampleOrders(n, 42)
  .map((o) => ({ ...o, loads: o.loads.filter((l) => !l.ownCarton) }))
  .filter((o) => o.loads.length > 0)
let oldSum = 0,
  newSum = 0,
  conSum = 0,
  oldC = 0,
  newC = 0,
  better = 0,
  worse = 0,
  tOld = 0,
  tNew = 0,
  tCon = 0,
  skipped = 0
const times: number[] = []
const byCode = new Map(boxes.map((b) => [b.code, b]))
for (const o of orders) {
  let t = performance.now()
  const old = firstFit(o.loads, plainBoxes)
  tOld += performance.now() - t
  if (!old) {
    skipped++
    continue
  }
  const w = new Map(o.loads.map((l) => [l.key, l.weight]))
  const oldPriced = old.map((b) => ({
    code: b.code,
    outer: byCode.get(b.code!)!.outer,
    carrier: null,
    kilograms: b.placed.reduce((s, p) => s + w.get(p.key)!, 0) + byCode.get(b.code!)!.tare,
  }))
  const oldCost = cheapest(o.lanes, oldPriced)
  t = performance.now()
  const search = new PackingSearch(
    problemOf(o.loads, boxes),
    { price: pricerOf(o.lanes), handling: H, fixed: [], aim: "price" },
    1,
  )
  search.construct()
  const c = search.best!
  const t1 = performance.now()
  for (let r = 0, idle = 0; r < 10 && idle < Number(process.argv[6] ?? 4); r++) {
    idle = search.improve(50, Number(process.argv[7] ?? 150000)) ? 0 : idle + 1
  }
  const t2 = performance.now()
  tCon += t1 - t
  tNew += t2 - t1
  times.push(t2 - t)
  const best = search.best
  if (!oldCost || !best || best.cost === null || c.cost === null) {
    skipped++
    continue
  }
  oldSum += oldCost.cost + oldPriced.length * H
  newSum += best.cost
  conSum += c.cost
  oldC += oldPriced.length
  newC += best.fillings.length
  if (process.argv[4] === "show" && best.fillings.length > oldPriced.length)
    console.log(
      o.number,
      o.lanes[oldCost.at]!.code,
      oldCost.cost.toFixed(2),
      oldPriced.map((p) => p.code + " " + (p.kilograms / 0.45359237).toFixed(1)).join(", "),
      "->",
      best.cost.toFixed(2),
      (() => {
        const pr = best.fillings.map((f) => {
          const b = search.problem.boxes[f.box]!.box
          return { code: b.code, outer: b.outer, carrier: null, kilograms: f.kilograms + b.tare }
        })
        const c = cheapest(o.lanes, pr)!
        return (
          o.lanes[c.at]!.code + " " + pr.map((p) => p.code + " " + (p.kilograms / 0.45359237).toFixed(1)).join(", ")
        )
      })(),
      o.loads.map((l) => l.quantity + "×" + l.sku).join(" "),
    )
  if (best.cost < oldCost.cost + oldPriced.length * H - 1e-6) better++
  if (best.cost > oldCost.cost + oldPriced.length * H + 1e-6) {
    worse++
    console.log(
      "WORSE",
      o.number,
      oldCost.cost,
      best.cost,
      oldPriced.map((p) => p.code).join(),
      search.best!.fillings.map((f) => search.problem.boxes[f.box]!.box.code).join(),
      o.loads
        .map(
          (l) =>
            l.quantity +
            "x" +
            l.sku +
            (l.upright ? "U" : "") +
            (l.loadLimit !== null ? "L" + l.loadLimit.toFixed(0) : ""),
        )
        .join(" "),
    )
  }
}
times.sort((a, b) => a - b)
console.log({
  orders: orders.length,
  skipped,
  better,
  worse,
  old: oldSum.toFixed(2),
  construct: (conSum / oldSum).toFixed(4),
  now: (newSum / oldSum).toFixed(4),
  cartons: [oldC, newC],
  msOld: (tOld / orders.length).toFixed(2),
  msCon: (tCon / orders.length).toFixed(2),
  msNew: (tNew / orders.length).toFixed(2),
  p99: times[Math.floor(times.length * 0.99)]!.toFixed(1),
  max: times.at(-1)!.toFixed(1),
})
