import { randomUUID } from "node:crypto"
import { PDFDocument } from "@cantoo/pdf-lib"
import { drainPrinter } from "server/documents/drain.ts"
import { keepDocument, printDocument } from "server/documents/index.ts"
import { printerFor } from "server/documents/printers.ts"
import {
  addBench,
  benchesOf,
  checkPrinter,
  dropJob,
  holdPrinter,
  moveQueue,
  printerForm,
  printersOf,
  printTestPage,
  queueOf,
  removeBench,
  savePrinter,
  saveUses,
  usePrinter,
  usesMark,
  usesOf,
} from "server/documents/setUp.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { as, codes, openRig, type Rig, value } from "./rig.ts"

let rig: Rig
let page: Buffer
beforeAll(async () => {
  rig = await openRig()
  const made = await PDFDocument.create()
  made.addPage([288, 432])
  page = Buffer.from(await made.save())
})
afterAll(() => rig.drop())

const lead = () => as(rig.context, { role: "lead" })
const reno = () => as(rig.context, { warehouseId: 2, role: "lead" })
const ipp = (queue: string) => `${rig.at.printer.replace("http:", "ipp:")}/ipp/${queue}`
const form = (more: Record<string, unknown> = {}) =>
  printerForm.parse({ name: "Spare", uri: ipp("labels"), label_form: "4x6", dpi: "203", ...more })
const seen = async (name: string) => there((await printersOf(lead())).find((one) => one.name === name))
/** Labels that wait for a printer, by the names of their documents. */
const waits = async (printerId: number) =>
  (await queueOf(lead(), printerId)).filter((one) => one.state === "waiting").map((one) => one.name)
const ask = async (printerId: number, ...names: string[]) => {
  for (const name of names) {
    const id = await keepDocument(rig.db, {
      warehouseId: 1,
      kind: "label",
      name,
      bytes: page,
      madeAt: rig.context.now,
    })
    await rig
      .db("print_job")
      .insert({ document_id: id, printer_id: printerId, name: randomUUID(), created_at: new Date() })
  }
}
const media = (queue: string, wanted: { sheets?: number | null; jam?: boolean }) =>
  fetch(`${rig.at.printer}/media`, { method: "PUT", body: JSON.stringify({ queue, ...wanted }) })

describe("a printer's set-up", () => {
  it("is saved by a lead, with a name of its own and an address that is one", async () => {
    const { id } = value(await savePrinter(lead(), form()))
    expect(await seen("Spare")).toMatchObject({ id, form: "4x6", dpi: 203, active: true, version: 1, waiting: 0 })
    expect(codes(await savePrinter(lead(), form()))).toEqual(["printer.name-taken"])
    expect(codes(await savePrinter(lead(), form({ id, fallback: id })))).toEqual(["printer.own-fallback"])
    // another warehouse's printer is none: neither to be changed, nor to fall back on
    const elsewhere = there(await rig.db("printer").where({ warehouse_id: 2 }).first("id")).id
    expect(codes(await savePrinter(lead(), form({ id: elsewhere })))).toEqual(["printer.gone"])
    expect(codes(await savePrinter(lead(), form({ id, fallback: elsewhere })))).toEqual(["printer.gone"])
    value(await savePrinter(lead(), form({ id, version: 1, label_form: "a6", dpi: 300 })))
    expect(await seen("Spare")).toMatchObject({ form: "a6", dpi: 300, version: 2 })
    expect((await rig.db("printer").where({ id }).first())?.media).toBe("iso_a6_105x148mm")
    // whoever opened it before that is told
    expect(codes(await savePrinter(lead(), form({ id, version: 0 })))).toEqual(["order.changed-meanwhile"])
    await expect(savePrinter(as(rig.context, { role: "clerk" }), form())).rejects.toThrow("printers.manage")
    value(await savePrinter(lead(), form({ id, version: 2 })))
  })

  it.each(["http://10.0.0.12/ipp", "ipp://", "ipp://a b/ipp", "file:///etc/passwd", `ipp://a/${"x".repeat(200)}`, ""])(
    "%s is no address of one",
    (uri) => {
      const read = printerForm.safeParse({ name: "P", uri, label_form: "4x6", dpi: "203" })
      expect(read.error?.issues.map((one) => one.message)).toEqual(["printer.uri"])
    },
  )

  it("is found as it is, and says when it is away", async () => {
    const { id } = await seen("Spare")
    value(await checkPrinter(rig.context, id))
    const found = await seen("Spare")
    expect([found.state, found.trouble]).toEqual(["idle", null])
    expect(found.media).toContain("na_index-4x6_4x6in")
    expect(codes(await checkPrinter(reno(), id))).toEqual(["printer.gone"])
    const { version } = found
    value(await savePrinter(lead(), form({ id, version, uri: "ipp://127.0.0.1:1/ipp/print" })))
    expect(codes(await checkPrinter(rig.context, id))).toEqual(["printer.unreachable"])
    expect((await seen("Spare")).trouble?.code).toBe("printer.unreachable")
    value(await savePrinter(lead(), form({ id, version: version + 1 })))
    value(await checkPrinter(rig.context, id))
  })

  it("prints a test page, once for a press", async () => {
    const { id } = await seen("Spare")
    const key = randomUUID()
    value(await printTestPage(rig.context, id, key))
    value(await printTestPage(rig.context, id, key))
    expect((await queueOf(lead(), id)).map((one) => one.kind)).toEqual(["test-page"])
    await drainPrinter(rig.db, id)
    expect(await queueOf(lead(), id)).toEqual([])
  })
})

describe("a printer's queue", () => {
  it("is moved to another printer in its order; what came out there already stays", async () => {
    const spare = (await seen("Spare")).id
    // one is printed and one lies at it when its labels are used up; nothing more is sent
    await media("labels", { sheets: 1 })
    await ask(1, "Q-1", "Q-2", "Q-3", "Q-4", "Q-5")
    await drainPrinter(rig.db, 1)
    const states = (await queueOf(lead(), 1)).map((one) => `${one.name} ${one.state}`)
    expect(states.filter((one) => one.endsWith("waiting")).length).toBeGreaterThan(0)
    await rig
      .db("printer")
      .where({ id: spare })
      .update({ uri: ipp("reno-labels") })
    expect(codes(await moveQueue(rig.context, 1, 1))).toEqual(["printer.gone"])
    expect(codes(await moveQueue(reno(), 1, spare))).toEqual(["printer.gone"])
    const { moved, kept } = value(await moveQueue(rig.context, 1, spare))
    expect(moved + kept).toBe(states.length)
    expect(await waits(spare)).toEqual(["Q-1", "Q-2", "Q-3", "Q-4", "Q-5"].slice(5 - moved))
    await drainPrinter(rig.db, spare)
    await media("labels", { sheets: null })
    await drainPrinter(rig.db, 1)
    // each once, here or there
    const jobs = await rig
      .db("print_job as j")
      .join("document as d", "d.id", "j.document_id")
      .where("d.name", "like", "Q-%")
      .select("d.name", "j.state", "j.name as job")
    expect(jobs.map((one) => one.state)).toEqual(Array(5).fill("printed"))
    const out = ((await (await fetch(`${rig.at.printer}/jobs`)).json()) as { name: string; canceled?: boolean }[])
      .filter((one) => !one.canceled)
      .map((one) => one.name)
    for (const { job } of jobs) expect(out.filter((one) => one === job)).toHaveLength(1)
  })

  it("keeps what may have been sent when its printer went away, and says how many", async () => {
    const spare = (await seen("Spare")).id
    await ask(1, "U-1", "U-2")
    const [first] = await rig.db("print_job").where({ printer_id: 1, state: "waiting" }).orderBy("id").pluck("id")
    await rig.db("print_job").where({ id: first }).update({ tries: 1 })
    expect(value(await moveQueue(rig.context, 1, spare))).toEqual({ moved: 1, kept: 1 })
    expect([await waits(1), await waits(spare)]).toEqual([["U-1"], ["U-2"]])
    await drainPrinter(rig.db, 1)
    await drainPrinter(rig.db, spare)
  })

  it("is held and let go; a job is taken out of it by who is here", async () => {
    value(await holdPrinter(rig.context, 1, true))
    await ask(1, "H-1", "H-2")
    await drainPrinter(rig.db, 1)
    expect(await waits(1)).toEqual(["H-1", "H-2"])
    const [one] = await queueOf(lead(), 1)
    value(await dropJob(reno(), there(one).id))
    expect(await waits(1)).toEqual(["H-1", "H-2"])
    value(await dropJob(rig.context, there(one).id))
    value(await dropJob(rig.context, there(one).id))
    expect(await waits(1)).toEqual(["H-2"])
    expect(codes(await holdPrinter(reno(), 1, false))).toEqual(["printer.gone"])
    value(await holdPrinter(rig.context, 1, false))
    await drainPrinter(rig.db, 1)
    expect(await waits(1)).toEqual([])
  })

  it("is empty before its printer goes out of use", async () => {
    const { id } = await seen("Spare")
    await ask(id, "L-1")
    expect(codes(await usePrinter(lead(), id, false))).toEqual(["printer.has-jobs"])
    await drainPrinter(rig.db, id)
    value(await usePrinter(lead(), id, false))
    expect(codes(await moveQueue(rig.context, 1, id))).toEqual(["printer.gone"])
    value(await usePrinter(lead(), id, true))
    await expect(usePrinter(rig.context, id, false)).rejects.toThrow("printers.manage")
  })
})

describe("which printer prints what", () => {
  it("a person's choice goes before the bench's, that before the warehouse's; a kind's own before all labels", async () => {
    const spare = (await seen("Spare")).id
    value(await addBench(lead(), { name: "Bench 9" }))
    value(await addBench(lead(), { name: "Bench 9" }))
    const bench = there((await benchesOf(rig.db, 1)).find((one) => one.name === "Bench 9")).id
    const before = await usesOf(lead(), "warehouse")
    const of = async (kind: "label" | "return-label" | "logistic-label" | "invoice", more = {}) => {
      const found = there(await printerFor(rig.db, 1, kind, more))
      return [found.id, found.by]
    }
    // as the demo has it: labels come out of printer 1, papers of 2
    expect([await of("label"), await of("return-label"), await of("invoice")]).toEqual([
      [1, "warehouse"],
      [1, "warehouse"],
      [2, "warehouse"],
    ])
    const atBench = { benchId: bench }
    const mine = { userId: rig.context.actor.userId, benchId: bench }
    value(
      await saveUses(lead(), "warehouse", [
        ...before,
        { kind: "logistic-label", benchId: 0, printerId: 2 },
        { kind: "labels", benchId: bench, printerId: spare },
      ]),
    )
    expect([await of("label", atBench), await of("logistic-label"), await of("logistic-label", atBench)]).toEqual([
      [spare, "bench"],
      [2, "warehouse"],
      [spare, "bench"],
    ])
    // another lead saves what was chosen on the page of before: told, and nothing is lost; the same again is the same
    const now = await usesOf(lead(), "warehouse")
    value(await saveUses(lead(), "warehouse", now, usesMark(before)))
    expect(codes(await saveUses(lead(), "warehouse", [], usesMark(before)))).toEqual(["order.changed-meanwhile"])
    expect(usesMark(await usesOf(lead(), "warehouse"))).toBe(usesMark(now))
    value(await saveUses(rig.context, "own", [{ kind: "labels", benchId: 0, printerId: 2 }]))
    expect([await of("label", mine), await of("label", atBench)]).toEqual([
      [2, "user"],
      [spare, "bench"],
    ])
    // a printer that is out of use prints nothing, whoever chose it
    await rig.db("printer").where({ id: spare }).update({ active: false })
    expect(await of("label", atBench)).toEqual([1, "warehouse"])
    await rig.db("printer").where({ id: spare }).update({ active: true })
    value(await removeBench(lead(), bench))
    expect((await benchesOf(rig.db, 1)).map((one) => one.name)).not.toContain("Bench 9")
    expect(await of("label", atBench)).toEqual([1, "warehouse"])
    expect(codes(await removeBench(reno(), bench))).toEqual(["printer.gone"])
    const elsewhere = there(await rig.db("printer").where({ warehouse_id: 2 }).first("id")).id
    expect(codes(await saveUses(lead(), "warehouse", [{ kind: "labels", benchId: 0, printerId: elsewhere }]))).toEqual([
      "printer.gone",
    ])
    value(await saveUses(rig.context, "own", []))
    await expect(saveUses(rig.context, "warehouse", [])).rejects.toThrow("printers.manage")
  })

  it("where no printer is set for a kind, printing says so", async () => {
    const before = await usesOf(lead(), "warehouse")
    value(await saveUses(lead(), "warehouse", []))
    const id = await keepDocument(rig.db, {
      warehouseId: 1,
      kind: "label",
      name: "NONE",
      bytes: page,
      madeAt: rig.context.now,
    })
    await expect(printDocument(rig.db, 1, id, "label", 1, {})).rejects.toThrow("paper.no-printer")
    value(await saveUses(lead(), "warehouse", before))
  })
})
