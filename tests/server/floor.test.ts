import { randomUUID } from "node:crypto"
import { Readable } from "node:stream"
import { NotAllowed } from "server/actors/index.ts"
import { closePool, compute } from "server/compute/pool.ts"
import { runsWanted } from "server/compute/tasks.ts"
import { binColumns, exportBins, importBins } from "server/floorPlan/binsCsv.ts"
import { floorOf, putPlan, readPlan } from "server/floorPlan/index.ts"
import { saveCart, saveSteps } from "server/floorPlan/settings.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { packRun } from "server/packing/packRun.ts"
import { makeRuns, proposeRuns } from "server/picking/buildRuns.ts"
import { orderWalk, pick, pickStops } from "server/picking/index.ts"
import { carts } from "server/picking/runs.ts"
import { enterRun } from "server/picking/walkRuns.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { as, codes, openRig, orderBySource, pickAll, type Rig, row, takeFile, value } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(async () => {
  await closePool()
  await rig.drop()
})

const admin = () => as(rig.context, { role: "administrator" })
const csv = (text: string) => Readable.from([Buffer.from(text)])
const idOf = async (number: string): Promise<number> => (await orderBySource(rig.db, number)).id

describe("a floor", () => {
  it("goes out and in again as it is, and walks are measured on it", async () => {
    const { plan, version } = await floorOf(rig.db, 1)
    expect(readPlan(JSON.parse(JSON.stringify(plan)))).toMatchObject({ ok: true })
    value(await putPlan(admin(), version, plan))
    const again = await floorOf(rig.db, 1)
    expect(again.version).toBe(version + 1)
    expect(again.plan).toEqual(plan)
    await takeFile(
      rig.context,
      row({ order_number: "W-1", sku: "YST-ALE-500", quantity: "1" }),
      row({ order_number: "W-1", sku: "KEG-HAF-58", quantity: "1" }),
    )
    const walked = await orderWalk(rig.db, 1, await idOf("W-1"))
    const [first, second] = [...new Set(walked.stops.map((stop) => stop.bin))] as [string, string]
    const { metres } = again.distances
    expect(walked.metres).toBeCloseTo(metres("DESK", first) + metres(first, second) + metres(second, "BENCH"), 9)
    expect(walked.metres as number).toBeLessThanOrEqual(walked.plainMetres as number)
  })
  it("is refused on old ground, with a filled bin missing, and by who may not", async () => {
    const { plan, version } = await floorOf(rig.db, 1)
    expect(codes(await putPlan(admin(), version - 1, plan))).toEqual(["floor-plan.changed-meanwhile"])
    const without = { ...plan, bins: plan.bins.filter((bin) => bin.code !== "C-14-2") }
    expect(codes(await putPlan(admin(), version, without))).toEqual(["floor-plan.bin-not-empty"])
    expect(codes(await putPlan(admin(), version, { ...plan, aisles: [] })).slice(0, 1)).toEqual([
      "floor-plan.bin-no-aisle",
    ])
    expect(codes(await putPlan(admin(), version, { bins: "many" }))).toContain("floor-plan.shape")
    await expect(putPlan(rig.context, version, plan)).rejects.toThrow(NotAllowed)
    expect((await floorOf(rig.db, 1)).version).toBe(version)
  })
  it("takes an empty bin off, which stays known for what was in it", async () => {
    const { plan, version } = await floorOf(rig.db, 1)
    value(await putPlan(admin(), version, { ...plan, bins: plan.bins.filter((bin) => bin.code !== "A-01-1") }))
    expect((await floorOf(rig.db, 1)).plan.bins.some((bin) => bin.code === "A-01-1")).toBe(false)
    expect(await rig.db("bin").where({ warehouse_id: 1, code: "A-01-1" }).first("aisle")).toEqual({ aisle: null })
  })
  it("takes its bins from CSV, all or nothing, each bad field named with its line", async () => {
    const { version } = await floorOf(rig.db, 1)
    const text = await exportBins(admin())
    expect(text.split("\r\n")[0]?.replace("\ufeff", "")).toBe(binColumns.join(","))
    const bad = text.replace(/\r\n([^,]+),([^,]+),[^,]+,/, "\r\n$1,$2,far,")
    const outcome = await importBins(admin(), version, csv(bad))
    expect(
      outcome.ok ? [] : outcome.reasons.map((one) => [one.code, one.values.line, one.values.field, one.values.value]),
    ).toEqual([["floor-plan.bin-row", "2", "x_m", "far"]])
    expect(codes(await importBins(admin(), version, csv("code,aisle\r\nA,A\r\n")))).toEqual(["file.columns-missing"])
    expect(codes(await importBins(admin(), version, csv(`${binColumns.join(",")}\r\n`)))).toEqual(["file.empty"])
    expect(value(await importBins(admin(), version, csv(text))).bins).toBeGreaterThan(50)
  })
})

describe("what is scanned", () => {
  it("is set for the warehouse and for an item, which speaks first", async () => {
    await takeFile(rig.context, row({ order_number: "S-1", po_number: "S1", sku: "YST-ALE-500", quantity: "3" }))
    const id = await idOf("S-1")
    const [stop] = await pickStops(rig.db, id)
    const attempt = (more: Record<string, string> = {}) =>
      pick(rig.context, id, {
        scanId: randomUUID(),
        allocationId: stop?.allocationId ?? 0,
        bin: stop?.bin ?? "",
        item: "YST-ALE-500",
        times: 1,
        ...more,
      })
    value(await saveSteps(admin(), null, { lot: true }))
    expect(codes(await attempt())).toEqual(["pick.lot-first"])
    expect(codes(await attempt({ lot: "Y25-999" }))).toEqual(["pick.wrong-lot"])
    expect(value(await attempt({ lot: stop?.lot ?? "" })).taken).toBe(1)
    value(await saveSteps(admin(), "YST-ALE-500", { lot: false, bin: false }))
    expect(value(await attempt({ bin: "" })).taken).toBe(1)
    expect(codes(await saveSteps(admin(), "NO-SUCH", {}))).toEqual(["stock.no-item"])
    expect(codes(await saveSteps(admin(), null, { colour: true }))).toEqual(["steps.shape"])
    value(await saveSteps(admin(), null, {}))
    value(await saveSteps(admin(), "YST-ALE-500", {}))
  })
  it("needs totes on carts, each tote on one", async () => {
    const cart = {
      code: "C9",
      name: "Long cart",
      litres: "600",
      kilograms: "200",
      totes: 3,
      firstTote: 901,
      toteLitres: 40,
    }
    value(await saveCart(admin(), cart))
    value(await saveCart(admin(), cart))
    expect((await carts(rig.db, 1)).find((one) => one.code === "C9")).toMatchObject({
      totes: 3,
      litres: 600,
      kilograms: 200,
      toteLitres: 40,
    })
    expect(codes(await saveCart(admin(), { ...cart, code: "C8", firstTote: 903 }))).toEqual(["cart.tote-taken"])
    value(await saveCart(admin(), { ...cart, totes: 2 }))
    expect((await carts(rig.db, 1)).find((one) => one.code === "C9")?.totes).toBe(2)
  })
})

describe("beside the server", () => {
  it("runs are built in a thread as they are in place, and can be stopped", async () => {
    const { plan } = await floorOf(rig.db, 1)
    const orders = plan.bins
      .slice(0, 30)
      .map((bin, id) => ({ id, bins: [bin.code], litres: 5, kilograms: 1, totes: 1 }))
    const input = {
      orders,
      cart: { totes: 8, litres: null, kilograms: null },
      atMost: 12,
      floor: { plan, desk: "DESK", bench: "BENCH" },
    }
    expect(await compute("runsWanted", input)).toEqual(runsWanted(input))
    const stop = new AbortController()
    const stopped = compute("runsWanted", input, stop.signal)
    stop.abort()
    await expect(stopped).rejects.toThrow(/abort/i)
  })
  it("cartons are taken for all orders of a run that are picked, once", async () => {
    await takeFile(
      rig.context,
      ...["A", "B", "C"].map((name) =>
        row({
          order_number: `P-${name}`,
          po_number: `P${name}`,
          sku: "YST-LAG-500",
          quantity: "4",
          promised_on: "2026-12-04",
        }),
      ),
    )
    const ids = await Promise.all(["P-A", "P-B", "P-C"].map(idOf))
    const [number] = value(
      await makeRuns(rig.context, { by: "hand", value: "", orderIds: ids, cartId: null, atMost: 12 }),
    )
    value(await enterRun(rig.context, number as number, null))
    for (const id of ids.slice(0, 2)) await pickAll(rig.context, id)
    const first = value(await packRun(rig.context, number as number))
    expect([first.taken.length, first.left.map((one) => one.why[0]?.code)]).toEqual([2, ["run.not-picked"]])
    const shipment = await shipmentOf(rig.db, ids[0] ?? 0)
    expect(shipment?.packages.map((one) => [one.contents.length, Object.values(one.planned)])).toEqual([[0, [4]]])
    const again = value(await packRun(rig.context, number as number))
    expect([again.taken, again.before.length]).toEqual([[], 2])
    expect(codes(await packRun(rig.context, 9_999))).toEqual(["run.unknown"])
  })
  it("proposes runs for three hundred orders", async () => {
    const rows = Array.from({ length: 300 }, (_, at) =>
      row({
        order_number: `M-${at}`,
        po_number: `M${at}`,
        sku: ["YST-LAG-500", "PH-METER", "BUN-10", "HOP-CAS-1", "GSK-15-100", "SAM-VAL-15"][at % 6] as string,
        quantity: "1",
        promised_on: "2026-12-04",
      }),
    )
    await rig.db("stock").where({ warehouse_id: 1 }).update({ on_hand: 10_000 })
    await takeFile(rig.context, ...rows)
    const proposed = await proposeRuns(rig.context, { by: "all", value: "", orderIds: [], cartId: null, atMost: 12 })
    const orders = proposed.runs.flatMap((run) => run.orders)
    expect(new Set(orders.map((one) => one.id)).size).toBe(orders.length)
    expect(orders.length).toBeGreaterThanOrEqual(300)
    expect(proposed.runs.every((run) => run.orders.length <= 12)).toBe(true)
  })
})
