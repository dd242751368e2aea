import { execFileSync } from "node:child_process"
import { writeFileSync } from "node:fs"
import { join } from "node:path"
import { labelPdf } from "server/pdf/label.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { askForLabels, openRig, type Rig, readyToBuy, workAll } from "./rig.ts"

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
}
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
    const model = {
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
      packageName: "1-1",
    }
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
