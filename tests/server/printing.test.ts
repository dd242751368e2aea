import { execFileSync, spawn } from "node:child_process"
import { existsSync, mkdirSync, readFileSync, unlinkSync, writeFileSync } from "node:fs"
import { createServer } from "node:net"
import { join } from "node:path"
import type { LabelModel } from "core/documents/index.ts"
import { drainPrinter, waitingPrinters } from "server/documents/drain.ts"
import { keepDocument, printDocument } from "server/documents/index.ts"
import { ippPrinter } from "server/gateways/printer.ts"
import { labelPdf } from "server/pdf/label.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { askForLabels, fault, openRig, type Rig, readyToBuy, workAll } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

interface Printed {
  readonly queue: string
  readonly name: string
  readonly media: string
  readonly scaling: string
  readonly copies: number
  readonly waits?: boolean
  readonly canceled?: boolean
}
const labelNamed = (packageName: string): LabelModel => ({
  carrier: "C",
  service: "S",
  sender: ["A"],
  receiver: ["B", "C"],
  shipDate: "",
  weight: "",
  size: "",
  piece: "1 of 1",
  references: [],
  driver: [],
  routingCode: "R",
  trackingNumber: "LA000000000123",
  sscc: "095212340000480013",
  packageName,
})
const until = async (is: () => boolean | Promise<boolean>): Promise<void> => {
  for (let n = 0; n < 200; n += 1) {
    if (await is()) return
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
  throw new Error("it did not come to pass")
}
const freePort = () =>
  new Promise<number>((resolve) => {
    const server = createServer().listen(0, "127.0.0.1", () => {
      const { port } = server.address() as { port: number }
      server.close(() => resolve(port))
    })
  })
const printed = async (): Promise<Printed[]> =>
  (await (await fetch(`${rig.at.printer}/jobs`)).json()) as Promise<Printed[]>
const ipp = (queue: string) => `${rig.at.printer.replace("http:", "ipp:")}/ipp/${queue}`

/** Runs one of the conformance files of Debian's ipptool; its report. Fails when the file's expectations do. */
function ipptool(file: string, queue: string, document: string): string {
  return execFileSync("ipptool", ["-t", "-f", document, ipp(queue), file]).toString()
}

describe("the simulated printer", () => {
  it("passes the Print-Job and Get-Jobs files of an independent IPP tool", async () => {
    const document = join(rig.folder, "label.pdf")
    const model = labelNamed("1-1")
    writeFileSync(document, await labelPdf(model, new Date(0)))
    for (const queue of ["labels", "reno-labels"]) {
      expect(ipptool("print-job.test", queue, document)).toMatch(/Print file using Print-Job\s+\[PASS\]/)
      expect(ipptool("get-jobs.test", queue, document)).toMatch(/Get pending jobs\s+\[PASS\]/)
    }
    expect((await printed()).map((one) => one.queue)).toEqual(["labels", "reno-labels"])
  })
  it("refuses a document that is none, which the tool reports as failed", () => {
    writeFileSync(join(rig.folder, "no.pdf"), "this is no PDF")
    expect(() => ipptool("print-job.test", "labels", join(rig.folder, "no.pdf"))).toThrow()
  })
})

describe("what we send", () => {
  it("names medium and no scaling as attributes, and goes to the warehouse's own printer", async () => {
    const before = (await printed()).length
    const { orderId, shipment } = await readyToBuy(rig.context, "PR-1")
    await askForLabels(rig.context, orderId, shipment, "LKG")
    await workAll(rig.db)
    expect((await printed()).slice(before)).toMatchObject([
      { queue: "labels", media: "na_index-4x6_4x6in", scaling: "none", copies: 1 },
    ])
  })
})

describe("a printer that stands", () => {
  const media = (wanted: { sheets?: number | null; jam?: boolean }) =>
    fetch(`${rig.at.printer}/media`, { method: "PUT", body: JSON.stringify({ queue: "labels", ...wanted }) })
  /** Labels of the label printer that came out, in their order. */
  const out = async () =>
    (await printed()).filter((one) => one.queue === "labels" && !one.waits && !one.canceled).map((one) => one.name)
  const asked = () => rig.db("print_job").where({ printer_id: 1 }).orderBy("id").pluck("name")
  const label = async (name: string) =>
    keepDocument(rig.db, {
      warehouseId: 1,
      kind: "label",
      name,
      bytes: await labelPdf(labelNamed(name), new Date(0)),
      madeAt: rig.context.now,
      model: { label: labelNamed(name) },
    })
  const printAll = async (n: number, name: string) => {
    for (let at = 0; at < n; at += 1)
      await printDocument(rig.db, 1, await label(`${name}-${at}`), "label", 1, { userId: null })
  }
  const drain = () => drainPrinter(rig.db, 1)
  const trouble = async () => (await rig.db("printer").where({ id: 1 }).first())?.reasons

  it("keeps what it can't print and goes on when it has labels again: none twice, none left out", async () => {
    const before = (await out()).length
    await media({ sheets: 5 })
    await printAll(12, "EMPTY")
    await drain()
    expect((await out()).length - before).toBe(5)
    expect(await trouble()).toBe("media-empty-error")
    // two lie at the printer, the others were never sent
    expect(
      await rig.db("print_job").where({ printer_id: 1 }).groupBy("state").select("state").count({ n: "*" }),
    ).toEqual(
      expect.arrayContaining([
        expect.objectContaining({ state: "sent", n: 2 }),
        expect.objectContaining({ state: "waiting", n: 5 }),
      ]),
    )
    expect(await waitingPrinters(rig.db)).toEqual([1])
    await media({ sheets: null })
    await drain()
    const names = await out()
    expect(names.slice(before)).toEqual((await asked()).slice(-12))
    expect(new Set(names).size).toBe(names.length)
    expect(await trouble()).toBe("")
    expect(await rig.db("print_job").whereNot({ state: "printed" }).where({ printer_id: 1 })).toEqual([])
  })

  it("finds a job again whose answer was lost, and sends no other", async () => {
    const before = (await out()).length
    await fault(rig.at.printer, "lose-answer", 1)
    await printAll(3, "LOST")
    await drain()
    await drain()
    expect((await out()).slice(before)).toEqual((await asked()).slice(-3))
  })

  it("goes to its fallback after a while, but for what lies at it", async () => {
    const spare = there(await rig.db("printer").where({ id: 1 }).first())
    await rig.db("printer").insert({
      warehouse_id: 1,
      name: "Spare",
      uri: spare.uri.replace("/labels", "/reno-labels"),
      media: spare.media,
    })
    const other = there(await rig.db("printer").where({ name: "Spare" }).first("id"))
    await rig.db("printer").where({ id: 1 }).update({ fallback_id: other.id })
    await media({ jam: true })
    await printAll(6, "JAM")
    await drain()
    expect(await trouble()).toBe("media-jam-error")
    await rig
      .db("printer")
      .where({ id: 1 })
      .update({ trouble_since: new Date(Date.now() - 60_000) })
    await drain()
    await drainPrinter(rig.db, other.id)
    const moved = await rig.db("print_job").where({ printer_id: other.id }).orderBy("id").pluck("state")
    expect(moved).toEqual(Array(4).fill("printed"))
    await media({ jam: false })
    await drain()
    // each came out once, here or there
    const all = (await printed()).filter((one) => !one.canceled && !one.waits).map((one) => one.name)
    const ours: string[] = await rig.db("print_job").orderBy("id").pluck("name")
    expect(ours.filter((name) => all.filter((one) => one === name).length !== 1)).toEqual([])
    await rig.db("printer").where({ id: 1 }).update({ fallback_id: null })
  })

  it("held keeps everything", async () => {
    const before = (await out()).length
    await rig.db("printer").where({ id: 1 }).update({ held: true })
    await printAll(2, "HELD")
    await drain()
    expect((await out()).length).toBe(before)
    expect(await waitingPrinters(rig.db)).toEqual([])
    await rig.db("printer").where({ id: 1 }).update({ held: false })
    await drain()
    expect((await out()).length).toBe(before + 2)
  })

  it("of half sheets prints two on each, and begins with the free half of one that is begun", async () => {
    await rig
      .db("printer")
      .where({ id: 1 })
      .update({ uri: `${ipp("paper")}`, form: "half-letter", half_free: true })
    const before = (await printed()).length
    await printAll(4, "HALF")
    await drain()
    // one on the begun sheet, two on the next, one on the last
    expect((await printed()).slice(before).map((one) => [one.queue, one.media])).toEqual(
      Array(3).fill(["paper", "na_letter_8.5x11in"]),
    )
    const sheets = await rig.db("print_job").where({ printer_id: 1 }).orderBy("id", "desc").limit(4).pluck("sheet")
    expect(sheets.map((one) => sheets.indexOf(one))).toEqual([0, 1, 1, 3])
    await rig
      .db("printer")
      .where({ id: 1 })
      .update({ uri: ipp("labels"), form: "4x6" })
  })
})

describe("a printer that is not ours: Debian's ippeveprinter", () => {
  let stop = () => {}
  let uri = ""
  let folder = ""
  beforeAll(async () => {
    folder = join(rig.folder, "ippeve")
    mkdirSync(folder)
    // it announces itself by a bus, which it has here for itself alone
    const bus = `unix:path=${join(folder, "bus")}`
    const daemon = spawn("dbus-daemon", ["--session", "--nofork", `--address=${bus}`], { stdio: "ignore" })
    await until(() => existsSync(join(folder, "bus")))
    const port = await freePort()
    uri = `ipp://127.0.0.1:${port}/ipp/print`
    // what it "prints" with: the sheets are counted, and it stands when there are none
    const command = join(folder, "print.sh")
    writeFileSync(
      command,
      `#!/bin/sh
while [ -f ${folder}/empty ]; do echo "STATE: +media-empty-error" >&2; sleep 0.1; done
echo "STATE: -media-empty-error" >&2
head -c 5 "$1" >> ${folder}/printed; echo " $IPP_JOB_NAME" >> ${folder}/printed
`,
      { mode: 0o755 },
    )
    const printer = spawn(
      "/usr/sbin/ippeveprinter",
      ["-r", "off", "-p", String(port), "-d", folder, "-f", "application/pdf", "-c", command, "Labels"],
      { stdio: "ignore", env: { ...process.env, DBUS_SYSTEM_BUS_ADDRESS: bus } },
    )
    stop = () => {
      printer.kill()
      daemon.kill()
    }
    await until(() =>
      ippPrinter(uri)
        .look()
        .then(
          () => true,
          () => false,
        ),
    )
  })
  afterAll(() => stop())

  const lines = () =>
    existsSync(join(folder, "printed")) ? readFileSync(join(folder, "printed"), "utf8").trim().split("\n") : []

  it("says how it is, takes our labels in their order, and stands and goes on as ours does", async () => {
    const look = await ippPrinter(uri).look()
    expect(look.state).toBe("idle")
    expect(look.media).toContain("na_letter_8.5x11in")
    await rig.db("printer").where({ id: 1 }).update({ uri, form: "letter" })
    writeFileSync(join(folder, "empty"), "")
    const names: string[] = []
    for (let at = 0; at < 4; at += 1) {
      const id = await keepDocument(rig.db, {
        warehouseId: 1,
        kind: "label",
        name: `EVE-${at}`,
        bytes: await labelPdf(labelNamed(`EVE-${at}`), new Date(0)),
        madeAt: rig.context.now,
        model: { label: labelNamed(`EVE-${at}`) },
      })
      await printDocument(rig.db, 1, id, "label", 1, { userId: null })
      names.push(there(await rig.db("print_job").where({ document_id: id }).first("name")).name)
    }
    await drainPrinter(rig.db, 1)
    expect((await rig.db("printer").where({ id: 1 }).first())?.reasons).toContain("media-empty")
    expect(lines()).toEqual([])
    unlinkSync(join(folder, "empty"))
    await until(async () => {
      await drainPrinter(rig.db, 1)
      return (await rig.db("print_job").whereIn("name", names).where({ state: "printed" })).length === 4
    })
    expect(lines().map((line) => line.split(" ")[0])).toEqual(Array(4).fill("%PDF-"))
    expect(await ippPrinter(uri).find(names[3] as string)).not.toBeNull()
    expect(await ippPrinter(uri).find("no such job")).toBeNull()
  }, 40_000)
})
