import { fewestBoxes } from "../../core/packing/search/fewest.ts"
import { instance, lowerBound } from "./classes.ts"

const ms = Number(process.argv[2] ?? 20),
  rotate = process.argv[3] === "rot",
  support = Number(process.argv[4] ?? 0)
let sumR = 0,
  n = 0
for (const kind of [1, 2, 3, 4, 5, 6, 7, 8]) {
  let cr = 0,
    cn = 0,
    lbs = 0,
    bs = 0
  for (const count of [50, 100, 150, 200]) {
    const row = ""
    let b = 0,
      l = 0
    for (let test = 1; test <= 10; test++) {
      const inst = instance(kind, count, test),
        lb = lowerBound(inst)
      const shapes = inst.pieces.map(([a, b, c]) => {
        const all = rotate
          ? [
              [a, b, c],
              [a, c, b],
              [b, a, c],
              [b, c, a],
              [c, a, b],
              [c, b, a],
            ]
          : [[a, b, c]]
        const once = all.filter((t, i) => all.findIndex((o) => o.join() === t.join()) === i)
        return { turns: once as never, volume: a * b * c, weight: 1, limit: Infinity, company: 0 }
      })
      const found = fewestBoxes(
        { length: inst.edge, width: inst.edge, height: inst.edge },
        shapes,
        shapes.map((_, i) => i),
        { support, steps: 1e9, seed: 1, bound: rotate ? undefined : lb, until: performance.now() + ms },
      )
      const r = found.boxes.length / lb
      sumR += r
      n++
      cr += r
      cn++
      b += found.boxes.length
      l += lb
      const placed = found.boxes.reduce((s, x) => s + x.length, 0)
      if (placed !== count) console.log("LOST", placed, count)
    }
    bs += b
    lbs += l
  }
  console.log(kind, (cr / cn).toFixed(4), bs, lbs)
}
console.log("avg", (sumR / n).toFixed(4))
