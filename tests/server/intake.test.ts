import { randomUUID } from "node:crypto"
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  utimesSync,
  writeFileSync,
} from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { Readable } from "node:stream"
import { NotAllowed } from "server/actors/index.ts"
import { cancelByHand } from "server/decisions/cancel.ts"
import { findCustomers, saveCustomer } from "server/decisions/customers.ts"
import { changePromise } from "server/decisions/promise.ts"
import { putScreeningList } from "server/decisions/screeningLists.ts"
import { waive } from "server/decisions/waive.ts"
import { mapping } from "server/formats/mapping.ts"
import { decideChange, pendingChange } from "server/intake/change.ts"
import { correctRows, refusedCsv } from "server/intake/correct.ts"
import { correctRow, intakePreview } from "server/intake/file.ts"
import { watchFolder } from "server/intake/folder.ts"
import { pullOrders, pullPeriod } from "server/intake/pull.ts"
import { previewFile } from "server/intake/read.ts"
import {
  keepSample,
  sampleOf,
  saveMapping,
  saveSource,
  sourceForm,
  sources,
  tryMapping,
} from "server/intake/sources.ts"
import { startTaking, takeIn } from "server/intake/take.ts"
import { copyOf, draft, draftContent, drafts, dropDraft, saveDraft, takeDraft } from "server/intake/typed.ts"
import { summaryById } from "server/orders/facts.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { addPackage, openShipment } from "server/packing/index.ts"
import { pick, pickStops } from "server/picking/index.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import {
  as,
  askForLabels,
  codes,
  file,
  hasOrder,
  openRig,
  orderBySource,
  packed,
  pickAll,
  type Rig,
  row,
  takeFile,
  value,
  workAll,
} from "./rig.ts"

let rig: Rig
const drop = mkdtempSync(join(tmpdir(), "varnok-drop-"))
beforeAll(async () => {
  process.env.VARNOK_DROP = drop
  rig = await openRig()
})
afterAll(async () => {
  await rig.drop()
  delete process.env.VARNOK_DROP
  rmSync(drop, { recursive: true, force: true })
})

const admin = () => as(rig.context, { role: "administrator" })
const lead = () => as(rig.context, { role: "lead" })
const summary = async (number: string) => {
  const order = await orderBySource(rig.db, number)
  return (await summaryById(rig.db, await warehouseById(rig.db, order.warehouse_id), order.id)) as NonNullable<
    Awaited<ReturnType<typeof summaryById>>
  >
}
const stopCodes = async (number: string) => (await summary(number)).stops.map((stop) => stop.code)
const onHand = async (sku: string) =>
  Number(
    (
      await rig
        .db("stock")
        .join("item", "item.id", "stock.item_id")
        .where({ sku, warehouse_id: 1 })
        .sum({ n: "on_hand" })
        .first()
    )?.n,
  )
const form = (more: Record<string, string>) =>
  sourceForm.parse({ code: "x", name: "X", kind: "upload", warehouse: "1", active: "on", ...more })

describe("a source", () => {
  it("is added, changed and seen with its counts, by an administrator only", async () => {
    await expect(saveSource(rig.context, form({ code: "depot" }), true)).rejects.toThrow(NotAllowed)
    value(await saveSource(admin(), form({ code: "depot", name: "Depot" }), true))
    expect(codes(await saveSource(admin(), form({ code: "depot" }), true))).toEqual(["source.code-taken"])
    expect(codes(await saveSource(admin(), form({ code: "dep2", kind: "folder" }), true))).toEqual([
      "source.needs-folder",
    ])
    expect(codes(await saveSource(admin(), form({ code: "dep2", kind: "pull" }), true))).toEqual([
      "source.needs-address",
    ])
    const both = form({ code: "dep2", ship_states: "Open, Paid", cancelled_states: "paid" })
    expect(codes(await saveSource(admin(), both, true))).toEqual(["source.state-twice"])
    const id = await previewFile(
      rig.context,
      "depot",
      "d.csv",
      file(row({ order_number: "D-1" }), row({ quantity: "x" })),
    )
    await takeIn(rig.context, id)
    expect((await sources(rig.context)).find((one) => one.code === "depot")).toMatchObject({
      orders: 1,
      refusedRows: 1,
      lastIntake: id,
    })
    // the same number of another source is another order
    await takeFile(rig.context, row({ order_number: "D-1" }))
    expect(await rig.db("sales_order").where({ source_number: "D-1" })).toHaveLength(2)
    value(await saveSource(admin(), form({ code: "depot", name: "Depot", version: "1" }), false))
    expect(codes(await saveSource(admin(), form({ code: "depot", version: "1" }), false))).toEqual([
      "source.changed-meanwhile",
    ])
    value(await saveSource(admin(), { ...form({ code: "depot", version: "2" }), active: undefined }, false))
    await expect(previewFile(rig.context, "depot", "e.csv", file(row()))).rejects.toMatchObject({
      reason: { code: "source.not-active" },
    })
  })

  it("says by its own states what ships, waits and is cancelled", async () => {
    value(await saveSource(admin(), form({ code: "states", ship_states: "Paid", cancelled_states: "Void" }), true))
    const take = async (state: string, quantity = "2") => {
      const text = ["order_number,ordered_on,customer,street,city,state,postal_code,sku,quantity,source_state"]
      text.push(`ST-1,2026-11-23,Elk Run Taproom,14 Growler Row,Denver,CO,80205,YST-ALE-500,${quantity},${state}`)
      const id = await previewFile(rig.context, "states", "s.csv", Readable.from([Buffer.from(text.join("\n"))]))
      await takeIn(rig.context, id)
      return (await intakePreview(rig.context, id))?.orders[0]?.fate
    }
    expect(await take("quoted")).toBe("waits")
    expect(await hasOrder(rig.db, "ST-1")).toBe(false)
    expect(await take("void")).toBe("not-here")
    expect(await take("PAID")).toBe("new")
    expect(await take("paid")).toBe("unchanged")
    expect(await take("quoted")).toBe("changed")
    expect(await stopCodes("ST-1")).toEqual(["stop.source-state"])
    // what a person corrected meanwhile is not undone by a state
    await rig.db("sales_order").where({ source_number: "ST-1" }).update({ street2: "Back gate" })
    expect(await take("paid")).toBe("changed")
    expect(await stopCodes("ST-1")).toEqual([])
    expect((await orderBySource(rig.db, "ST-1")).street2).toBe("Back gate")
    expect(await take("Void")).toBe("cancelled")
    expect(await summary("ST-1")).toMatchObject({ stage: "cancelled", facts: { allocated: 0 } })
    expect(await take("void")).toBe("unchanged")
    // a source may take its cancellation back
    expect(await take("paid", "3")).toBe("changed")
    expect(await summary("ST-1")).toMatchObject({ stage: "released", facts: { ordered: 3 } })
  })

  it("reads its files by its mapping, tried on a sample first", async () => {
    value(await saveSource(admin(), form({ code: "mapped" }), true))
    const by = mapping.parse({
      columns: {
        order_number: "Nr",
        ordered_on: "Tag",
        customer: "Wer",
        street: "Str",
        city: "Ort",
        sku: "Art",
        quantity: "St",
      },
      fixed: { state: "CO", postal_code: "80205" },
      references: [{ column: "Ref", name: "Job", printed: true }],
      dateOrder: "dmy",
      decimal: ",",
    })
    const sample = {
      name: "m.csv",
      header: ["Nr", "Tag", "Wer", "Str", "Ort", "Art", "St", "Ref"],
      rows: [
        {
          Nr: "M-1",
          Tag: "23.11.2026",
          Wer: "Elk Run Taproom",
          Str: "14 Growler Row",
          Ort: "Denver",
          Art: "NONE",
          St: "2,0",
          Ref: "J 9",
        },
      ],
    }
    await keepSample(admin(), "mapped", sample)
    const tried = await tryMapping(rig.db, (await sampleOf(rig.db, "mapped")) ?? sample, by)
    expect(tried[0]?.refusals.map((one) => one.code)).toEqual(["row.no-such-item"])
    expect(tried[0]?.fields).toMatchObject({ ordered_on: "2026-11-23", quantity: "2", "reference+Job": "J 9" })
    value(await saveMapping(admin(), "mapped", 1, by))
    const text =
      "Nr;Tag;Wer;Str;Ort;Art;St;Ref\nM-1;23.11.2026;Elk Run Taproom;14 Growler Row;Denver;YST-ALE-500;2,0;J 9\n"
    const id = await previewFile(
      rig.context,
      "mapped",
      "m.csv",
      Readable.from([Buffer.from(`\ufeff${text}`, "utf16le")]),
    )
    await takeIn(rig.context, id)
    const order = await orderBySource(rig.db, "M-1")
    expect(order).toMatchObject({ ordered_on: "2026-11-23", postal_code: "80205" })
    expect(await rig.db("order_reference").where({ order_id: order.id })).toEqual([
      { order_id: order.id, name: "Job", value: "J 9", printed: 1 },
    ])
  })

  it("that drops files into a folder is watched: good files go to done, others to refused with their reason", async () => {
    value(await saveSource(admin(), form({ code: "dropped", kind: "folder", folder: "here" }), true))
    expect(codes(await saveSource(admin(), form({ code: "other", kind: "folder", folder: "here" }), true))).toEqual([
      "source.folder-taken",
    ])
    const { id } = there(await rig.db("order_source").where({ code: "dropped" }).first("id"))
    await watchFolder(rig.db, id)
    const put = (name: string, text: string, ageMs = 10_000) => {
      writeFileSync(join(drop, "here", name), text)
      const at = (Date.now() - ageMs) / 1000
      utimesSync(join(drop, "here", name), at, at)
    }
    const header = "order_number,ordered_on,customer,street,city,state,postal_code,sku,quantity"
    const good = `${header}\nDF-1,2026-11-23,Elk Run Taproom,14 Growler Row,Denver,CO,80205,YST-ALE-500,1`
    put("a.csv", good)
    put("bad.csv", "nothing,of,use\n1,2,3")
    put("writing.csv", good.replace("DF-1", "DF-2"), 100)
    expect(await watchFolder(rig.db, id)).toBe(2)
    expect((await summary("DF-1")).stage).toBe("released")
    // what is still being written waits for the next look
    expect(await hasOrder(rig.db, "DF-2")).toBe(false)
    expect(readdirSync(join(drop, "here", "done"))).toEqual(["a.csv"])
    expect(readdirSync(join(drop, "here", "refused")).sort()).toEqual(["bad.csv", "bad.csv.reason.txt"])
    expect(readFileSync(join(drop, "here", "refused", "bad.csv.reason.txt"), "utf8")).toContain("file.columns-missing")
    expect((await sources(rig.context)).find((one) => one.code === "dropped")?.refusedFile).toMatchObject({
      name: "bad.csv",
      reason: { code: "file.columns-missing" },
    })
    // a file of a worker that died while it read is read again, and its order is the same order
    mkdirSync(join(drop, "here", "taking"), { recursive: true })
    writeFileSync(join(drop, "here", "taking", "a.csv"), good)
    utimesSync(join(drop, "here", "taking", "a.csv"), 1, 1)
    expect(await watchFolder(rig.db, id)).toBe(1)
    expect(await rig.db("sales_order").where({ source_number: "DF-1" })).toHaveLength(1)
    expect(existsSync(join(drop, "here", "done", "2-a.csv"))).toBe(true)
    // a file that is being read is neither read twice nor written over by another of its name
    writeFileSync(join(drop, "here", "taking", "a.csv"), good)
    put("a.csv", good.replace("DF-1", "DF-3"))
    expect(await watchFolder(rig.db, id)).toBe(1)
    expect(await hasOrder(rig.db, "DF-3")).toBe(true)
    expect(existsSync(join(drop, "here", "taking", "a.csv"))).toBe(true)
    // a folder's name can't lead out of the drop folder
    await rig.db("order_source").where({ id }).update({ folder: "../up" })
    expect(await watchFolder(rig.db, id)).toBe(0)
  })

  it("is asked for a period on demand, without moving where the regular asking stands", async () => {
    const order = (number: string, orderedOn: string, state = "paid") => ({
      number,
      orderedOn,
      state,
      customer: "Elk Run Taproom",
      shipTo: { street: "14 Growler Row", city: "Denver", state: "CO", postalCode: "80205", kind: "business" },
      lines: [{ sku: "YST-ALE-500", quantity: 1 }],
    })
    await fetch(`${rig.at.orderSource}/orders`, {
      method: "POST",
      body: JSON.stringify([
        order("PP-1", "2026-11-10"),
        order("PP-2", "2026-11-12"),
        order("PP-3", "2026-11-12", "on hold"),
      ]),
    })
    const outcome = await pullPeriod(rig.context, "shop", { from: "2026-11-11", to: "2026-11-12" })
    expect(value(outcome).orders).toBe(2)
    expect(await hasOrder(rig.db, "PP-1")).toBe(false)
    expect(await summary("PP-2")).toMatchObject({ stage: "released" })
    expect(await hasOrder(rig.db, "PP-3")).toBe(false)
    const shop = there(await rig.db("order_source").where({ code: "shop" }).first())
    expect(shop).toMatchObject({ pull_cursor: "", run_trouble: null })
    await pullOrders(rig.db, shop.id)
    expect(await summary("PP-1")).toMatchObject({ stage: "released" })
    expect(await rig.db("sales_order").where({ source_number: "PP-2" })).toHaveLength(1)
    expect(codes(await pullPeriod(rig.context, "file", { from: "2026-11-11", to: "2026-11-12" }))).toEqual([
      "source.not-asked",
    ])
    expect(codes(await pullPeriod(rig.context, "shop", { from: "2026-11-13", to: "2026-11-12" }))).toEqual([
      "source.period",
    ])
    const down = async () => {
      throw new Error("closed for maintenance")
    }
    expect(codes(await pullPeriod(rig.context, "shop", { from: "2026-11-11", to: "2026-11-12" }, down))).toEqual([
      "source.no-answer",
    ])
    expect(there(await rig.db("order_source").where({ code: "shop" }).first()).run_trouble).toBe(
      "closed for maintenance",
    )
  })
})

describe("a large intake", () => {
  it("is taken in by the worker, in parts, with progress, each order once", async () => {
    const rows = Array.from({ length: 40 }, (_, index) =>
      row({ order_number: `L-${index}`, quantity: "1", sku: "BUN-10" }),
    )
    const id = await previewFile(rig.context, "file", "large.csv", file(...rows))
    expect(await startTaking(rig.context, id)).toBe(false)
    expect(await startTaking(rig.context, id)).toBe(false)
    expect(await intakePreview(rig.context, id)).toMatchObject({ state: "taking", orderCount: 40, takenCount: 0 })
    // a worker that stops after the first order leaves the rest for the next part
    expect(await takeIn(rig.context, id, 0)).toBe(false)
    expect(await intakePreview(rig.context, id)).toMatchObject({ state: "taking", takenCount: 1 })
    await workAll(rig.db)
    expect(await intakePreview(rig.context, id)).toMatchObject({ state: "taken", takenCount: 40, fates: { new: 40 } })
    expect(await rig.db("sales_order").where("source_number", "like", "L-%")).toHaveLength(40)
    const again = await previewFile(rig.context, "file", "again.csv", file(...rows))
    expect((await intakePreview(rig.context, again))?.fates).toEqual({ unchanged: 40 })
  })
  it("that was read before a later one has nothing to say any more", async () => {
    const early = await previewFile(
      rig.context,
      "file",
      "early.csv",
      file(row({ order_number: "OV-1", quantity: "1" })),
    )
    await takeFile(rig.context, row({ order_number: "OV-1", quantity: "2" }))
    await takeIn(rig.context, early)
    expect((await intakePreview(rig.context, early))?.orders[0]?.fate).toBe("overtaken")
    expect((await summary("OV-1")).facts.ordered).toBe(2)
  })
})

describe("a refused row", () => {
  it("is corrected in place, alone, and its order is whole then", async () => {
    const id = await takeFile(
      rig.context,
      row({ order_number: "C-1" }),
      row({ order_number: "C-1", sku: "BUN-10", quantity: "two" }),
      row({ order_number: "C-2" }),
    )
    expect(await stopCodes("C-1")).toEqual(["stop.row-refused"])
    const touched = (await orderBySource(rig.db, "C-2")).version
    expect(await correctRow(rig.context, id, 3, { quantity: "none" })).toMatchObject({
      ok: false,
      reasons: [{ code: "row.not-a-quantity" }],
    })
    expect(await correctRow(rig.context, id, 3, { quantity: "2", order_number: "C-9" })).toMatchObject({
      reasons: [{ code: "intake.other-order" }],
    })
    expect(await correctRow(rig.context, id, 3, { quantity: "2" })).toMatchObject({ ok: true })
    expect(await summary("C-1")).toMatchObject({ stops: [], lines: 2, stage: "released" })
    expect((await orderBySource(rig.db, "C-2")).version).toBe(touched)
    expect(await correctRow(rig.context, id, 3, { quantity: "5" })).toMatchObject({ ok: false })
    const told = there(await rig.db("audit").where({ action: "order.row-corrected" }).first("detail"))
    expect(JSON.stringify(told.detail)).toContain("two")
  })
  it("goes out as CSV with the others and comes back corrected, in words a spreadsheet can't run", async () => {
    const id = await takeFile(
      rig.context,
      row({ order_number: "C-3", po_number: "=1+1", quantity: "x" }),
      row({ order_number: "C-3", sku: "BUN-10", quantity: "y" }),
      row({ order_number: "C-4", promised_on: "soon" }),
    )
    const csv = await refusedCsv(rig.context, id, (reasons) => reasons.map((one) => one.code).join())
    expect(csv).toContain("'=1+1")
    expect(csv.split("\r\n")).toHaveLength(5)
    const back = csv.replace(",x,", ",3,").replace(",y,", ",4,")
    const outcome = await correctRows(rig.context, id, Readable.from([Buffer.from(back)]))
    expect(outcome).toMatchObject({ corrected: 2, reasons: [{ code: "row.not-a-date" }] })
    expect((await summary("C-3")).facts.ordered).toBe(7)
    expect((await orderBySource(rig.db, "C-3")).po_number).toBe("=1+1")
  })
})

describe("a change at the source after picking has begun", () => {
  const begin = async (number: string) => {
    await takeFile(
      rig.context,
      row({ order_number: number, quantity: "4" }),
      row({ order_number: number, sku: "BUN-10", quantity: "2" }),
    )
    const { id } = await orderBySource(rig.db, number)
    await pickAll(rig.context, id)
    return id as number
  }
  const change = (number: string) =>
    takeFile(
      rig.context,
      row({ order_number: number, quantity: "1", street: "15 Growler Row" }),
      row({ order_number: number, sku: "HYD-TRI", quantity: "3", street: "15 Growler Row" }),
    )

  it("stops it and shows both; taking it puts back what is too much and allocates what is new", async () => {
    const before = { ale: await onHand("YST-ALE-500"), bun: await onHand("BUN-10") }
    const id = await begin("K-1")
    await change("K-1")
    await change("K-1")
    expect(await stopCodes("K-1")).toEqual(["stop.changed-at-source"])
    const pending = await pendingChange(rig.db, id)
    expect(pending?.lines.map(({ sku, here, picked, source }) => [sku, here, picked, source])).toEqual([
      ["YST-ALE-500", 4, 4, 1],
      ["BUN-10", 2, 2, null],
      ["HYD-TRI", null, 0, 3],
    ])
    expect(pending?.fields).toEqual([{ field: "street", here: "14 Growler Row", source: "15 Growler Row" }])
    const [stop] = await pickStops(rig.db, id)
    const attempt = {
      scanId: randomUUID(),
      allocationId: stop?.allocationId ?? 0,
      bin: stop?.bin ?? "",
      item: null,
      times: 1,
    }
    expect(codes(await pick(rig.context, id, attempt))).toEqual(["pick.order-stopped"])
    const { back } = value(await decideChange(rig.context, id, pending?.id ?? 0, "take"))
    expect(back.map(({ sku, quantity }) => [sku, quantity])).toEqual([
      ["YST-ALE-500", 3],
      ["BUN-10", 2],
    ])
    expect(await summary("K-1")).toMatchObject({ stops: [], facts: { ordered: 4, allocated: 4, picked: 1 } })
    expect((await orderBySource(rig.db, "K-1")).street).toBe("15 Growler Row")
    expect(await onHand("YST-ALE-500")).toBe(before.ale - 1)
    expect(await onHand("BUN-10")).toBe(before.bun)
    // decided is decided: again changes nothing
    expect(value(await decideChange(rig.context, id, pending?.id ?? 0, "take")).back).toEqual([])
    await change("K-1")
    expect(await stopCodes("K-1")).toEqual([])
  })

  it("is kept out when a person says so, and the same again is no change then", async () => {
    const id = await begin("K-2")
    await change("K-2")
    value(await decideChange(rig.context, id, (await pendingChange(rig.db, id))?.id ?? 0, "keep"))
    expect(await summary("K-2")).toMatchObject({ stops: [], facts: { ordered: 6, picked: 6 } })
    await change("K-2")
    expect(await stopCodes("K-2")).toEqual([])
    // another one asks again
    await takeFile(rig.context, row({ order_number: "K-2", quantity: "2" }))
    expect(await stopCodes("K-2")).toEqual(["stop.changed-at-source"])
  })

  it("goes away when the source takes it back", async () => {
    const id = await begin("K-3")
    await change("K-3")
    await takeFile(
      rig.context,
      row({ order_number: "K-3", quantity: "4" }),
      row({ order_number: "K-3", sku: "BUN-10", quantity: "2" }),
    )
    expect(await pendingChange(rig.db, id)).toBeNull()
    expect(await stopCodes("K-3")).toEqual([])
  })

  it("takes the packages apart that hold what goes, and keeps those numbers out of use", async () => {
    const id = await begin("K-4")
    value(await openShipment(rig.context, id))
    value(await addPackage(rig.context, id, "K12", true))
    await change("K-4")
    value(await decideChange(rig.context, id, (await pendingChange(rig.db, id))?.id ?? 0, "take"))
    expect((await shipmentOf(rig.db, id))?.packages ?? []).toEqual([])
    await pickAll(rig.context, id)
    const shipment = value(await addPackage(rig.context, id, "K12", true))
    expect(shipment.packages.map((one) => one.number)).toEqual([2])
  })

  it("can't be taken while labels are bought, and cancels when it is a cancellation", async () => {
    await takeFile(rig.context, row({ order_number: "K-5", quantity: "2" }))
    const { orderId, shipment } = await packed(rig.context, "K-5")
    await askForLabels(rig.context, orderId, shipment)
    await workAll(rig.db)
    await takeFile(rig.context, row({ order_number: "K-5", quantity: "1" }))
    expect(await stopCodes("K-5")).toEqual(["stop.changed-at-source"])
    const pending = await pendingChange(rig.db, orderId)
    expect(codes(await decideChange(rig.context, orderId, pending?.id ?? 0, "take"))).toEqual(["order.void-first"])
    value(await decideChange(rig.context, orderId, pending?.id ?? 0, "keep"))
    expect(await stopCodes("K-5")).toEqual([])

    const before = await onHand("REF-BRIX-32")
    await takeFile(rig.context, row({ order_number: "K-6", sku: "REF-BRIX-32", quantity: "2" }))
    const { id } = await orderBySource(rig.db, "K-6")
    await pickAll(rig.context, id)
    expect(codes(await cancelByHand(lead(), id))).toEqual([])
    expect(await summary("K-6")).toMatchObject({ stage: "cancelled", stops: [] })
    expect(await onHand("REF-BRIX-32")).toBe(before)
    await expect(cancelByHand(rig.context, id)).rejects.toThrow(NotAllowed)
  })
})

describe("a check", () => {
  it("of the promise stops what no service brings in time, and a new promise or a word ends it", async () => {
    await takeFile(
      rig.context,
      row({ order_number: "PR-1", promised_on: "2026-11-23" }),
      row({ order_number: "PR-2", promised_on: "2026-11-23" }),
    )
    expect(await stopCodes("PR-1")).toEqual(["stop.promise"])
    const [stop] = (await summary("PR-1")).stops
    // ordered on Tuesday: the next day by the dearest service at the earliest
    expect(stop?.values).toMatchObject({ promised: "2026-11-23", earliest: "2026-11-25" })
    const { id } = await orderBySource(rig.db, "PR-1")
    expect(codes(await changePromise(rig.context, id, "2026-11-20", "2026-11-24"))).toEqual(["order.promise-gone"])
    value(await changePromise(rig.context, id, "2026-11-25", "2026-11-24"))
    expect(await summary("PR-1")).toMatchObject({ stops: [], stage: "released" })
    const late = (await orderBySource(rig.db, "PR-2")).id
    expect(value(await waive(rig.context, late, "stop.promise"))).toEqual([])
    expect((await summary("PR-2")).stage).toBe("released")
    expect(codes(await waive(rig.context, late, "stop.by-hand"))).toEqual(["order.not-waivable"])
  })

  it("of a doubled purchase order is passed by the clerk, for these two orders only", async () => {
    await takeFile(
      rig.context,
      row({ order_number: "PO-1", po_number: "77" }),
      row({ order_number: "PO-2", po_number: "77" }),
    )
    expect(await stopCodes("PO-2")).toEqual(["stop.purchase-order-twice"])
    value(await waive(rig.context, (await orderBySource(rig.db, "PO-2")).id, "stop.purchase-order-twice"))
    expect(await stopCodes("PO-2")).toEqual([])
    await takeFile(rig.context, row({ order_number: "PO-3", po_number: "77" }))
    expect(await stopCodes("PO-3")).toEqual(["stop.purchase-order-twice"])
    // when the first of them is canceled the second's twin is gone with it
    await cancelByHand(lead(), (await orderBySource(rig.db, "PO-1")).id)
    await cancelByHand(lead(), (await orderBySource(rig.db, "PO-2")).id)
    await takeFile(rig.context, row({ order_number: "PO-3", po_number: "77", quantity: "3" }))
    expect(await stopCodes("PO-3")).toEqual([])
  })

  it("of credit stops all open orders of a customer; only the lead lets one go, and it ends for all", async () => {
    await takeFile(
      rig.context,
      row({ order_number: "CR-1", customer: "Halvard Brewing" }),
      row({ order_number: "CR-2", customer: "Halvard Brewing" }),
    )
    const [customer] = await findCustomers(rig.context, "halvard")
    if (!customer) throw new Error("no customer")
    const set = (credit_stop: "on" | undefined, version: number, credit_note = "two bills open") =>
      saveCustomer(lead(), { id: customer.id, version, credit_stop, credit_note })
    await expect(saveCustomer(rig.context, { id: customer.id, version: 1, credit_note: "" })).rejects.toThrow(
      NotAllowed,
    )
    expect(codes(await set("on", 1, ""))).toEqual(["customer.no-note"])
    value(await set("on", 1))
    expect(codes(await set(undefined, 1))).toEqual(["customer.changed-meanwhile"])
    expect((await summary("CR-1")).stops).toEqual([
      { code: "stop.credit", values: { customer: customer.code, note: "two bills open" } },
    ])
    expect((await summary("CR-1")).facts.allocated).toBe(0)
    const { id } = await orderBySource(rig.db, "CR-1")
    await expect(waive(rig.context, id, "stop.credit")).rejects.toThrow(NotAllowed)
    expect(value(await waive(lead(), id, "stop.credit"))).toEqual([])
    expect(await stopCodes("CR-2")).toEqual(["stop.credit"])
    expect(value(await set(undefined, 2)).freed).toBe(1)
    expect(await stopCodes("CR-2")).toEqual([])
  })

  it("of listed parties stops orders abroad only, by name or address, until the lead releases the hit", async () => {
    const list = "reference,name,street,city,country\nT-1,Trading Brackenmoor Chemical,9 Quay Street,Nelson,NZ\n"
    await expect(putScreeningList(rig.context, "watch", list)).rejects.toThrow(NotAllowed)
    expect(codes(await putScreeningList(admin(), "watch", "reference,name\nT-1,\n"))).toEqual(["screening.no-name"])
    value(await putScreeningList(admin(), "watch", list))
    const abroad = { country: "NZ", state: "", postal_code: "7010", city: "Nelson", sku: "HYD-TRI", quantity: "1" }
    await takeFile(
      rig.context,
      row({ order_number: "SC-1", customer: "Brackenmoor Chemical Trading Ltd", ...abroad }),
      row({ order_number: "SC-2", customer: "Brackenmoor Chemical Trading Ltd" }),
      row({ order_number: "SC-3", ...abroad, street: "9 Quay Street" }),
    )
    expect(await stopCodes("SC-1")).toContain("stop.screening")
    expect(await stopCodes("SC-2")).toEqual([])
    expect(await stopCodes("SC-3")).toContain("stop.screening")
    const { id } = await orderBySource(rig.db, "SC-1")
    await expect(waive(rig.context, id, "stop.screening")).rejects.toThrow(NotAllowed)
    expect(value(await waive(lead(), id, "stop.screening")).map((one) => one.code)).not.toContain("stop.screening")
    // a list without the party ends the other's stop by itself
    value(await putScreeningList(admin(), "watch", list.replace("9 Quay Street", "1 Quay Street")))
    expect(await stopCodes("SC-3")).not.toContain("stop.screening")
  })

  it("keeps its hands off an order in work: what it holds stays allocated, and a stop by hand holds it", async () => {
    await takeFile(rig.context, row({ order_number: "HW-1", sku: "NUT-FER-1", quantity: "5" }))
    const { id } = await orderBySource(rig.db, "HW-1")
    const [stop] = await pickStops(rig.db, id)
    const attempt = { allocationId: stop?.allocationId ?? 0, bin: stop?.bin ?? "", item: stop?.sku ?? "", times: 2 }
    value(await pick(rig.context, id, { ...attempt, scanId: randomUUID() }))
    expect((await summary("HW-1")).facts).toMatchObject({ allocated: 5, picked: 2 })
    value(await changePromise(rig.context, id, "2026-12-09", "2026-11-24"))
    expect((await summary("HW-1")).facts).toMatchObject({ allocated: 5, picked: 2 })
  })
})

describe("a typed order", () => {
  const content = (more: object = {}) =>
    draftContent.parse({
      customer: "Elk Run Taproom",
      ordered_on: "2026-11-24",
      street: "14 Growler Row",
      city: "Denver",
      state: "co",
      postal_code: "80205",
      country: "US",
      reference: "R 12",
      lines: [{ sku: "YST-ALE-500", quantity: "2", unit: "each", unit_price: "78.00" }],
      ...more,
    })
  it("is kept at any moment, becomes one order, and is a draft no more", async () => {
    const id = randomUUID()
    expect(value(await saveDraft(rig.context, id, 0, content({ lines: [] }))).version).toBe(1)
    expect(codes(await takeDraft(rig.context, id))).toEqual(["draft.no-lines"])
    // the same again after a lost answer is the same; another's typing on old ground is refused
    expect(value(await saveDraft(rig.context, id, 0, content({ lines: [] }))).version).toBe(1)
    expect(codes(await saveDraft(rig.context, id, 0, content({ po_number: "9" })))).toEqual(["draft.changed-meanwhile"])
    value(await saveDraft(rig.context, id, 1, content({ po_number: "9" })))
    expect((await drafts(rig.context)).map((one) => one.title)).toEqual(["Elk Run Taproom, 9"])
    const taken = await Promise.all([takeDraft(rig.context, id), takeDraft(rig.context, id)])
    expect(new Set(taken.map((one) => value(one).orderNumber)).size).toBe(1)
    expect(await drafts(rig.context)).toEqual([])
    expect(codes(await saveDraft(rig.context, id, 2, content()))).toEqual(["draft.taken"])
    const order = await rig
      .db("sales_order")
      .where({ order_number: there((await draft(rig.context, id))?.takenAs) })
      .first()
    expect(order).toMatchObject({ po_number: "9", state: "CO" })
  })
  it("says which service was asked for and what was paid for it; a copy was not paid for", async () => {
    const id = randomUUID()
    const wanted = { service_asked: "Larkspur Express Two", freight_paid: "64,00" }
    value(await saveDraft(rig.context, id, 0, content(wanted)))
    expect(codes(await takeDraft(rig.context, id))).toEqual(["row.not-a-price"])
    value(await saveDraft(rig.context, id, 1, content({ ...wanted, freight_paid: "64.00" })))
    const { orderNumber: number, quote } = value(await takeDraft(rig.context, id))
    expect(quote).toBe("")
    const order = there(await rig.db("sales_order").where({ order_number: number }).first())
    expect([order.service_asked, order.freight_paid]).toEqual(["Larkspur Express Two", "64.00"])
    expect(await copyOf(rig.context, number, "2026-11-24")).toMatchObject({
      service_asked: "Larkspur Express Two",
      freight_paid: "",
    })
  })
  it("is refused with every reason by line, and a number that is taken can't be taken again", async () => {
    const id = randomUUID()
    const bad = [
      { sku: "NO-SUCH", quantity: "1", unit: "", unit_price: "" },
      { sku: "BUN-10", quantity: "0", unit: "", unit_price: "1,5" },
    ]
    value(await saveDraft(rig.context, id, 0, content({ lines: bad })))
    const outcome = await takeDraft(rig.context, id)
    expect(outcome.ok ? [] : outcome.reasons.map((one) => [one.code, one.values.line])).toEqual([
      ["row.no-such-item", "1"],
      ["row.not-a-quantity", "2"],
      ["row.not-a-price", "2"],
    ])
    value(await saveDraft(rig.context, id, 1, content({ order_number: "TY-1" })))
    const { orderNumber: number } = value(await takeDraft(rig.context, id))
    const second = randomUUID()
    value(await saveDraft(rig.context, second, 0, content({ order_number: "TY-1" })))
    expect(codes(await takeDraft(rig.context, second))).toEqual(["draft.number-taken"])
    const copied = await copyOf(rig.context, number, "2026-11-24")
    expect(copied).toMatchObject({
      order_number: "",
      po_number: "",
      reference: "R 12",
      lines: [{ quantity: "2", unit_price: "78" }],
    })
    expect(await copyOf(as(rig.context, { warehouseId: 2 }), number, "2026-11-24")).toBeNull()
    await dropDraft(rig.context, second)
    expect(await draft(rig.context, second)).toBeNull()
  })
})

it("gives short numbers beyond five digits, and above another warehouse's where they meet", async () => {
  await rig.db("warehouse").where({ id: 1 }).update({ order_serial: 99_999 })
  await takeFile(rig.context, row({ order_number: "N-1" }))
  expect((await orderBySource(rig.db, "N-1")).order_number).toBe("100000")
  await rig.db("warehouse").where({ id: 2 }).update({ order_serial: 100_400 })
  await rig.db("sales_order").where({ source_number: "N-1" }).update({ order_number: "100001" })
  await takeFile(rig.context, row({ order_number: "N-2" }))
  expect((await orderBySource(rig.db, "N-2")).order_number).toBe("100401")
})
