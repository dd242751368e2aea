import { createHash } from "node:crypto"
import { type LabelForm, labelFormOf, labelForms, labelSheets } from "core/documents/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId } from "../db/there.ts"
import { ippPrinter, PrinterUnreachable } from "../gateways/printer.ts"
import { testPagePdf } from "../pdf/testPage.ts"
import { drainSoon, noteLook, troubleOf } from "./drain.ts"
import { type DocumentKind, keepDocument } from "./index.ts"
import { firstPress } from "./once.ts"
import { type PrintedKind, printedKinds } from "./printers.ts"

/** A printer as Setup shows it. */
export interface PrinterSeen {
  readonly id: number
  readonly name: string
  readonly uri: string
  readonly form: LabelForm
  readonly dpi: number
  readonly active: boolean
  readonly held: boolean
  /** The next label goes onto the free half of a sheet that is begun. */
  readonly halfFree: boolean
  readonly fallbackId: number | null
  readonly state: string | null
  readonly trouble: ReturnType<typeof troubleOf> | null
  readonly media: readonly string[]
  readonly model: string
  readonly lookedAt: Date | null
  readonly waiting: number
  readonly trayUrl: string | null
  readonly version: number
}

export async function printersOf({ db, actor }: Context): Promise<PrinterSeen[]> {
  const rows = await db("printer")
    .where({ warehouse_id: actor.warehouseId })
    .orderBy("active", "desc")
    .orderBy("name")
    .select(
      "printer.*",
      db.raw(
        `(SELECT COUNT(*) FROM print_job j WHERE j.printer_id = printer.id AND j.state IN ('waiting','sent')) AS n`,
      ),
    )
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    uri: row.uri,
    form: labelFormOf(row.form),
    dpi: row.dpi,
    active: !!row.active,
    held: !!row.held,
    halfFree: !!row.half_free,
    fallbackId: row.fallback_id,
    state: row.state,
    trouble:
      row.state === "unreachable" || row.state === "stopped" || row.reasons
        ? troubleOf(row.name, row.state ?? "", row.reasons)
        : null,
    media: typeof row.media_found === "string" ? JSON.parse(row.media_found) : row.media_found,
    model: row.model,
    lookedAt: row.looked_at,
    waiting: Number((row as { n?: number }).n ?? 0),
    trayUrl: row.tray_url,
    version: row.version,
  }))
}

export interface BenchSeen {
  readonly id: number
  readonly name: string
}

/** The benches of a warehouse, by name. */
export const benchesOf = (db: Knex, warehouseId: number): Promise<BenchSeen[]> =>
  db("bench").where({ warehouse_id: warehouseId, active: true }).orderBy("name").select("id", "name")

/** Which printer prints which kind of paper: of the warehouse (bench 0), its benches, or a person. */
export interface PrinterUse {
  readonly kind: PrintedKind
  readonly benchId: number
  readonly printerId: number
}

export async function usesOf({ db, actor }: Context, whose: "warehouse" | "own"): Promise<PrinterUse[]> {
  const rows = await db("printer_use")
    .where({ warehouse_id: actor.warehouseId })
    .where((own) => (whose === "own" ? void own.where({ user_id: actor.userId }) : void own.whereNull("user_id")))
    .select("kind", "bench_id", "printer_id")
  return rows.flatMap((row) => {
    const kind = printedKinds.find((one) => one === row.kind)
    return kind ? [{ kind, benchId: row.bench_id ?? 0, printerId: row.printer_id }] : []
  })
}

export const printerForm = z.object({
  id: z.coerce.number().int().min(0).catch(0),
  version: z.coerce.number().int().min(0).catch(0),
  name: z.string().trim().min(1, { error: "printer.name-needed" }).max(60, { error: "printer.name-needed" }),
  uri: z
    .string()
    .trim()
    .max(200, { error: "printer.uri" })
    .regex(/^ipps?:\/\/[\w.-]+(:\d{1,5})?\/[\w./-]*$/, { error: "printer.uri" }),
  label_form: z.enum(labelForms, { error: "printer.form" }),
  dpi: z.coerce.number().int().min(100, { error: "printer.dpi-range" }).max(1_200, { error: "printer.dpi-range" }),
  fallback: z.coerce.number().int().min(0).catch(0),
})

/** Adds a printer, or changes one. Refused for a name that another has, and when somebody changed it meanwhile. */
export async function savePrinter(
  context: Context,
  form: z.infer<typeof printerForm>,
): Promise<Outcome<{ id: number }>> {
  const { db, actor, now } = context
  authorise(actor, "printers.manage")
  if (form.fallback !== 0 && form.fallback === form.id)
    return refused(reason("printer.own-fallback", { field: "fallback" }))
  return inTransaction(db, async (trx): Promise<Outcome<{ id: number }>> => {
    const own = await trx("printer")
      .where({ warehouse_id: actor.warehouseId })
      .orderBy("id")
      .forUpdate()
      .select("id", "name", "version")
    const before = own.find((one) => one.id === form.id)
    if (form.id !== 0 && !before) return refused(reason("printer.gone"))
    if (own.some((one) => one.name === form.name && one.id !== form.id))
      return refused(reason("printer.name-taken", { name: form.name, field: "name" }))
    if (form.fallback !== 0 && !own.some((one) => one.id === form.fallback)) return refused(reason("printer.gone"))
    if (before && before.version !== form.version) return refused(reason("order.changed-meanwhile"))
    const fields = {
      name: form.name,
      uri: form.uri,
      form: form.label_form,
      dpi: form.dpi,
      media: labelSheets[form.label_form].media,
      fallback_id: form.fallback || null,
    }
    const changed =
      before &&
      (await trx("printer")
        .where({ id: before.id })
        .update({ ...fields, version: before.version + 1 }))
    const id =
      before && changed ? before.id : newId(await trx("printer").insert({ ...fields, warehouse_id: actor.warehouseId }))
    await record(trx, actor, now, {
      action: "printer.saved",
      warehouseId: actor.warehouseId,
      detail: { name: form.name },
    })
    return accepted({ id })
  })
}

/** A printer of the actor's warehouse. */
const ownPrinter = (trx: Knex, { actor }: Context, id: number) =>
  trx("printer").where({ id, warehouse_id: actor.warehouseId }).first()

/** Asks a printer how it is and which media it has; what it says stands there from then on. */
export async function checkPrinter(context: Context, id: number): Promise<Outcome<{ readonly name: string }>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const printer = await ownPrinter(db, context, id)
  if (!printer) return refused(reason("printer.gone"))
  try {
    await noteLook(db, printer, await ippPrinter(printer.uri).look())
  } catch (error) {
    if (!(error instanceof PrinterUnreachable)) throw error
    await noteLook(db, printer, { state: "unreachable", reasons: [error.message] })
    return refused(troubleOf(printer.name, "unreachable", error.message))
  }
  return accepted({ name: printer.name })
}

/** Prints a page that says what the printer is set up as. */
export async function printTestPage(
  context: Context,
  id: number,
  key: string,
): Promise<Outcome<{ readonly name: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const printer = await ownPrinter(db, context, id)
  if (!printer) return refused(reason("printer.gone"))
  const form = labelFormOf(printer.form)
  const bytes = await testPagePdf({ name: printer.name, uri: printer.uri, form, dpi: printer.dpi }, now)
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly name: string }>> => {
    if (!(await firstPress(trx, context, key, "test page"))) return accepted({ name: printer.name })
    const documentId = await keepDocument(trx, {
      warehouseId: actor.warehouseId,
      kind: "test-page",
      name: printer.name.slice(0, 40),
      bytes,
      madeAt: now,
    })
    await trx("print_job").insert({ document_id: documentId, printer_id: id, name: key, created_at: new Date() })
    await drainSoon(trx, id)
    await announce(trx, { warehouseId: actor.warehouseId })
    return accepted({ name: printer.name })
  })
}

/** Holds a printer's queue, or lets it go on. Safe to repeat. */
export const holdPrinter = (context: Context, id: number, held: boolean): Promise<Outcome<null>> =>
  changePrinter(context, id, { held })

/** Takes a printer out of use, or back; what waits for it is moved first. Safe to repeat. */
export async function usePrinter(context: Context, id: number, active: boolean): Promise<Outcome<null>> {
  authorise(context.actor, "printers.manage")
  if (
    !active &&
    (await context.db("print_job").where({ printer_id: id }).whereIn("state", ["waiting", "sent"]).first("id"))
  )
    return refused(reason("printer.has-jobs"))
  return changePrinter(context, id, { active })
}

/** Says that the next label goes onto the free half of a sheet that is begun, or onto a whole one. Safe to repeat. */
export const useHalf = (context: Context, id: number, free: boolean): Promise<Outcome<null>> =>
  changePrinter(context, id, { half_free: free })

async function changePrinter(
  context: Context,
  id: number,
  fields: { held?: boolean; active?: boolean; half_free?: boolean },
): Promise<Outcome<null>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const changed = await db("printer").where({ id, warehouse_id: actor.warehouseId }).update(fields)
  if (changed === 0) return refused(reason("printer.gone"))
  if (fields.held === false || fields.active) await drainSoon(db, id)
  await announce(db, { warehouseId: actor.warehouseId })
  return accepted(null)
}

/** A job in a printer's queue. */
export interface QueuedJob {
  readonly id: number
  readonly name: string
  readonly kind: DocumentKind
  readonly orderNumber: string | null
  readonly copies: number
  readonly state: "waiting" | "sent" | "cancelled"
  readonly trouble: string | null
  readonly askedAt: Date
}

/** Jobs of a queue that are shown at once. */
const shownJobs = 100

/** What a printer has to print, in its order, and what it gave up lately. */
export async function queueOf({ db, actor }: Context, printerId: number): Promise<QueuedJob[]> {
  const rows = await db("print_job as j")
    .join("document as d", "d.id", "j.document_id")
    .leftJoin("sales_order as o", "o.id", "d.order_id")
    .where({ "j.printer_id": printerId, "d.warehouse_id": actor.warehouseId })
    .where((own) =>
      own
        .whereIn("j.state", ["waiting", "sent"])
        .orWhere((gaveUp) => gaveUp.where("j.state", "cancelled").whereNotNull("j.trouble")),
    )
    .orderByRaw("j.state = 'cancelled', j.id")
    .limit(shownJobs)
    .select("j.id", "d.name", "d.kind", "o.order_number", "j.copies", "j.state", "j.trouble", "j.created_at")
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    kind: row.kind as DocumentKind,
    orderNumber: row.order_number,
    copies: row.copies,
    state: row.state,
    trouble: row.trouble,
    askedAt: row.created_at,
  }))
}

/**
 * Moves what waits for a printer to another of the warehouse, in its order. What it has been sent already is taken back
 * there first; what can't be taken back, or may have been sent when it went away, is printed there and counted as kept.
 */
export async function moveQueue(
  context: Context,
  fromId: number,
  toId: number,
): Promise<Outcome<{ readonly moved: number; readonly kept: number }>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const [from, to] = [await ownPrinter(db, context, fromId), await ownPrinter(db, context, toId)]
  if (!from || !to || from.id === to.id || !to.active) return refused(reason("printer.gone"))
  const gateway = ippPrinter(from.uri)
  const sent = await db("print_job").where({ printer_id: fromId, state: "sent" }).orderBy("id").select("id", "ipp_job")
  let kept = 0
  for (const one of sent) {
    const taken = await gateway.cancel(one.ipp_job ?? 0).catch(() => false)
    if (taken)
      await db("print_job")
        .where({ id: one.id, state: "sent" })
        .update({ state: "waiting", tries: 0, sheet: null, ipp_job: null, name: crypto.randomUUID() })
    else kept += 1
  }
  const moved = await db("print_job")
    .where({ printer_id: fromId, state: "waiting", tries: 0 })
    .update({ printer_id: toId, trouble: null })
  const unsure = await db("print_job").where({ printer_id: fromId, state: "waiting" }).pluck("id")
  await drainSoon(db, toId)
  await announce(db, { warehouseId: actor.warehouseId })
  return accepted({ moved, kept: kept + unsure.length })
}

/** Takes a job out of a queue that was not sent, or one that the printer gave up. Safe to repeat. */
export async function dropJob(context: Context, jobId: number): Promise<Outcome<null>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  await db("print_job")
    .where({ id: jobId })
    .whereIn("state", ["waiting", "cancelled"])
    .whereIn("printer_id", db("printer").where({ warehouse_id: actor.warehouseId }).select("id"))
    .update({ state: "cancelled", trouble: null })
  await announce(db, { warehouseId: actor.warehouseId })
  return accepted(null)
}

/** What choices of printers are known by, so that an edit on old ground is told. */
export const usesMark = (uses: readonly PrinterUse[]): string =>
  createHash("sha256")
    .update(
      uses
        .map((one) => `${one.kind} ${one.benchId} ${one.printerId}`)
        .sort()
        .join("; "),
    )
    .digest("base64url")

/**
 * Says which printer prints which kind of paper at the warehouse and its benches, or for the actor; 0: what is said for
 * all, or for the warehouse. Safe to repeat.
 *
 * @param seen mark of what was there when it was chosen; refused where that is another by now
 */
export async function saveUses(
  context: Context,
  whose: "warehouse" | "own",
  uses: readonly PrinterUse[],
  seen?: string,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, whose === "own" ? "orders.work" : "printers.manage")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const printers = new Set(
      await trx("printer").where({ warehouse_id: actor.warehouseId }).orderBy("id").forUpdate().pluck("id"),
    )
    const benches = new Set([0, ...(await trx("bench").where({ warehouse_id: actor.warehouseId }).pluck("id"))])
    if (uses.some((one) => !printers.has(one.printerId) || !benches.has(one.benchId)))
      return refused(reason("printer.gone"))
    if (seen !== undefined) {
      const now = usesMark(await usesOf({ ...context, db: trx }, whose))
      if (now === usesMark(uses)) return accepted(null)
      if (now !== seen) return refused(reason("order.changed-meanwhile"))
    }
    await trx("printer_use")
      .where({ warehouse_id: actor.warehouseId })
      .where((own) => void (whose === "own" ? own.where({ user_id: actor.userId }) : own.whereNull("user_id")))
      .delete()
    if (uses.length > 0)
      await trx("printer_use").insert(
        uses.map((one) => ({
          warehouse_id: actor.warehouseId,
          kind: one.kind,
          printer_id: one.printerId,
          bench_id: one.benchId || null,
          user_id: whose === "own" ? actor.userId : null,
        })),
      )
    if (whose === "warehouse")
      await record(trx, actor, now, { action: "printer.uses-saved", warehouseId: actor.warehouseId })
    return accepted(null)
  })
}

export const benchForm = z.object({
  name: z.string().trim().min(1, { error: "bench.name-needed" }).max(60, { error: "bench.name-needed" }),
})

/** Adds a bench; one of that name that was removed is there again. Safe to repeat. */
export async function addBench(context: Context, { name }: z.infer<typeof benchForm>): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "printers.manage")
  await inTransaction(db, async (trx) => {
    await trx("bench")
      .insert({ warehouse_id: actor.warehouseId, name })
      .onConflict(["warehouse_id", "name"])
      .merge({ active: true })
    await record(trx, actor, now, { action: "bench.added", warehouseId: actor.warehouseId, detail: { name } })
  })
  return accepted(null)
}

/** Removes a bench: nobody chooses it any more, and what is printed there goes where the warehouse says. */
export async function removeBench(context: Context, id: number): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "printers.manage")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const bench = await trx("bench").where({ id, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!bench) return refused(reason("printer.gone"))
    await trx("printer_use").where({ bench_id: id }).delete()
    await trx("bench").where({ id }).update({ active: false })
    await record(trx, actor, now, {
      action: "bench.removed",
      warehouseId: actor.warehouseId,
      detail: { name: bench.name },
    })
    return accepted(null)
  })
}
