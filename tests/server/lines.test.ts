import { randomUUID } from "node:crypto"
import { sayEntry } from "app/parts/story.ts"
import { timeline } from "server/audit/index.ts"
import { changeLines } from "server/decisions/lines.ts"
import { pendingChange } from "server/intake/change.ts"
import { addPackage, openShipment, putIn } from "server/packing/index.ts"
import { reconcileStock } from "server/stock/move.ts"
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  codes,
  openRig,
  orderBySource,
  pickAll,
  type Rig,
  readyToBuy,
  row,
  takeFile,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
let count = 0
let number = ""
let id = 0
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())
/** An order of 4 and 6. */
beforeEach(async () => {
  count += 1
  number = `LN-${count}`
  await takeFile(
    rig.context,
    row({ order_number: number }),
    row({ order_number: number, sku: "BUN-10", quantity: "6" }),
  )
  id = (await orderBySource(rig.db, number)).id
})

const lead = () => as(rig.context, { role: "lead", name: "Tomas" })
const lines = () =>
  rig
    .db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .where({ order_id: id })
    .orderBy("line_number")
    .select("l.id", "i.sku", "l.ordered")
const held = async () =>
  Number(
    (
      await rig
        .db("allocation as a")
        .join("order_line as l", "l.id", "a.order_line_id")
        .where({ order_id: id })
        .sum({ n: "a.quantity" })
    )[0]?.n,
  )
async function change(
  pieces: Record<string, number>,
  added: { sku: string; pieces: number } | null = null,
  context = lead(),
  why = "telephone",
) {
  const { version } = there(await rig.db("sales_order").where({ id }).first("version"))
  const known = await lines()
  const wanted = Object.entries(pieces).map(
    ([sku, n]) => [known.find((line) => line.sku === sku)?.id, n] as [number, number],
  )
  return { version, wanted, outcome: await changeLines(context, id, { version, why, pieces: wanted, added }) }
}

describe("the lead changes what an order holds", () => {
  it("before picking: fewer, none, another item; it is held, told on the story and to its source", async () => {
    await rig
      .db("order_source")
      .where({ code: "file" })
      .update({ report_url: `${rig.at.orderSource}/reports` })
    const { outcome, version, wanted } = await change({ "YST-ALE-500": 2, "BUN-10": 0 }, { sku: "HYD-TRI", pieces: 3 })
    expect(value(outcome)).toEqual({ changed: 3, back: [] })
    // sent once more, it is done already and nothing is added twice
    expect(
      codes(
        await changeLines(lead(), id, {
          version,
          why: "telephone",
          pieces: wanted,
          added: { sku: "HYD-TRI", pieces: 3 },
        }),
      ),
    ).toEqual(["order.changed-meanwhile"])
    expect((await lines()).map((line) => [line.sku, line.ordered])).toEqual([
      ["YST-ALE-500", 2],
      ["HYD-TRI", 3],
    ])
    expect(await held()).toBe(5)
    const story = (await timeline(rig.db, id)).map(sayEntry)
    expect(story).toContain("lines changed: YST-ALE-500 4 → 2, BUN-10 6 → 0, HYD-TRI 0 → 3. telephone")
    await workAll(rig.db)
    const reports = (await (await fetch(`${rig.at.orderSource}/reports`)).json()) as {
      body: Record<string, unknown>
    }[]
    expect(reports.filter((one) => one.body.topic === "order.changed").map((one) => one.body)).toMatchObject([
      {
        orderNumber: number,
        changedBy: "Tomas",
        why: "telephone",
        lines: [
          { sku: "YST-ALE-500", before: 4, after: 2 },
          { sku: "BUN-10", before: 6, after: 0 },
          { sku: "HYD-TRI", before: 0, after: 3 },
        ],
      },
    ])
    expect(await reconcileStock(rig.db)).toEqual([])
  })

  it("while it is packed: what is packed stays, what is picked too much is carried back", async () => {
    await pickAll(rig.context, id)
    value(await openShipment(rig.context, id))
    const shipment = value(await addPackage(rig.context, id, "K12"))
    value(
      await putIn(rig.context, id, {
        package: 1,
        lineId: shipment.lines[1]?.id ?? 0,
        quantity: 2,
        scanned: true,
        scanId: randomUUID(),
      }),
    )
    expect(codes((await change({ "BUN-10": 1 })).outcome)).toEqual(["lines.packed"])
    const { back } = value((await change({ "BUN-10": 2, "YST-ALE-500": 0 })).outcome)
    expect(back.map((one) => [one.sku, one.quantity])).toEqual([
      ["BUN-10", 4],
      ["YST-ALE-500", 4],
    ])
    expect((await lines()).map((line) => [line.sku, line.ordered])).toEqual([["BUN-10", 2]])
    // the shipment that was seen is old
    expect(there(await rig.db("shipment").where({ order_id: id }).first("version")).version).toBeGreaterThan(
      shipment.version + 1,
    )
    expect(await reconcileStock(rig.db)).toEqual([])
  })

  it("not below one line, not without a reason's right, not what is unknown, not what has labels", async () => {
    expect(codes((await change({ "YST-ALE-500": 0, "BUN-10": 0 })).outcome)).toEqual(["lines.nothing-left"])
    expect(codes((await change({}, { sku: "NO-SUCH", pieces: 1 })).outcome)).toEqual(["lines.no-such-item"])
    await expect(change({ "BUN-10": 1 }, null, rig.context)).rejects.toThrow()
    expect(
      codes(await changeLines(as(lead(), { warehouseId: 2 }), id, { version: 1, why: "x", pieces: [], added: null })),
    ).toEqual(["order.unknown"])
    const { orderId, shipment } = await readyToBuy(rig.context, `${number}-B`)
    await askForLabels(rig.context, orderId, shipment)
    const line = shipment.lines[0]?.id ?? 0
    expect(
      codes(await changeLines(lead(), orderId, { version: 1, why: "x", pieces: [[line, 1]], added: null })),
    ).toEqual(["order.labels-asked-for"])
    await workAll(rig.db)
  })

  it("and what its source sends after that waits for a decision, though picking has not begun", async () => {
    value((await change({ "YST-ALE-500": 2 })).outcome)
    const again = () =>
      takeFile(rig.context, row({ order_number: number }), row({ order_number: number, sku: "BUN-10", quantity: "6" }))
    // the same as ever: what the lead changed stays
    await again()
    expect(await pendingChange(rig.db, id)).toBeNull()
    expect((await lines())[0]?.ordered).toBe(2)
    await takeFile(rig.context, row({ order_number: number, quantity: "9" }))
    expect((await pendingChange(rig.db, id))?.kind).toBe("changed")
    expect((await lines())[0]?.ordered).toBe(2)
  })
})
