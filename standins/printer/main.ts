import { execFile } from "node:child_process"
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs"
import { join } from "node:path"
import { promisify } from "node:util"
import ipp, { type IppMessage } from "@sealsystems/ipp"
import { answerJson, argument, bodyOf, FileState, serve } from "../process.ts"

/**
 * Printers, simulated: IPP (RFC 8010, RFC 8011) at /ipp/labels and /ipp/reno-labels (4 × 6 in, 203 dpi), /ipp/paper
 * and /ipp/reno-paper (letter, 150 dpi), with Print-Job, Get-Jobs, Get-Job-Attributes, Cancel-Job, Get-Printer-Attributes
 * and Validate-Job. What was printed is kept as PDF and, drawn at the printer's resolution, as PNG; `GET /` shows the trays.
 * `PUT /faults` with `{ "fault": "down" | "lose-answer" | null, "times": n }`; `PUT /media` with `{ "queue": "labels",
 * "sheets": n | null, "jam": true | false }`: after so many sheets it is out of them, and keeps jobs until it has more.
 *
 * Arguments: --state FOLDER --port N
 */
interface PrintedJob {
  id: number
  queue: string
  name: string
  user: string
  media: string
  scaling: string
  copies: number
  at: string
  pages: number
  /** Not printed yet, since the printer stands; or taken back. */
  waits?: boolean
  canceled?: boolean
}

const run = promisify(execFile)
const folder = argument("state")
const queues: Record<string, { name: string; dpi: number; media: string }> = {
  labels: { name: "Label printer, bench 1", dpi: 203, media: "na_index-4x6_4x6in" },
  paper: { name: "Paper printer, office", dpi: 150, media: "na_letter_8.5x11in" },
  "reno-labels": { name: "Label printer, Reno", dpi: 203, media: "na_index-4x6_4x6in" },
  "reno-paper": { name: "Paper printer, Reno", dpi: 150, media: "na_letter_8.5x11in" },
}
mkdirSync(join(folder, "jobs"), { recursive: true })
const state = new FileState<{
  serial: number
  jobs: PrintedJob[]
  fault: "down" | "lose-answer" | null
  times?: number
  media?: Record<string, { sheets: number | null; jam: boolean }>
}>(join(folder, "state.json"), { serial: 0, jobs: [], fault: null })

const mediaOf = (queue: string) => {
  state.value.media ??= {}
  state.value.media[queue] ??= { sheets: null, jam: false }
  return state.value.media[queue] as { sheets: number | null; jam: boolean }
}
/** Why a printer stands, as RFC 8011 names it; null: it prints. */
const stands = (queue: string): string | null => {
  const { sheets, jam } = mediaOf(queue)
  return jam ? "media-jam-error" : sheets === 0 ? "media-empty-error" : null
}

/** Prints what waited, as far as there are sheets. */
async function goOn(queue: string): Promise<void> {
  for (const job of state.value.jobs.filter((one) => one.queue === queue && one.waits && !one.canceled)) {
    if (stands(queue)) return
    await draw(job)
  }
}

async function draw(job: PrintedJob): Promise<void> {
  const base = join(folder, "jobs", String(job.id))
  await run("pdftoppm", ["-r", String(queues[job.queue]?.dpi ?? 150), "-png", `${base}.pdf`, base]).catch(
    () => undefined,
  )
  job.pages = readdirSync(join(folder, "jobs")).filter(
    (file) => file.startsWith(`${job.id}-`) && file.endsWith(".png"),
  ).length
  job.waits = false
  const media = mediaOf(job.queue)
  if (media.sheets !== null) media.sheets = Math.max(0, media.sheets - job.pages * job.copies)
  state.save()
}

/** Whether a fault is on; one that was switched on for a number of times counts down. */
function takeFault(fault: "down" | "lose-answer"): boolean {
  if (state.value.fault !== fault) return false
  if (state.value.times) {
    state.value.times -= 1
    if (state.value.times === 0) state.value.fault = null
    state.save()
  }
  return true
}

async function keep(
  queue: string,
  name: string,
  user: string,
  wanted: { media: string; scaling: string; copies: number },
  document: Buffer,
): Promise<PrintedJob> {
  const id = state.value.serial + 1
  writeFileSync(`${join(folder, "jobs", String(id))}.pdf`, document)
  const job: PrintedJob = { id, queue, name, user, ...wanted, at: new Date().toISOString(), pages: 0, waits: true }
  state.value.serial = id
  state.value.jobs.push(job)
  state.save()
  if (!stands(queue)) await draw(job)
  return job
}

let printing: Promise<unknown> = Promise.resolve()

async function operate(queue: string, message: IppMessage, uri: string): Promise<IppMessage> {
  const operation = message["operation-attributes-tag"] ?? {}
  const answer = (statusCode: string, more: Partial<IppMessage> = {}): IppMessage => ({
    // the version of the answer is that of the request (RFC 8011, 4.1.8)
    version: message.version ?? "1.1",
    statusCode,
    id: message.id ?? 1,
    "operation-attributes-tag": { "attributes-charset": "utf-8", "attributes-natural-language": "en" },
    ...more,
  })
  const jobGroup = (job: PrintedJob) => ({
    "job-id": job.id,
    "job-uri": `${uri}/${job.id}`,
    "job-name": job.name,
    "job-state": job.canceled ? "canceled" : job.waits ? "pending" : "completed",
    "job-state-reasons": job.canceled ? "job-canceled-by-user" : job.waits ? "none" : "job-completed-successfully",
    "job-originating-user-name": job.user,
  })
  switch (message.operation) {
    case "Print-Job": {
      const attributes = (message["job-attributes-tag"] ?? {}) as Record<string, unknown>
      if (!message.data?.subarray(0, 5).equals(Buffer.from("%PDF-")))
        return answer("client-error-document-format-not-supported")
      const media = String(attributes.media ?? queues[queue]?.media)
      // what it can't do, it says, rather than print a label on a sheet
      if (media !== queues[queue]?.media)
        return answer("client-error-attributes-or-values-not-supported", {
          "unsupported-attributes-tag": { media },
        } as Partial<IppMessage>)
      const wanted = {
        media,
        scaling: String(attributes["print-scaling"] ?? "auto"),
        copies: Number(attributes.copies ?? 1),
      }
      const job = printing.then(() =>
        keep(
          queue,
          String(operation["job-name"] ?? "untitled"),
          String(operation["requesting-user-name"] ?? ""),
          wanted,
          message.data as Buffer,
        ),
      )
      printing = job.catch(() => undefined)
      return answer("successful-ok", { "job-attributes-tag": jobGroup((await job) as PrintedJob) })
    }
    case "Validate-Job":
      return answer("successful-ok")
    case "Get-Jobs": {
      const done = operation["which-jobs"] === "completed"
      const jobs = state.value.jobs
        .filter((job) => job.queue === queue && done === (!job.waits || !!job.canceled))
        .slice(-500)
        .reverse()
      return answer("successful-ok", jobs.length > 0 ? { "job-attributes-tag": jobs.map(jobGroup) } : {})
    }
    case "Get-Job-Attributes":
    case "Cancel-Job": {
      const job = state.value.jobs.find((one) => one.queue === queue && one.id === Number(operation["job-id"]))
      if (!job) return answer("client-error-not-found")
      if (message.operation === "Get-Job-Attributes")
        return answer("successful-ok", { "job-attributes-tag": jobGroup(job) })
      if (!job.waits || job.canceled) return answer("client-error-not-possible")
      job.canceled = true
      state.save()
      return answer("successful-ok")
    }
    case "Get-Printer-Attributes":
      return answer("successful-ok", {
        "printer-attributes-tag": {
          "printer-uri-supported": uri,
          "uri-security-supported": "none",
          "uri-authentication-supported": "none",
          "printer-name": queue,
          "printer-info": queues[queue]?.name,
          "printer-state": stands(queue) ? "stopped" : "idle",
          "printer-state-reasons": stands(queue) ?? "none",
          "printer-make-and-model": queues[queue]?.name,
          "printer-is-accepting-jobs": true,
          "queued-job-count": state.value.jobs.filter((job) => job.queue === queue && job.waits).length,
          "document-format-default": "application/pdf",
          "document-format-supported": ["application/pdf"],
          "media-default": queues[queue]?.media,
          "media-supported": [queues[queue]?.media],
          "media-ready": stands(queue) === "media-empty-error" ? [] : [queues[queue]?.media],
          "print-scaling-default": "auto",
          "print-scaling-supported": ["auto", "none"],
          "copies-default": 1,
          "ipp-versions-supported": ["1.1", "2.0"],
          "operations-supported": [
            "Print-Job",
            "Validate-Job",
            "Cancel-Job",
            "Get-Job-Attributes",
            "Get-Jobs",
            "Get-Printer-Attributes",
          ],
          "charset-configured": "utf-8",
          "charset-supported": "utf-8",
        },
      })
    default:
      return answer("server-error-operation-not-supported")
  }
}

const inHtml = (text: string) => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`)

function tray(): string {
  const jobs = [...state.value.jobs].reverse().slice(0, 60)
  const figure = (job: PrintedJob) =>
    Array.from(
      { length: Math.max(1, job.pages) },
      (_, page) =>
        `<figure><a href="/jobs/${job.id}.pdf"><img src="/jobs/${job.id}/${page + 1}.png" alt="Job ${job.id}, sheet ${page + 1}" loading="lazy"></a><figcaption>${job.id} · ${inHtml(queues[job.queue]?.name ?? job.queue)} · ${job.at.slice(11, 19)} · ${inHtml(job.name)}</figcaption></figure>`,
    ).join("")
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Printer trays</title><meta name="viewport" content="width=device-width">
<style>body{font:14px/1.4 system-ui,sans-serif;background:#ddd8cc;color:#1a1814;margin:24px}main{display:flex;flex-wrap:wrap;gap:20px;align-items:flex-start}figure{margin:0;width:300px}img{width:100%;background:#fff;border:1px solid #1a1814;min-height:120px}figcaption{font-size:12px;overflow-wrap:anywhere}</style>
<h1>Printer trays</h1><p>${state.value.jobs.length} jobs printed, the newest first.</p><main>${jobs.map(figure).join("")}</main></html>`
}

serve(Number(argument("port", "0")), async (request, response) => {
  const url = new URL(request.url ?? "/", "http://printer")
  const queue = /^\/ipp\/((?:reno-)?(?:labels|paper))$/.exec(url.pathname)?.[1]
  if (queue && request.method === "POST") {
    const bytes = await bodyOf(request)
    if (takeFault("down")) return void request.socket.destroy()
    const message = ipp.parse(bytes)
    const answer = await operate(queue, message, `ipp://${request.headers.host}/ipp/${queue}`)
    if (message.operation === "Print-Job" && takeFault("lose-answer")) return void request.socket.destroy()
    response.writeHead(200, { "content-type": "application/ipp" }).end(ipp.serialize(answer))
    return
  }
  if (url.pathname === "/media" && request.method === "PUT") {
    const body = JSON.parse((await bodyOf(request)).toString()) as {
      queue: string
      sheets?: number | null
      jam?: boolean
    }
    const media = mediaOf(body.queue)
    if (body.sheets !== undefined) media.sheets = body.sheets
    if (body.jam !== undefined) media.jam = body.jam
    state.save()
    const job = printing.then(() => goOn(body.queue))
    printing = job.catch(() => undefined)
    await job
    return answerJson(response, 200, media)
  }
  if (url.pathname === "/faults" && request.method === "PUT") {
    const body = JSON.parse((await bodyOf(request)).toString()) as {
      fault: "down" | "lose-answer" | null
      times?: number
    }
    state.value.fault = body.fault
    state.value.times = body.times ?? 0
    state.save()
    return answerJson(response, 200, body)
  }
  if (url.pathname === "/jobs") return answerJson(response, 200, state.value.jobs)
  const image = /^\/jobs\/(\d+)\/(\d+)\.png$/.exec(url.pathname)
  const file = image
    ? readdirSync(join(folder, "jobs")).find(
        (name) => name.endsWith(".png") && new RegExp(`^${image[1]}-0*${image[2]}\\.png$`).test(name),
      )
    : /^\/jobs\/(\d+\.pdf)$/.exec(url.pathname)?.[1]
  if (file) {
    response
      .writeHead(200, { "content-type": file.endsWith("png") ? "image/png" : "application/pdf" })
      .end(readFileSync(join(folder, "jobs", file)))
    return
  }
  if (url.pathname === "/") {
    response.writeHead(200, { "content-type": "text/html; charset=utf-8" }).end(tray())
    return
  }
  answerJson(response, 404, { error: "no such address" })
})
