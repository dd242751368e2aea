import { Packer3D, RotationType } from "binpackingjs/3d"
import { buildPallets, checkPacked, type PackLoad, Suggesting } from "core/packing/index.ts"
import type { Kind } from "core/packing/search/goods.ts"
import { cheapest } from "core/packing/search/price.ts"
import type { PricedBox, Problem } from "core/packing/search/problem.ts"
import { PackingSearch } from "core/packing/search/search.ts"
import { mass, size } from "core/units/index.ts"
import { type Instance, instance, lowerBound } from "../packing/classes.ts"
import { firstFit } from "../packing/firstFit.ts"
import { boxes, handling, plainBoxes, sampleOrders } from "../packing/orders.ts"
import { pallet48, wrongOnPallet } from "../packing/samples.ts"

const say = (text: string) => process.stdout.write(`${text}\n`)

/** Orders like the demo's: the suggestion before and now, by the price of the way that would be chosen. */
export function benchOrders(count: number): void {
  const orders = sampleOrders(count, 42)
    .map((one) => ({ ...one, loads: one.loads.filter((load) => !load.ownCarton) }))
    .filter((one) => one.loads.length > 0)
  const boxOf = new Map(boxes.map((box) => [box.code, box]))
  const plainOf = new Map(boxes.map((box) => [box.code, box]))
  const sum = {
    orders: 0,
    plain: 0,
    first: 0,
    now: 0,
    plainCartons: 0,
    cartons: 0,
    plainKg: 0,
    kg: 0,
    wrong: 0,
    dearer: 0,
  }
  const times: number[] = []
  const volumes = { plain: 0, now: 0 }
  for (const order of orders) {
    const weights = new Map(order.loads.map((load) => [load.key, load.weight]))
    const pieces = new Map(order.loads.map((load) => [load.key, load]))
    const priced = (packed: readonly { code: string | null; placed: readonly { key: string }[] }[]): PricedBox[] =>
      packed.map(({ code, placed }) => {
        const box = plainOf.get(code ?? "") as (typeof boxes)[number]
        const inside = placed.reduce((total, one) => total + (weights.get(one.key) ?? 0), 0)
        return { code, outer: box.outer, kilograms: inside + box.tare, carrier: null }
      })
    const plain = firstFit(order.loads, plainBoxes)
    if (!plain) continue
    const before = priced(plain)
    const beside =
      before.length * handling + plain.reduce((total, one) => total + (plainOf.get(one.code ?? "")?.cost ?? 0), 0)
    const began = performance.now()
    const suggesting = new Suggesting({ loads: order.loads, boxes, handling }, order.lanes)
    const first = suggesting.answer.cost?.total ?? 0
    while (!suggesting.done) suggesting.more()
    const { answer } = suggesting
    times.push(performance.now() - began)
    const old = cheapest(order.lanes, before)
    if (!old || !answer.cost) continue
    sum.orders += 1
    sum.plain += old.cost + beside
    sum.first += first
    sum.now += answer.cost.total
    sum.plainCartons += before.length
    sum.cartons += answer.boxes.length
    if (answer.cost.total > old.cost + beside + 1e-6) sum.dearer += 1
    for (const one of before) volumes.plain += one.outer.length * one.outer.width * one.outer.height
    for (const one of priced(answer.boxes)) volumes.now += one.outer.length * one.outer.width * one.outer.height
    for (const one of answer.boxes)
      if (checkPacked(boxOf.get(one.code ?? "") as (typeof boxes)[number], pieces, one.placed).length > 0)
        sum.wrong += 1
  }
  times.sort((a, b) => a - b)
  const share = (part: number, whole: number) => `${((part / whole) * 100).toFixed(1)} %`
  say(
    `\npacking ${sum.orders} orders like the demo's, priced by the way that would be chosen, ${handling} to handle a package`,
  )
  say(
    `  against first fit: ${share(sum.now, sum.plain)} of its cost (${share(sum.first, sum.plain)} at first sight), ${sum.cartons} cartons instead of ${sum.plainCartons}, ${share(volumes.now, volumes.plain)} of its volume; ${sum.dearer} cost more, the checker finds ${sum.wrong} wrong`,
  )
  say(
    `  ${(times.reduce((total, one) => total + one, 0) / times.length).toFixed(1)} ms on average, 99 of 100 within ${times[Math.floor(times.length * 0.99)]?.toFixed(0)} ms, ${times.filter((one) => one < 100).length} of ${times.length} under 100 ms`,
  )
}

/** As many pieces as are handled at all: the first answer, and what it holds in memory. */
export function benchMany(): void {
  const random = (() => {
    let state = 11
    return () => {
      state = (state * 1_103_515_245 + 12_345) % 2_147_483_648
      return state / 2_147_483_648
    }
  })()
  for (const pieces of [40, 200, 1_200]) {
    const loads = Array.from(
      { length: pieces / 10 },
      (_, index): PackLoad => ({
        key: `p${index}`,
        sku: `p${index}`,
        kind: "general",
        hazard: null,
        length: 60 + random() * 200,
        width: 50 + random() * 150,
        height: 30 + random() * 120,
        weight: 0.3 + random() * 3,
        upright: random() < 0.2,
        loadLimit: random() < 0.2 ? 5 : null,
        ownCarton: false,
        quantity: 10,
      }),
    )
    const before = process.memoryUsage().rss
    const began = performance.now()
    const suggesting = new Suggesting({ loads, boxes })
    const first = performance.now() - began
    const cartons = suggesting.answer.boxes.length
    while (!suggesting.done) suggesting.more()
    const all = performance.now() - began
    const plainBegan = performance.now()
    const plain = pieces <= 200 ? firstFit(loads, plainBoxes) : null
    const plainMs = performance.now() - plainBegan
    say(
      `  ${pieces} pieces: first answer in ${first.toFixed(0)} ms (${cartons} cartons), the last after ${all.toFixed(0)} ms (${suggesting.answer.boxes.length}); ${Math.max(0, Math.round((process.memoryUsage().rss - before) / 2 ** 20))} MB more${plain ? `; first fit ${plainMs.toFixed(0)} ms (${plain.length})` : ""}`,
    )
  }
}

/** Random loads of mixed cartons: pallets over the bound of volume and load, and what the checker says of them. */
export function benchPallets(): void {
  const { inner, maxLoad } = pallet48
  const room = inner.length.toNumber() * inner.width.toNumber() * inner.height.toNumber()
  let state = 7
  const between = (low: number, high: number) => {
    state = (state * 1_103_515_245 + 12_345) % 2_147_483_648
    return low + Math.floor((state / 2_147_483_648) * (high - low + 1))
  }
  let [pallets, bounds, cartons, wrong, ms] = [0, 0, 0, 0, 0]
  for (let load = 0; load < 200; load += 1) {
    const all = Array.from({ length: between(5, 20) }, (_, at) => ({
      number: at + 1,
      size: size(between(10, 31), between(8, 27), between(6, 25), "in"),
      weight: mass(between(3, 47), "lb"),
    }))
    const began = performance.now()
    const built = buildPallets(pallet48, all)
    ms += performance.now() - began
    if (!built.ok) continue
    const volume = all.reduce(
      (sum, one) => sum + one.size.length.toNumber() * one.size.width.toNumber() * one.size.height.toNumber(),
      0,
    )
    const pounds = all.reduce((sum, one) => sum + one.weight.toNumber(), 0)
    pallets += built.value.length
    bounds += Math.max(Math.ceil(volume / room), Math.ceil(pounds / maxLoad.toNumber()))
    cartons += all.length
    for (const { places } of built.value) {
      const on = new Set(places.map((one) => one.number))
      wrong += wrongOnPallet(
        all.filter((one) => on.has(one.number)),
        places,
      ).length
    }
  }
  say(
    `  200 loads of ${cartons} mixed cartons: ${pallets} pallets, ${(pallets / bounds).toFixed(2)} times the bound of volume and load, ${(ms / 200).toFixed(1)} ms each; the checker finds ${wrong} wrong`,
  )
}

/** An instance as the search takes it. */
function problemOf({ edge, pieces }: Instance, turned: boolean, support: number): Problem {
  const kinds = pieces
    .map(([a, b, c], index): Kind => {
      const all: [number, number, number][] = turned
        ? [
            [a, b, c],
            [a, c, b],
            [b, a, c],
            [b, c, a],
            [c, a, b],
            [c, b, a],
          ]
        : [[a, b, c]]
      return {
        turns: all.filter((one, at) => all.findIndex((other) => other.join() === one.join()) === at),
        edges: [a, b, c],
        volume: a * b * c,
        weight: 0,
        limit: Number.POSITIVE_INFINITY,
        company: 0,
        leastEdge: Math.min(a, b, c),
        longest: Math.max(a, b, c),
        base: a * b,
        together: null,
        declared: 0,
        asIs: false,
        quantity: 1,
        of: [{ key: String(index), quantity: 1 }],
        sku: "",
      }
    })
    .sort((x, y) => y.volume - x.volume)
  const inside = { length: edge, width: edge, height: edge }
  const box = { code: "B", ...inside, maxLoad: 1, outer: inside, tare: 0, stock: null, cost: 0, carrier: null }
  return {
    kinds,
    apart: [[false]],
    limited: false,
    pieces: kinds.length,
    support,
    boxes: [{ box, inside, volume: edge ** 3, outerVolume: edge ** 3, takes: kinds.map(() => true) }],
  }
}

/** Boxes that the general-purpose packer of the registry needs. */
function registry({ edge, pieces }: Instance, turned: boolean): number {
  const packer = new Packer3D()
  for (let at = 0; at < pieces.length; at += 1)
    packer.addBin({ name: `b${at}`, width: edge, height: edge, depth: edge, maxWeight: 1e9 })
  for (const [at, [width, height, depth]] of pieces.entries())
    packer.addItem({
      name: `p${at}`,
      width,
      height,
      depth,
      weight: 1,
      ...(turned ? {} : { allowedRotations: [RotationType.WHD] }),
    })
  return packer.pack().packedBins.filter((bin) => bin.items.length > 0).length
}

/** Spaces looked at that take 20 and 200 ms here. */
const budgets = [100_000, 1_000_000]

/**
 * Published classes of three-dimensional bin packing, boxes over the best of the bounds L0, L1 and L2, which hold where
 * nothing is turned; the search beside a packer of the registry.
 */
export function benchClasses(tests: number): void {
  say(
    `\nboxes over the bounds L0, L1, L2, classes 1–8 of 50 to 200 pieces, ${tests} of each (bounds hold without turning)`,
  )
  for (const [name, turned, support] of [
    ["as they stand", false, 0],
    ["turned", true, 0],
    ["turned, four fifths supported", true, 0.8],
  ] as const) {
    const ratios: number[][] = [[], [], [], []]
    const ms = [0, 0, 0, 0]
    const classes: string[] = []
    for (let kind = 1; kind <= 8; kind += 1) {
      const own: number[] = []
      for (const count of [50, 100, 150, 200])
        for (let test = 1; test <= tests; test += 1) {
          const one = instance(kind, count, test)
          const bound = lowerBound(one)
          const timed = (index: number, work: () => number) => {
            const began = performance.now()
            const found = work()
            ms[index] = (ms[index] as number) + performance.now() - began
            ratios[index]?.push(found / bound)
          }
          timed(0, () => registry(one, turned))
          const search = new PackingSearch(
            problemOf(one, turned, support),
            { price: null, handling: 0, fixed: [], aim: "fewest" },
            1,
          )
          timed(1, () => search.construct()?.fillings.length ?? 0)
          budgets.forEach((looks, at) =>
            timed(at + 2, () => {
              while (search.looks < looks && (search.best?.fillings.length ?? 0) > bound)
                search.improve(1, looks - search.looks)
              return search.best?.fillings.length ?? 0
            }),
          )
          own.push((search.best?.fillings.length ?? 0) / bound)
        }
      classes.push(`${kind}: ${(own.reduce((sum, each) => sum + each, 0) / own.length).toFixed(3)}`)
    }
    const mean = (index: number) =>
      `${((ratios[index] ?? []).reduce((sum, each) => sum + each, 0) / (ratios[index]?.length ?? 1)).toFixed(4)} in ${((ms[index] as number) / (ratios[index]?.length ?? 1)).toFixed(0)} ms`
    say(
      `  ${name}: registry ${mean(0)}; construction ${mean(1)}; ${budgets.map((looks, at) => `${looks / 1000} thousand looks ${mean(at + 2)}`).join("; ")}`,
    )
    say(`    by class at the end: ${classes.join(", ")}`)
  }
}
