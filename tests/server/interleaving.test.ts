import { randomUUID } from "node:crypto"
import { Readable } from "node:stream"
import type { OrderId } from "core/ids/index.ts"
import fc from "fast-check"
import { cancelByHand } from "server/decisions/cancel.ts"
import { checkAgain } from "server/decisions/hold.ts"
import { joinOrders, partOrder } from "server/decisions/join.ts"
import { reroute } from "server/decisions/reroute.ts"
import { decideChange, pendingChange } from "server/intake/change.ts"
import { previewFile } from "server/intake/read.ts"
import { takeIn } from "server/intake/take.ts"
import { leadOf } from "server/orders/joined.ts"
import { addPackage, openShipment } from "server/packing/index.ts"
import { pick, pickStops } from "server/picking/index.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { as, header, openRig, type Rig, row } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const skus = ["BUN-10", "HYD-TRI", "NUT-FER-1"] as const

/** An order as its source has it: pieces by item, none of them for a line that it has not. */
type Content = readonly [number, number, number]
type Step =
  | { readonly kind: "send"; readonly order: 0 | 1; readonly content: Content }
  | { readonly kind: "cancel"; readonly order: 0 | 1 }
  | { readonly kind: "pick"; readonly order: 0 | 1; readonly pieces: number }
  | { readonly kind: "pack"; readonly order: 0 | 1 }
  | { readonly kind: "decide"; readonly order: 0 | 1; readonly take: boolean }
  | { readonly kind: "check"; readonly order: 0 | 1 }
  | { readonly kind: "drop"; readonly order: 0 | 1 }
  | { readonly kind: "join"; readonly order: 0 | 1 }
  | { readonly kind: "part"; readonly order: 0 | 1 }
  | { readonly kind: "reroute"; readonly order: 0 | 1 }

const order = fc.constantFrom<0 | 1>(0, 1)
const pieces = fc.integer({ min: 0, max: 3 })
const content = fc
  .tuple(pieces, pieces, pieces)
  .filter((all) => all.some((n) => n > 0)) as unknown as fc.Arbitrary<Content>
const send = fc.record({ kind: fc.constant("send" as const), order, content })
const step: fc.Arbitrary<Step> = fc.oneof(
  { weight: 4, arbitrary: send },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant("cancel" as const), order }) },
  {
    weight: 4,
    arbitrary: fc.record({ kind: fc.constant("pick" as const), order, pieces: fc.integer({ min: 1, max: 3 }) }),
  },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant("pack" as const), order }) },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant("decide" as const), order, take: fc.boolean() }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant("check" as const), order }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant("drop" as const), order }) },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant("join" as const), order }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant("part" as const), order }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant("reroute" as const), order }) },
)

let run = 0
const number = (of: 0 | 1) => `IL-${run}-${of}`
const orderOf = (of: 0 | 1) =>
  rig
    .db("sales_order")
    .where({ source_number: number(of) })
    .first()

async function arrive(of: 0 | 1, lines: Content, state: string): Promise<void> {
  const rows = lines.flatMap((quantity, index) =>
    quantity > 0
      ? [`${row({ order_number: number(of), sku: skus[index] as string, quantity: String(quantity) })},${state}`]
      : [],
  )
  const text = [`${header},source_state`, ...rows].join("\n")
  const id = await previewFile(rig.context, "file", "p.csv", Readable.from([Buffer.from(text)]))
  await takeIn(rig.context, id)
}

/** What must be so by what the source sent and people decided. */
interface Expected {
  /** The lines that the order has; null once it is canceled. */
  readonly lines: Content | null
  /** The content that counts as known: the same again is no change. */
  readonly answer: Content
  /** What waits for a decision. */
  readonly pending: Content | "cancelled" | null
  /** Cancellations that a person kept out, by the content they came with. */
  readonly keptOut: readonly string[]
}

async function hasBegun(orderId: OrderId): Promise<boolean> {
  const { db } = rig
  const picked = await db("allocation as a")
    .join("order_line as l", "l.id", "a.order_line_id")
    .where({ "l.order_id": orderId })
    .where("a.picked", ">", 0)
    .first("a.id")
  return (
    !!picked ||
    !!(await db("shipment")
      .where({ order_id: await leadOf(db, orderId) })
      .first("id"))
  )
}

/** Does a step; answers what the order must be after it. */
async function act(one: Step, known: Expected | undefined): Promise<Expected | undefined> {
  const here = await orderOf(one.order)
  const begun = here ? await hasBegun(here.id) : false
  const context = as(rig.context, { warehouseId: here?.warehouse_id ?? 1 })
  switch (one.kind) {
    case "send": {
      await arrive(one.order, one.content, "")
      if (!known || !begun || known.lines === null)
        return { keptOut: [], ...known, lines: one.content, answer: one.content, pending: null }
      return { ...known, pending: String(known.answer) === String(one.content) ? null : one.content }
    }
    case "cancel": {
      if (!known) return known
      const content = known.lines ?? known.answer
      await arrive(one.order, content, "cancelled")
      if (known.lines === null) return known
      if (!begun) return { ...known, lines: null, pending: null }
      return known.keptOut.includes(String(content)) ? known : { ...known, pending: "cancelled" }
    }
    case "pick": {
      // two people at once, each with scans of their own
      const stops = here ? await pickStops(rig.db, here.id) : []
      await Promise.all(
        stops.slice(0, 2).map((stop) =>
          pick(context, there(here).id, {
            scanId: randomUUID(),
            allocationId: stop.allocationId,
            bin: stop.bin,
            item: stop.sku,
            times: one.pieces,
          }),
        ),
      )
      return known
    }
    case "pack":
      if (!here || !begun) return known
      await openShipment(context, here.id)
      await addPackage(context, here.id, "K12", true)
      return known
    case "decide": {
      const pending = here ? await pendingChange(rig.db, here.id) : null
      if (!known?.pending || !pending || !here) return known
      await decideChange(context, here.id, pending.id, one.take ? "take" : "keep")
      if (known.pending === "cancelled")
        return one.take
          ? { ...known, lines: null, pending: null }
          : { ...known, pending: null, keptOut: [...known.keptOut, String(known.lines)] }
      return { ...known, answer: known.pending, lines: one.take ? known.pending : known.lines, pending: null }
    }
    case "check":
      if (here) await checkAgain(context, here.id)
      return known
    case "drop":
      if (!here || !known || known.lines === null) return known
      await cancelByHand(as(context, { role: "lead" }), here.id)
      return { ...known, lines: null, pending: null }
    // joined, parted or sent elsewhere, by whatever the order is then: it keeps its lines and what waits for it
    case "join": {
      const other = await orderOf(one.order === 0 ? 1 : 0)
      if (here && other) await joinOrders(context, [here.id, other.id])
      return known
    }
    case "part":
      if (here) await partOrder(context, here.id)
      return known
    case "reroute":
      if (here) await reroute(context, here.id, here.warehouse_id === 1 ? 2 : 1)
      return known
  }
}

/** What must hold after any steps, of orders, of lines, and of the stock. */
async function sound(model: ReadonlyMap<number, Expected>): Promise<void> {
  const { db } = rig
  for (const [of, { lines, pending }] of model) {
    const orders = await db("sales_order").where({ source_number: number(of as 0 | 1) })
    expect(orders).toHaveLength(1)
    const { id, cancelled_at } = there(orders[0])
    expect(cancelled_at !== null).toBe(lines === null)
    const waiting = (await pendingChange(db, id))?.kind ?? null
    expect(waiting).toBe(pending === null ? null : pending === "cancelled" ? "cancelled" : "changed")
    if (lines !== null) {
      const rows = await db("order_line")
        .join("item", "item.id", "order_line.item_id")
        .where({ order_id: id })
        .select("sku", "ordered", "order_line.id")
      expect(rows.map((one) => [one.sku, one.ordered]).sort()).toEqual(
        lines.flatMap((n, index) => (n > 0 ? [[skus[index], n]] : [])).sort(),
      )
      for (const line of rows) {
        const held = await db("allocation")
          .where({ order_line_id: line.id })
          .sum({ quantity: "quantity", picked: "picked" })
          .first()
        expect(Number(held?.quantity ?? 0)).toBeLessThanOrEqual(line.ordered)
        const packed = await db("package_content").where({ order_line_id: line.id }).sum({ n: "quantity" }).first()
        expect(Number(packed?.n ?? 0)).toBeLessThanOrEqual(Number(held?.picked ?? 0))
      }
    } else {
      const held = await db("allocation").join("order_line as l", "l.id", "order_line_id").where("l.order_id", id)
      expect(held).toEqual([])
    }
  }
  // nobody leads who is led, is canceled, or stands in another warehouse
  const astray = await db("sales_order as o")
    .join("sales_order as l", "l.id", "o.joined_to_id")
    .where((any) =>
      any
        .whereNotNull("l.joined_to_id")
        .orWhereNotNull("l.cancelled_at")
        .orWhereNotNull("o.cancelled_at")
        .orWhereRaw("l.warehouse_id <> o.warehouse_id"),
    )
  expect(astray).toEqual([])
  // what lies in the bins is what was moved there, and what is allocated is what orders hold and have not picked
  const wrong = await db("stock as s")
    .select("s.id")
    .whereRaw("s.on_hand <> (SELECT SUM(m.quantity) FROM stock_movement m WHERE m.stock_id = s.id)")
    .orWhereRaw(
      "s.allocated <> (SELECT COALESCE(SUM(a.quantity - a.picked), 0) FROM allocation a WHERE a.stock_id = s.id)",
    )
  expect(wrong).toEqual([])
}

it("no interleaving of import, change, cancellation, picking, decision, joining and rerouting loses or doubles an order or a line", async () => {
  await fc.assert(
    fc.asyncProperty(send, fc.array(step, { minLength: 3, maxLength: 12 }), async (first, steps) => {
      run += 1
      const model = new Map<number, Expected>()
      for (const one of [first, ...steps]) {
        const expected = await act(one, model.get(one.order))
        if (expected) model.set(one.order, expected)
        await sound(model)
      }
    }),
    { numRuns: Number(process.env.VARNOK_RUNS ?? 25), endOnFailure: true },
  )
}, 600_000)
