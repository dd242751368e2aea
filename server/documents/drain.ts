import { randomUUID } from "node:crypto"
import {
  formOn,
  type LabelForm,
  type LabelModel,
  labelFormOf,
  labelForms,
  labelSheets,
  labelsOnSheet,
  type SlipModel,
} from "core/documents/index.ts"
import { coded, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { announce, parsed } from "../audit/index.ts"
import type { PrinterRow } from "../db/tables.ts"
import { ippPrinter, type PrinterGateway, type PrinterLook, PrinterUnreachable } from "../gateways/printer.ts"
import { labelsPdf } from "../pdf/label.ts"
import { printing } from "./jobs.ts"

/** What is kept with a label, so that it is drawn in the form of the printer that it goes to. */
export interface KeptLabel {
  readonly label: LabelModel
  readonly slip?: SlipModel | null
  /** The form that its carrier wants; empty: whatever the printer has. */
  readonly form?: string
}

/** Jobs that a printer has at once: few, so that what it can't print any more can still go elsewhere. */
const ahead = 2
/** How long one drain goes on, its lease lasts, and trouble does before waiting jobs go to the fallback (real time). */
const drainMs = 12_000
const leaseMs = 30_000
const fallbackAfterMs = Number(process.env.VARNOK_FALLBACK_MS ?? 20_000)
const lookAgainMs = 150

type PrinterAt = (uri: string) => PrinterGateway

/**
 * Sends what waits for a printer, in the order in which it was asked for, a few jobs ahead of what it has printed. One
 * drain has a printer at a time; a second one leaves at once, since the first looks again before it ends. A printer that
 * is held, out of media or away keeps its jobs: they go on when it is back, or on its fallback. A job is sent once: one
 * that may have been sent is looked for at the printer by its name first (RFC 8011, Get-Jobs).
 */
export async function drainPrinter(db: Knex, printerId: number, printerAt: PrinterAt = ippPrinter): Promise<void> {
  const lease = randomUUID()
  for (const end = Date.now() + drainMs; Date.now() < end; ) {
    if (!(await takeLease(db, printerId, lease))) return
    try {
      for (;;) {
        const found = await step(db, printerId, printerAt)
        if (found === "stopped") return
        if (found === "idle") break
        if (found === "busy") await new Promise((resolve) => setTimeout(resolve, lookAgainMs))
        if (Date.now() > end || !(await takeLease(db, printerId, lease))) return
      }
    } finally {
      await db("printer").where({ id: printerId, lease }).update({ lease: null, leased_until: null })
    }
    // whoever came while the lease was held has left: what he brought is looked for once more
    if (!(await db("print_job").where({ printer_id: printerId, state: "waiting" }).first("id"))) return
  }
}

const takeLease = async (db: Knex, printerId: number, lease: string): Promise<boolean> =>
  (await db("printer")
    .where({ id: printerId })
    .where((free) => free.whereNull("leased_until").orWhere("leased_until", "<", new Date()).orWhere({ lease }))
    .update({ lease, leased_until: new Date(Date.now() + leaseMs) })) > 0

/** Printers that have something to print and that nobody sends to: asked every few seconds. */
export const waitingPrinters = (db: Knex): Promise<number[]> =>
  db("printer as p")
    .where({ "p.held": false })
    .where((free) => free.whereNull("p.leased_until").orWhere("p.leased_until", "<", new Date()))
    .whereExists(
      db("print_job as j").whereRaw("j.printer_id = p.id").whereIn("j.state", ["waiting", "sent"]).select(db.raw("1")),
    )
    .pluck("p.id")

/** What one step of a drain found: more can be sent, the printer has enough for now, nothing is left, or it stands. */
type Found = "more" | "busy" | "idle" | "stopped"

async function step(db: Knex, printerId: number, printerAt: PrinterAt): Promise<Found> {
  const printer = await db("printer").where({ id: printerId }).first()
  if (!printer) return "stopped"
  const gateway = printerAt(printer.uri)
  try {
    const under = await settleSent(db, printer, gateway)
    if (printer.held || !printer.active) return under > 0 ? "busy" : "stopped"
    if (under < ahead) {
      const sheet = await nextSheet(db, printer)
      if (sheet.length > 0 && (await send(db, printer, gateway, sheet))) {
        await noteState(db, printer, { state: "idle", reasons: [] })
        return "more"
      }
      if (sheet.length === 0 && under === 0) return "idle"
    }
    const look = await gateway.look()
    const stands = look.state === "stopped" || look.reasons.some((one) => /-error$|^(media|door|cover)-/.test(one))
    await noteState(db, printer, look)
    if (!stands) return "busy"
    await toFallback(db, printer)
    return "stopped"
  } catch (error) {
    if (!(error instanceof PrinterUnreachable)) throw error
    // what the printer refuses is refused again; what does not answer may be back
    await noteState(db, printer, { state: "unreachable", reasons: [error.message] })
    await toFallback(db, printer)
    return "stopped"
  }
}

interface SentJob {
  readonly id: number
  readonly ipp_job: number | null
}

/** Asks for the jobs that were sent; answers how many are not printed yet. */
async function settleSent(db: Knex, printer: PrinterRow, gateway: PrinterGateway): Promise<number> {
  const sent = await db("print_job")
    .where({ printer_id: printer.id, state: "sent" })
    .orderBy("id")
    .select<SentJob[]>("id", "ipp_job")
  const byJob = new Map<number, number[]>()
  for (const one of sent) byJob.set(one.ipp_job ?? 0, [...(byJob.get(one.ipp_job ?? 0) ?? []), one.id])
  let left = 0
  for (const [ippJob, ids] of byJob) {
    const state = await gateway.job(ippJob)
    if (state === "waiting") {
      left += 1
      continue
    }
    // somebody canceled it at the printer, or it could not print it: a person decides
    const failed = state === "failed"
    await db("print_job")
      .whereIn("id", ids)
      .where({ state: "sent" })
      .update(
        failed
          ? { state: "cancelled", trouble: coded(reason("printer.gave-up")) }
          : { state: "printed", printed_at: new Date(), trouble: null },
      )
    await announce(db, { warehouseId: printer.warehouse_id })
  }
  return left
}

interface WaitingJob {
  readonly id: number
  readonly name: string
  readonly sheet: string | null
  readonly tries: number
  readonly copies: number
  readonly kind: string
  readonly form: string
  readonly bytes: Buffer
  readonly model: unknown
}

/** The next job of a printer, or the labels that come onto one sheet with it; those that may have been sent together. */
async function nextSheet(db: Knex, printer: PrinterRow): Promise<WaitingJob[]> {
  // as many as any form of its medium takes
  const most = Math.max(...labelForms.map(labelsOnSheet))
  const waiting: WaitingJob[] = await db("print_job as j")
    .join("document as d", "d.id", "j.document_id")
    .leftJoin("own_paper as w", "w.id", "d.own_paper_id")
    .where({ "j.printer_id": printer.id, "j.state": "waiting" })
    .orderBy("j.id")
    .limit(most)
    .select(
      "j.id",
      "j.name",
      "j.sheet",
      "j.tries",
      "j.copies",
      "j.form",
      "d.kind",
      "d.model",
      db.raw("COALESCE(w.bytes, d.bytes) AS bytes"),
    )
  const [first] = waiting
  if (!first) return []
  if (first.sheet !== null) return waiting.filter((one) => one.sheet === first.sheet)
  const form = formFor(printer, first)
  const together = (one: WaitingJob) =>
    one.model !== null && one.copies === 1 && one.sheet === null && formFor(printer, one) === form
  const room = printer.half_free ? 1 : labelsOnSheet(form)
  const other = waiting.findIndex((one) => !together(one))
  return !together(first) ? [first] : waiting.slice(0, Math.min(room, other < 0 ? waiting.length : other))
}

/** Sends jobs as one sheet, or finds that the printer has it already; false where it takes none at present. */
async function send(
  db: Knex,
  printer: PrinterRow,
  gateway: PrinterGateway,
  jobs: readonly WaitingJob[],
): Promise<boolean> {
  const [first] = jobs as [WaitingJob]
  const ids = jobs.map((one) => one.id)
  const name = first.sheet ?? first.name
  const before = first.tries > 0 ? await gateway.find(name) : null
  // written down before it is sent: whoever finds it so asks the printer first
  await db("print_job")
    .whereIn("id", ids)
    .update({ sheet: name, tries: first.tries + 1 })
  const made = before === null ? await drawn(printer, jobs) : null
  let ippJob = before
  try {
    if (made) ippJob = await gateway.print(name, made.bytes, made.media, first.copies)
  } catch (error) {
    // some take one job at a time
    if (error instanceof PrinterUnreachable && busy.test(error.status)) return false
    throw error
  }
  await db("print_job")
    .whereIn("id", ids)
    .where({ state: "waiting" })
    .update({ state: "sent", ipp_job: ippJob, trouble: null })
  if (printer.half_free) await db("printer").where({ id: printer.id }).update({ half_free: false })
  return true
}

const busy = /^server-error-(busy|not-accepting-jobs|temporary-error)$/

/**
 * The form that a label is drawn in: as its carrier wants it, else as whoever asked is used to, each where the printer has
 * the sheet for it; else the printer's own.
 */
const formFor = (printer: Pick<PrinterRow, "form">, job: Pick<WaitingJob, "form" | "model">): LabelForm =>
  formOn(labelFormOf(printer.form), [job.model === null ? "" : (parsed<KeptLabel>(job.model).form ?? ""), job.form])
    .form

/** What is sent: labels in the printer's form, or in that of their carrier where it is on the same medium. */
async function drawn(
  printer: PrinterRow,
  jobs: readonly WaitingJob[],
): Promise<{ readonly bytes: Buffer; readonly media: string }> {
  const [first] = jobs as [WaitingJob]
  if (first.model === null)
    return { bytes: first.bytes, media: isLabelKind(first.kind) ? "na_index-4x6_4x6in" : printer.media }
  const kept = jobs.map((one) => parsed<KeptLabel>(one.model))
  const form = formFor(printer, first)
  if (form === "4x6" && printer.dpi === 203 && jobs.length === 1)
    return { bytes: first.bytes, media: labelSheets[form].media }
  const bytes = await labelsPdf(
    kept.map(({ label, slip }) => ({ model: label, slip })),
    { form, dpi: printer.dpi, begun: !!printer.half_free },
    new Date(),
  )
  return { bytes, media: labelSheets[form].media }
}

const isLabelKind = (kind: string): boolean => /(^|-)(label|mark)$/.test(kind)

/** Keeps what a printer said when it was asked, with the media that it can take. */
export async function noteLook(
  db: Knex,
  printer: PrinterRow,
  look: { readonly state: string; readonly reasons: readonly string[] } & Partial<Omit<PrinterLook, "state">>,
): Promise<void> {
  await noteState(db, printer, look)
  if (look.media)
    await db("printer")
      .where({ id: printer.id })
      .update({ media_found: JSON.stringify(look.ready?.length ? look.ready : look.media), model: look.model ?? "" })
}

/** Keeps how a printer is, and says it with what waits for it. */
async function noteState(
  db: Knex,
  printer: PrinterRow,
  found: { readonly state: string; readonly reasons: readonly string[] },
): Promise<void> {
  const reasons = found.reasons.join(" ").slice(0, 300)
  const trouble = found.state === "stopped" || found.state === "unreachable" || reasons !== ""
  const now = new Date()
  if (printer.state === found.state && printer.reasons === reasons) {
    await db("printer").where({ id: printer.id }).update({ looked_at: now })
    return
  }
  await db("printer")
    .where({ id: printer.id })
    .update({
      state: found.state,
      reasons,
      looked_at: now,
      trouble_since: trouble ? (printer.trouble_since ?? now) : null,
    })
  await db("print_job")
    .where({ printer_id: printer.id, state: "waiting" })
    .update({ trouble: trouble ? coded(troubleOf(printer.name, found.state, reasons)) : null })
  await announce(db, { warehouseId: printer.warehouse_id })
}

/** What is the matter with a printer, as a reason. */
export const troubleOf = (name: string, state: string, reasons: string) =>
  state === "unreachable"
    ? reason("printer.unreachable", { printer: name, why: reasons })
    : /media-(empty|needed)/.test(reasons)
      ? reason("printer.media-empty", { printer: name })
      : /jam/.test(reasons)
        ? reason("printer.jam", { printer: name })
        : /(door|cover)-open/.test(reasons)
          ? reason("printer.open", { printer: name })
          : reason("printer.stopped", { printer: name, why: reasons || state })

/** After a while, what was not sent goes to the printer's fallback, in its order. */
async function toFallback(db: Knex, printer: PrinterRow): Promise<void> {
  const since = printer.trouble_since?.getTime() ?? Date.now()
  if (printer.fallback_id === null || Date.now() - since < fallbackAfterMs) return
  const moved = await db("print_job")
    .where({ printer_id: printer.id, state: "waiting", tries: 0 })
    .update({ printer_id: printer.fallback_id, trouble: null })
  if (moved > 0) await drainSoon(db, printer.fallback_id)
}

/** Queues sending what waits for a printer; once where nobody has begun to. */
export async function drainSoon(trx: Knex, printerId: number): Promise<void> {
  const key = `print:${printerId}:`
  const queued = await trx("job")
    .where("once_key", "like", `${key}%`)
    .where({ kind: printing.name, state: "waiting" })
    .whereNull("leased_until")
    .first("id")
  if (!queued) await printing.queue(trx, `${key}${randomUUID()}`, { printerId })
}
