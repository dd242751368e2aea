import { randomUUID } from "node:crypto"
import { localDate, localTime } from "core/calendar/index.ts"
import { type Form, formsFor, ginc } from "core/closing/index.ts"
import { type ManifestRow, manifest } from "core/documents/index.ts"
import type { ClosingFormId, CollectionId, DocumentId, PackageId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { type ClosingTerms, type ClosingWay, tariffSchema } from "core/tariff/index.ts"
import { mass } from "core/units/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId, there } from "../db/there.ts"
import { likeInAnyCase } from "../db/words.ts"
import { keepDocument, printDocument, whose } from "../documents/index.ts"
import { driverOnPaper } from "../papers/driver.ts"
import { billsOf, masterBillOf } from "../papers/masterBill.ts"
import { manifestPdf } from "../pdf/manifest.ts"
import { masterBillPdf } from "../pdf/masterBill.ts"
import { tariffOn } from "../rating/tariffs.ts"
import { type Collection, collectionById } from "../setup/collections.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import { bookingsOn } from "./bookings.ts"
import { type DockPackage, packagesOf } from "./packages.ts"

/** What holds where a carrier has no tariff that says otherwise. */
const usual: ClosingTerms = tariffSchema.shape.handover.parse(undefined).closing

/** How a carrier wants goods handed over on a day: a fact of its tariff. */
export const closingTerms = async (db: Knex, { carrierId, onDate }: Collection): Promise<ClosingTerms> =>
  (await tariffOn(db, carrierId, onDate))?.handover.closing ?? usual

interface Handed extends DockPackage {
  readonly account: string
  /** Its order's number at the source. */
  readonly order: string
}

/** Packages with whose account pays, and their orders as the source numbers them. */
async function handed(trx: Knex, packages: readonly DockPackage[]): Promise<Handed[]> {
  const rows = await trx("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("sales_order as o", "o.id", "h.order_id")
    .leftJoin("buy_intent as i", (on) => on.on("i.shipment_id", "h.id").andOn("i.state", trx.raw("'booked'")))
    .whereIn(
      "p.id",
      packages.map((one) => one.id),
    )
    .select<{ id: number; order: string; ours: string | null; theirs: string | null }[]>(
      "p.id",
      "o.source_number as order",
      trx.raw("JSON_VALUE(i.request, '$.account') AS ours"),
      trx.raw("JSON_VALUE(i.request, '$.billing.account') AS theirs"),
    )
  const facts = new Map(rows.map((row) => [row.id, row]))
  return packages.map((one) => {
    const row = there(facts.get(one.id))
    return { ...one, order: row.order, account: row.theirs || row.ours || "" }
  })
}

export interface MadeForm {
  readonly id: ClosingFormId
  readonly number: string
  readonly way: ClosingWay
}

/**
 * Makes the forms of packages on a truck by the carrier's own way, keeps and prints those that are papers, and puts each
 * package on its form. Packages that are on one already are left out. In the caller's transaction, which has locked the
 * collection.
 */
export async function makeForms(
  trx: Knex,
  context: Context,
  collection: Collection,
  packages: readonly DockPackage[],
  { atClosing }: { readonly atClosing: boolean },
): Promise<MadeForm[]> {
  const { actor, now } = context
  const warehouse = await warehouseById(trx, actor.warehouseId)
  const terms = await closingTerms(trx, collection)
  const open = packages.filter((one) => one.formId === null)
  const [last] = await trx("closing_form").where({ collection_id: collection.id }).max({ n: "sequence" })
  const made: MadeForm[] = []
  let sequence = Number(last?.n ?? 0)
  for (const form of formsFor(terms, await handed(trx, open))) {
    sequence += 1
    const at = { madeAt: now, by: actor.name, supplement: collection.closings > 0 }
    const drawn = await drawForm(trx, warehouse, collection, form, sequence, at)
    const documentId = drawn.paper
      ? await keepForm(trx, context, collection, drawn.number, drawn.paper, terms.copies)
      : null
    const id = newId(
      await trx("closing_form").insert({
        warehouse_id: warehouse.id,
        collection_id: collection.id,
        carrier_id: collection.carrierId,
        sequence,
        way: drawn.way,
        number: drawn.number,
        account: form.account.slice(0, 40),
        service: form.service,
        supplement: at.supplement,
        at_closing: atClosing,
        packages: form.packages.length,
        weight_kg: form.weight.toFixed(12),
        document_id: documentId ?? drawn.shared,
        own_document: drawn.shared === null,
        told: terms.told,
        once_key: randomUUID(),
        made_at: now,
        made_by: actor.name,
      }),
    )
    await trx("package")
      .whereIn(
        "id",
        form.packages.map((one) => one.id),
      )
      .update({ form_id: id })
    await record(trx, actor, now, {
      action: "dock.form-made",
      collectionId: collection.id,
      detail: { form: drawn.number, packages: form.packages.length, way: drawn.way },
    })
    made.push({ id, number: drawn.number, way: drawn.way })
  }
  return made
}

/** Keeps a form's paper, and prints it. */
async function keepForm(
  trx: Knex,
  context: Context,
  collection: Collection,
  name: string,
  { kind, bytes }: NonNullable<Drawn["paper"]>,
  copies: number,
  prints = true,
): Promise<DocumentId> {
  const { warehouseId } = context.actor
  const documentId = await keepDocument(trx, {
    warehouseId,
    kind,
    name,
    bytes,
    madeAt: context.now,
    collectionId: collection.id,
    copies,
  })
  if (prints) await printDocument(trx, warehouseId, documentId, kind, copies, whose(context))
  return documentId
}

const after = (sequence: number): string => (sequence > 1 ? `-${sequence}` : "")

/** When and by whom a form was made, and whether it is for what came after others of its truck. */
interface MadeBy {
  readonly madeAt: Date
  readonly by: string
  readonly supplement: boolean
}

interface Drawn {
  /** A list where there is no bill of lading to show. */
  readonly way: ClosingWay
  readonly number: string
  readonly paper: { readonly kind: "manifest" | "master-bill"; readonly bytes: Buffer } | null
  /** The bill of lading of the one shipment on it, which is there already. */
  readonly shared: DocumentId | null
}

async function drawForm(
  trx: Knex,
  warehouse: Warehouse,
  collection: Collection,
  form: Form<Handed>,
  sequence: number,
  at: MadeBy,
): Promise<Drawn> {
  const day = collection.onDate.slice(2).replaceAll("-", "")
  const stamp = `${day}-${collection.door}-${localTime(collection.cutOff, warehouse.zone).replace(":", "")}${after(sequence)}`
  const reference = `${warehouse.code}-${stamp}`
  const number = form.way === "one-barcode" ? ginc(warehouse.gs1Prefix, reference) : reference
  if (form.way === "none" || form.way === "electronic") return { way: form.way, number, paper: null, shared: null }
  const bill = form.way === "bill-of-lading" ? await billFor(trx, warehouse, collection, form, sequence) : null
  if (bill?.kind === "own") return { way: form.way, number: bill.number, paper: null, shared: bill.document }
  if (bill) {
    const bytes = await masterBillPdf(bill.model, at.madeAt)
    return { way: form.way, number: bill.model.number, paper: { kind: "master-bill", bytes }, shared: null }
  }
  const model = manifest(
    {
      number,
      one: form.way === "one-barcode",
      carrier: collection.carrier,
      account: form.account,
      service: form.service,
      door: collection.door,
      sender: warehouse.sender,
      closedAt: `${localDate(at.madeAt, warehouse.zone)} ${localTime(at.madeAt, warehouse.zone)}`,
      closedBy: at.by,
      supplement: at.supplement,
      booking: (await bookingsOn(trx, warehouse.id, [collection.id])).get(collection.id)?.number ?? "",
      driver: await driverOnPaper(trx, warehouse, collection.id),
    },
    form.packages.map(rowOf),
  )
  const way = form.way === "one-barcode" ? form.way : "manifest"
  return { way, number, paper: { kind: "manifest", bytes: await manifestPdf(model, at.madeAt) }, shared: null }
}

/**
 * Draws the forms of a truck again with what is known of its driver by now; the papers before become void. What still
 * waits for a printer is printed as it is now. In the caller's transaction.
 */
export async function redrawForms(trx: Knex, context: Context, collection: Collection): Promise<void> {
  const warehouse = await warehouseById(trx, context.actor.warehouseId)
  const rows = await trx("closing_form")
    .where({ collection_id: collection.id, own_document: true })
    .whereNot({ state: "discarded" })
    .whereNotNull("document_id")
    .orderBy("id")
  const packages = (await packagesOf(trx, [collection.id])).get(collection.id) ?? []
  for (const row of rows) {
    const own = await handed(
      trx,
      packages.filter((one) => one.formId === row.id),
    )
    const form = {
      way: row.way,
      account: row.account,
      service: row.service,
      packages: own,
      weight: mass(row.weight_kg, "kg"),
    }
    const at = { madeAt: row.made_at, by: row.made_by, supplement: !!row.supplement }
    const { paper } = await drawForm(trx, warehouse, collection, form, row.sequence, at)
    const before = there(row.document_id)
    if (!paper) continue
    const { copies } = there(await trx("document").where({ id: before }).first("copies"))
    await trx("document").where({ id: before }).update({ void_at: context.now })
    const waiting = await trx("print_job")
      .where({ document_id: before, state: "waiting" })
      .update({ state: "cancelled" })
    const documentId = await keepForm(trx, context, collection, row.number, paper, copies, waiting > 0)
    await trx("closing_form").where({ id: row.id }).update({ document_id: documentId })
  }
}

const rowOf = (one: Handed): ManifestRow => ({
  package: one.name,
  order: one.order,
  trackingNumber: one.tracking,
  service: one.service,
  receiver: one.receiver,
  place: one.place,
  weight: one.weight,
})

/** The bill of the one shipment on a form, or a master bill over several; null where there is no bill of lading. */
async function billFor(trx: Knex, warehouse: Warehouse, collection: Collection, form: Form<Handed>, sequence: number) {
  const orders = new Set<number>(form.packages.map((one) => one.orderId))
  const bills = (await billsOf(trx, warehouse.id, collection.id)).filter((one) => orders.has(one.order_id ?? 0))
  const [only] = bills
  if (!only) return null
  if (bills.length === 1) return { kind: "own" as const, number: only.name, document: only.id }
  const model = await masterBillOf(trx, warehouse, collection.id, orders)
  if (!model) return null
  return { kind: "master" as const, model: { ...model, number: `${model.number}${after(sequence)}` } }
}

/** Makes forms of chosen packages before the door is closed: several manifests of a day. */
export async function makeFormsOf(
  context: Context,
  collectionId: CollectionId,
  packageIds: readonly PackageId[],
): Promise<Outcome<{ readonly numbers: readonly string[] }>> {
  const { db, actor } = context
  authorise(actor, "dock.work")
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly numbers: readonly string[] }>> => {
    await trx("collection").where({ id: collectionId, warehouse_id: actor.warehouseId }).forUpdate().select("id")
    const collection = await collectionById(trx, actor.warehouseId, collectionId)
    if (!collection) return refused(reason("dock.no-such-collection"))
    if (collection.closedAt) return refused(reason("dock.closed", { door: collection.door }))
    await trx("package").where({ collection_id: collectionId }).orderBy("id").forUpdate().select("id")
    const chosen = new Set<number>(packageIds)
    const packages =
      (await packagesOf(trx, [collectionId])).get(collectionId)?.filter((one) => chosen.has(one.id)) ?? []
    if (packages.length === 0) return refused(reason("form.choose"))
    const off = packages.find((one) => one.state !== "on-truck")
    if (off) return refused(reason("form.not-loaded", { package: off.name }))
    const stopped = packages.find((one) => one.stopped)
    if (stopped) return refused(reason("dock.take-it-off", { package: stopped.name }))
    // pressed twice, they are on their forms already
    const made = await makeForms(trx, context, collection, packages, { atClosing: false })
    return accepted({ numbers: made.map((one) => one.number) })
  })
}

/** A form as lists show it. */
export interface ListedForm {
  readonly id: number
  readonly number: string
  readonly way: ClosingWay
  readonly collectionId: number
  readonly door: string
  readonly carrier: string
  readonly onDate: string
  readonly account: string
  readonly service: string | null
  readonly packages: number
  readonly kg: string
  readonly supplement: boolean
  readonly state: "made" | "sending" | "done" | "refused" | "discarded"
  readonly told: boolean
  readonly carrierNumber: string
  readonly trouble: unknown
  readonly documentId: DocumentId | null
  readonly madeAt: Date
  readonly madeBy: string
  readonly endedAt: Date | null
  /** Its door is closed, and was not reopened. */
  readonly closed: boolean
}

const listed = (db: Knex) =>
  db("closing_form as f")
    .join("collection as c", "c.id", "f.collection_id")
    .join("carrier as k", "k.id", "f.carrier_id")
    .select(
      "f.*",
      "c.door",
      "c.on_date",
      "c.closed_at",
      "k.name as carrier",
      // a bill of lading is made again when more is known of it: the one in force
      db.raw(
        `IF(f.own_document, f.document_id, (SELECT MAX(d.id) FROM document d WHERE d.warehouse_id = f.warehouse_id
          AND d.name = f.number AND d.kind = 'bill-of-lading' AND d.void_at IS NULL)) AS paper_id`,
      ),
    )

type ListedRow = Awaited<ReturnType<typeof listed>>[number]

const listedForm = (row: ListedRow): ListedForm => ({
  id: row.id,
  number: row.number,
  way: row.way,
  collectionId: row.collection_id,
  door: row.door,
  carrier: row.carrier,
  onDate: row.on_date,
  account: row.account,
  service: row.service,
  packages: row.packages,
  kg: row.weight_kg,
  supplement: !!row.supplement,
  state: row.state,
  told: !!row.told,
  carrierNumber: row.carrier_number,
  trouble: parsed(row.trouble),
  documentId: row.paper_id,
  madeAt: row.made_at,
  madeBy: row.made_by,
  endedAt: row.ended_at,
  closed: row.closed_at !== null,
})

/** The forms of collections, discarded ones too, in the order in which they were made. */
export async function formsOf(
  db: Knex,
  warehouseId: number,
  collectionIds: readonly CollectionId[],
): Promise<ListedForm[]> {
  const rows = await listed(db)
    .where("f.warehouse_id", warehouseId)
    .whereIn("f.collection_id", [...collectionIds])
    .orderBy(["f.collection_id", "f.sequence"])
  return rows.map(listedForm)
}

export interface FormSearch {
  /** A part of its number, the carrier's number for it, a carrier, an account or a door. */
  readonly text: string
  readonly from: string
  readonly until: string
  readonly state: ListedForm["state"] | ""
  readonly page: number
}

/** So many forms are on a page of the list. */
export const formsAtOnce = 50

/** All forms of a warehouse, the newest first, searched. One more than a page where there are more. */
export async function searchForms(db: Knex, warehouseId: number, search: FormSearch): Promise<ListedForm[]> {
  const query = listed(db)
    .where("f.warehouse_id", warehouseId)
    .orderBy("f.id", "desc")
    .limit(formsAtOnce + 1)
    .offset((search.page - 1) * formsAtOnce)
  if (search.from) query.where("c.on_date", ">=", search.from)
  if (search.until) query.where("c.on_date", "<=", search.until)
  if (search.state) query.where("f.state", search.state)
  const text = search.text.trim()
  if (text) {
    const like = `%${text.replace(/[\\%_]/g, "\\$&")}%`
    query.where((either) => {
      either.where("c.door", text)
      for (const column of ["f.number", "f.carrier_number", "f.account", "k.name"])
        either.orWhereRaw(likeInAnyCase(db, column, like))
      either.orWhereExists(
        db("package as p")
          .join("shipment as h", "h.id", "p.shipment_id")
          .join("sales_order as o", "o.id", "h.order_id")
          .whereRaw("p.form_id = f.id")
          .where((own) =>
            own.where("p.tracking", text).orWhere("o.order_number", text).orWhere("o.source_number", text),
          ),
      )
    })
  }
  return (await query).map(listedForm)
}

/** A form of a warehouse. */
export async function formById(db: Knex, warehouseId: number, id: ClosingFormId): Promise<ListedForm | null> {
  const row = await listed(db).where("f.warehouse_id", warehouseId).where("f.id", id).first()
  return row ? listedForm(row) : null
}

/** What a form stands for, by package, as it is stored now; empty for one that was discarded. */
export async function contentsOf(
  db: Knex,
  form: ListedForm,
): Promise<(ManifestRow & { readonly orderNumber: string })[]> {
  const packages = (await packagesOf(db, [form.collectionId])).get(form.collectionId) ?? []
  const rows = await handed(
    db,
    packages.filter((one) => one.formId === form.id),
  )
  return rows.map((one) => ({ ...rowOf(one), orderNumber: one.name.split("-")[0] ?? "" }))
}

/** Takes a form out of use, in the caller's transaction: its paper is void, its packages are on none. */
export async function discardIn(
  trx: Knex,
  { actor, now }: Context,
  form: { readonly id: ClosingFormId },
): Promise<void> {
  const row = there(await trx("closing_form").where({ id: form.id }).first())
  await trx("closing_form").where({ id: form.id }).update({ state: "discarded", ended_at: now, ended_by: actor.name })
  await trx("package").where({ form_id: form.id }).update({ form_id: null })
  if (row.document_id && row.own_document) {
    await trx("document").where({ id: row.document_id }).update({ void_at: now })
    await trx("print_job").where({ document_id: row.document_id, state: "waiting" }).update({ state: "cancelled" })
  }
  await record(trx, actor, now, {
    action: "dock.form-discarded",
    collectionId: row.collection_id,
    detail: { form: row.number },
  })
}

/** Discards a form that the carrier has not had, of a door that is open. Safe to repeat. */
export async function discardForm(context: Context, formId: ClosingFormId): Promise<Outcome<{ number: string }>> {
  const { db, actor } = context
  authorise(actor, "dock.reopen")
  const found = await formById(db, actor.warehouseId, formId)
  if (!found) return refused(reason("form.unknown"))
  return inTransaction(db, async (trx): Promise<Outcome<{ number: string }>> => {
    await trx("collection").where({ id: found.collectionId }).forUpdate().select("id")
    const form = there(await formById(trx, actor.warehouseId, formId))
    if (form.state === "discarded") return accepted({ number: form.number })
    if (form.state !== "made") return refused(reason("form.had", { form: form.number, carrier: form.carrier }))
    if (form.closed) return refused(reason("form.reopen-first", { form: form.number, door: form.door }))
    await discardIn(trx, context, form)
    return accepted({ number: form.number })
  })
}
