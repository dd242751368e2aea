import type { ClosingFormId, CollectionId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { mass, massIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { onPaper } from "words/papers.ts"
import { authorise, type Context } from "../actors/index.ts"
import { announce, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { tellShipped } from "../edi/queue.ts"
import { type CarrierDock, httpCarrierDock } from "../gateways/carrierDock.ts"
import { postMail } from "../mail/index.ts"
import { leadOf, membersOf } from "../orders/joined.ts"
import { reportGone } from "../reports/index.ts"
import type { Collection } from "../setup/collections.ts"
import { tell } from "../telling/tell.ts"
import { tellOutForDelivery } from "../tracking/own.ts"
import { unitsLeft } from "../tracking/units.ts"
import { withTruck } from "./close.ts"
import { formById } from "./forms.ts"
import { telling } from "./jobs.ts"
import { isOwnVehicle } from "./round.ts"

/**
 * Makes a closing final: from then on it can't be reopened. Its forms go to the carrier and to whoever should know, and
 * the sources of orders that are gone altogether are told. All of it is written in one transaction, once, and carried
 * out by jobs.
 *
 * @param closing which closing of the door it was; one that was reopened meanwhile is left alone
 */
export async function depart(db: Knex, collectionId: CollectionId, closing: number): Promise<void> {
  const row = await db("collection").where({ id: collectionId }).first("warehouse_id")
  if (!row) return
  const now = await businessNow(db)
  await withTruck(db, row.warehouse_id, collectionId, async (trx, collection) => {
    if (!collection?.closedAt || collection.finalAt || collection.closings !== closing) return
    await departIn(trx, row.warehouse_id, collection, now)
  })
}

async function departIn(trx: Knex, warehouseId: number, collection: Collection, now: Date): Promise<void> {
  await trx("collection").where({ id: collection.id }).update({ final_at: now })
  const forms = await trx("closing_form")
    .where({ collection_id: collection.id, state: "made" })
    .orderBy("id")
    .pluck("id")
  for (const id of forms) await sendIn(trx, id, now)
  const leads = await trx("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where({ "p.collection_id": collection.id, "p.state": "gone" })
    .orderBy("h.order_id")
    .distinct<{ lead: number }[]>("h.order_id as lead")
  const at = { warehouseId, collectionId: collection.id, closing: collection.closings }
  const leftAt = collection.closedAt ?? now
  const units = await unitsLeft(trx, { collectionId: collection.id, at: leftAt }, now)
  if (await isOwnVehicle(trx, collection.carrierId)) await tellOutForDelivery(trx, units, collection.id, leftAt, now)
  for (const { lead } of leads) {
    await tellShipped(trx, at, lead, now)
    for (const orderId of await membersOf(trx, lead))
      if (await allGone(trx, orderId)) {
        await reportGone(trx, orderId, now)
        await tell(trx, orderId, "left", now)
      }
  }
  await announce(trx, { collectionId: collection.id, warehouseId })
}

/** Whether all packages of an order have left with trucks that nobody can reopen any more. */
async function allGone(trx: Knex, orderId: number): Promise<boolean> {
  const open = await trx("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .leftJoin("collection as c", "c.id", "p.collection_id")
    .where("h.order_id", await leadOf(trx, orderId))
    .whereNot("p.state", "void")
    .whereNull("p.parent_id")
    .where((not) => not.whereNot("p.state", "gone").orWhereNull("c.final_at"))
    .first("p.id")
  return !open
}

/** Hands a form on, in the caller's transaction: to the carrier where he takes it as data, and to the addresses. */
async function sendIn(trx: Knex, formId: ClosingFormId, now: Date): Promise<void> {
  const form = there(await trx("closing_form").where({ id: formId, state: "made" }).first())
  await trx("closing_form")
    .where({ id: formId })
    .update(form.told ? { state: "sending" } : { state: "done", ended_at: now, ended_by: "" })
  if (form.told) await telling.queue(trx, tellKey(formId, 0), { formId })
  await mailForm(trx, formId, now)
}

const tellKey = (formId: ClosingFormId, asked: number): string => `tell:${formId}:${asked}`

/** Tracking numbers that stand in the text of a message; more are in the form only. */
const mostInText = 1_000

/** Writes a form to every address that is set for the carrier or for the warehouse, once each. */
async function mailForm(trx: Knex, formId: ClosingFormId, now: Date): Promise<void> {
  const form = there(
    await trx("closing_form as f")
      .join("collection as c", "c.id", "f.collection_id")
      .join("carrier as k", "k.id", "f.carrier_id")
      .where("f.id", formId)
      .first("f.*", "c.door", "c.on_date", "k.name as carrier"),
  )
  const to = await trx("closing_address")
    .where({ warehouse_id: form.warehouse_id, purpose: "forms" })
    .where((own) => own.whereNull("carrier_id").orWhere("carrier_id", form.carrier_id))
    .distinct("email")
    .orderBy("email")
    .pluck("email")
  if (to.length === 0) return
  const numbers = await trx("package").where({ form_id: formId }).orderBy("id").pluck("tracking")
  // a bill of lading may have been made again since: the one in force goes
  const paper = (await formById(trx, form.warehouse_id, formId))?.documentId
  const document = paper ? await trx("document").where({ id: paper }).first("bytes", "name") : null
  const words = {
    form: form.number,
    carrier: form.carrier,
    door: form.door,
    date: form.on_date,
    packages: form.packages,
    lb: massIn(mass(form.weight_kg, "kg"), "lb").toFixed(1),
    account: form.account,
  }
  const text = [
    onPaper("form.mail-text", words),
    "",
    ...numbers.slice(0, mostInText),
    ...(numbers.length > mostInText ? ["…"] : []),
  ].join("\n")
  for (const email of to)
    await postMail(trx, {
      onceKey: `form:${formId}:${email}`.slice(0, 100),
      warehouseId: form.warehouse_id,
      to: email,
      subject: onPaper("form.mail-subject", words).slice(0, 150),
      body: text,
      attachment: document ? { name: `${document.name}.pdf`, bytes: document.bytes } : null,
      quoteId: null,
      by: form.made_by,
      at: now,
    })
}

/** Makes a closing final at once, without waiting. Safe to repeat. */
export async function sendNow(context: Context, collectionId: CollectionId): Promise<Outcome<{ door: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  return withTruck(db, actor.warehouseId, collectionId, async (trx, collection): Promise<Outcome<{ door: string }>> => {
    if (!collection) return refused(reason("dock.no-such-collection"))
    if (!collection.closedAt) return refused(reason("dock.still-open", { door: collection.door }))
    if (collection.finalAt) return accepted({ door: collection.door })
    await departIn(trx, actor.warehouseId, collection, now)
    await record(trx, actor, now, { action: "dock.sent", collectionId, detail: { door: collection.door } })
    return accepted({ door: collection.door })
  })
}

/** Sends a form of some packages while its door is open. Its packages stay on the truck. Safe to repeat. */
export async function sendForm(context: Context, formId: ClosingFormId): Promise<Outcome<{ number: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  const found = await formById(db, actor.warehouseId, formId)
  if (!found) return refused(reason("form.unknown"))
  return inTransaction(db, async (trx): Promise<Outcome<{ number: string }>> => {
    await trx("collection").where({ id: found.collectionId }).forUpdate().select("id")
    const form = there(await formById(trx, actor.warehouseId, formId))
    if (form.state === "discarded") return refused(reason("form.discarded", { form: form.number }))
    if (form.state === "made") {
      await sendIn(trx, formId, now)
      await record(trx, actor, now, {
        action: "dock.form-sent",
        collectionId: form.collectionId,
        detail: { form: form.number },
      })
    }
    return accepted({ number: form.number })
  })
}

/**
 * Tells the carrier what was handed over, by the form's own key, which he takes once: from the second try on he is first
 * asked whether he has it. Throws CarrierUnreachable to be run again.
 */
export async function tellForm(
  db: Knex,
  formId: ClosingFormId,
  tries: number,
  dockAt: (url: string) => CarrierDock = httpCarrierDock,
): Promise<void> {
  const form = await db("closing_form as f")
    .join("carrier as k", "k.id", "f.carrier_id")
    .join("collection as c", "c.id", "f.collection_id")
    .where("f.id", formId)
    .first("f.*", "k.base_url", "k.name as carrier", "c.door", "c.on_date")
  if (form?.state !== "sending") return
  const gateway = dockAt(form.base_url)
  const known = tries > 1 || form.asked > 0 ? await gateway.findClosing(form.once_key) : null
  const answer =
    known ??
    (await gateway.close(form.once_key, {
      account: form.account,
      number: form.number,
      way: form.way,
      service: form.service,
      closedOn: form.on_date,
      pieces: form.packages,
      weightLb: massIn(mass(form.weight_kg, "kg"), "lb").toFixed(2),
      packages: (
        await db("package").where({ form_id: formId }).orderBy("id").select("tracking")
      ).map((one) => ({
        trackingNumber: one.tracking ?? "",
      })),
    }))
  const now = await businessNow(db)
  await inTransaction(db, async (trx) => {
    const trouble: Reason | null =
      answer.kind === "taken" ? null : reason("form.refused", { carrier: form.carrier, why: answer.reason })
    const changed = await trx("closing_form")
      .where({ id: formId, state: "sending" })
      .update({
        state: trouble ? "refused" : "done",
        carrier_number: answer.kind === "taken" ? answer.number : "",
        trouble: trouble ? JSON.stringify(trouble) : null,
        ended_at: now,
        ended_by: "",
      })
    if (changed === 0) return
    await record(trx, { userId: null, name: form.made_by }, now, {
      action: trouble ? "dock.form-refused" : "dock.form-taken",
      collectionId: form.collection_id,
      detail: {
        form: form.number,
        carrier: form.carrier,
        why: answer.kind === "taken" ? answer.number : answer.reason,
      },
    })
  })
}

/** Sends a form again that the carrier refused. */
export async function tellAgain(context: Context, formId: ClosingFormId): Promise<Outcome<{ number: string }>> {
  return ofRefused(context, formId, "dock.work", async (trx, form) => {
    await trx("closing_form")
      .where({ id: formId })
      .update({ state: "sending", trouble: null, ended_at: null, asked: form.asked + 1 })
    await telling.queue(trx, tellKey(formId, form.asked + 1), { formId })
    await record(trx, context.actor, context.now, {
      action: "dock.form-sent",
      collectionId: form.collection_id,
      detail: { form: form.number },
    })
  })
}

/** Notes that a refused form was settled with the carrier otherwise, with what was agreed. */
export async function settleForm(
  context: Context,
  formId: ClosingFormId,
  note: string,
): Promise<Outcome<{ number: string }>> {
  return ofRefused(context, formId, "dock.reopen", async (trx, form) => {
    await trx("closing_form")
      .where({ id: formId })
      .update({ state: "done", trouble: null, ended_at: context.now, ended_by: context.actor.name })
    await record(trx, context.actor, context.now, {
      action: "dock.form-settled",
      collectionId: form.collection_id,
      detail: { form: form.number, note },
    })
  })
}

async function ofRefused(
  { db, actor }: Context,
  formId: ClosingFormId,
  right: "dock.work" | "dock.reopen",
  does: (
    trx: Knex,
    form: { readonly asked: number; readonly collection_id: CollectionId; readonly number: string },
  ) => Promise<void>,
): Promise<Outcome<{ number: string }>> {
  authorise(actor, right)
  return inTransaction(db, async (trx): Promise<Outcome<{ number: string }>> => {
    const form = await trx("closing_form").where({ id: formId, warehouse_id: actor.warehouseId }).forUpdate().first()
    if (!form) return refused(reason("form.unknown"))
    // pressed twice, it is no longer refused
    if (form.state === "refused") await does(trx, form)
    return accepted({ number: form.number })
  })
}
