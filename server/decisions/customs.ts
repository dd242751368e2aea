import {
  type CustomsDetails,
  type CustomsParty,
  type CustomsRole,
  customsDetailsSchema,
  customsUnits,
  findHs,
  type HsProposal,
  isHsCode,
  lineCustomsSchema,
  saysWhatItIs,
} from "core/customs/index.ts"
import { ladingSchema } from "core/documents/index.ts"
import type { LineId, OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { wholeOf } from "../orders/customs.ts"
import { touchShipment } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { taxNumberRight } from "../orders/taxNumber.ts"
import { vagueWords } from "../papers/tables.ts"
import { recheck } from "./recheck.ts"

/** What changes of what is said of an order for customs: details, and the terms and telephone beside its address. */
export interface CustomsChange {
  readonly details: Partial<CustomsDetails>
  readonly address?: {
    readonly incoterm?: string
    readonly incoterm_place?: string
    readonly phone?: string
  }
  /** A party that is named, or with nothing in it no longer. */
  readonly party?: { readonly role: CustomsRole; readonly party: CustomsParty | null }
}

/** The order, locked, of which no labels are asked for; or why it can't be changed. */
async function changeable(trx: Knex, warehouseId: number, orderId: OrderId) {
  const order = await trx("sales_order").where({ id: orderId, warehouse_id: warehouseId }).forUpdate().first()
  if (!order) return refused(reason("order.unknown"))
  if (await labelsAskedFor(trx, orderId)) return refused(reason("order.labels-asked-for"))
  return accepted(order)
}

/**
 * Keeps what is said of an order for customs, for all its parts, and its terms. Safe to repeat: what is said already
 * changes nothing. Refused once labels are asked for.
 */
export async function saveCustoms(context: Context, orderId: OrderId, change: CustomsChange): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const wrong = numbersWrong(change)
  if (wrong.length > 0) return refused(...wrong)
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const found = await changeable(trx, actor.warehouseId, orderId)
    if (!found.ok) return found
    const order = found.value
    const whole = wholeOf(order)
    const before = await trx("order_customs").where({ order_id: whole }).forUpdate().first("body")
    const had: CustomsDetails = customsDetailsSchema.parse(before ? parsed(before.body) : {})
    const { [change.party?.role ?? "notify"]: _, ...others } = had.parties
    const parties = change.party
      ? { ...others, ...(change.party.party ? { [change.party.role]: change.party.party } : {}) }
      : had.parties
    const details: CustomsDetails = { ...had, ...change.details, parties }
    const { incoterm, incoterm_place, phone } = order
    const address = { incoterm, incoterm_place, phone, ...change.address }
    const changes = [...changesOf(had, details), ...changesOf({ ...order }, address)]
    if (changes.length === 0) return accepted(null)
    await trx("order_customs")
      .insert({ order_id: whole, body: JSON.stringify(details) })
      .onConflict("order_id")
      .merge(["body"])
    await trx("sales_order")
      .where({ id: orderId })
      .update({ ...address, version: order.version + 1 })
    await touchShipment(trx, orderId)
    await record(trx, actor, now, { action: "order.customs-changed", orderId, detail: { changes } })
    // what is said holds for every part of the order
    const parts = await trx("sales_order")
      .where((either) => either.where({ id: whole }).orWhere({ split_from_id: whole }))
      .whereNull("cancelled_at")
      .orderBy("id")
      .pluck("id")
    for (const part of parts) await recheck(trx, part, actor, now)
    return accepted(null)
  })
}

/** Numbers of parties that can't be right: their shape, or the check digits of their country. */
function numbersWrong({ details, party }: CustomsChange): Reason[] {
  const said: [string, string | undefined, string | undefined][] = [
    ["receiverTax", details.receiverTax, details.receiverEori],
    ["taxNumber", party?.party?.taxNumber, party?.party?.eori],
  ]
  return said.flatMap(([field, tax, eori]) => [
    ...(tax && !taxNumberRight(tax) ? [reason("customs.tax-check", { field, number: tax })] : []),
    ...(eori && !/^[A-Z]{2}[A-Z0-9]{1,15}$/.test(eori)
      ? [reason("customs.eori-shape", { field: field === "taxNumber" ? "eori" : "receiverEori", number: eori })]
      : []),
  ])
}

/** Which fields change, as the story tells them: parties and other records by their text. */
function changesOf(had: Readonly<Record<string, unknown>>, wanted: Readonly<Record<string, unknown>>) {
  const text = (value: unknown): string =>
    value === null || value === undefined
      ? ""
      : typeof value === "object"
        ? Object.values(value)
            .flatMap((one) => (one && typeof one === "object" ? Object.values(one) : [one]))
            .filter(Boolean)
            .join(", ")
        : String(value)
  return Object.keys(wanted)
    .map((field) => ({ field, from: text(had[field]), to: text(wanted[field]) }))
    .filter((one) => one.from !== one.to)
}

export const lineCustomsForm = lineCustomsSchema.extend({
  line: z.coerce.number().int().positive(),
  hsCode: z
    .string()
    .trim()
    .refine((text) => text === "" || isHsCode(text), { error: "item.hsCode" })
    .default(""),
  origin: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^([A-Z]{2})?$/, { error: "item.origin" })
    .default(""),
  unit: z.enum(["", ...customsUnits], { error: "customs.unit" }).default(""),
  /** Kept with the item for the next time, all but the value. */
  keep: z.boolean().default(false),
})
export type LineCustomsForm = z.infer<typeof lineCustomsForm>

/**
 * Keeps what a line says to customs; with `keep` it is written to the item as well, for every order to come. A
 * description that says nothing is refused. Safe to repeat.
 */
export async function saveLineCustoms(
  context: Context,
  orderId: OrderId,
  form: LineCustomsForm,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, form.keep ? "goods.complete" : "orders.work")
  const { line: lineId, keep, ...said } = form
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const found = await changeable(trx, actor.warehouseId, orderId)
    if (!found.ok) return found
    const line = await trx("order_line").where({ id: lineId, order_id: orderId }).forUpdate().first()
    if (!line) return refused(reason("customs.line-unknown"))
    const item = there(await trx("item").where({ id: line.item_id }).forUpdate().first())
    const vague = await vagueWords(trx)
    if (said.description && !saysWhatItIs(said.description, vague))
      return refused(
        reason("customs.vague-description", {
          line: line.line_number,
          sku: item.sku,
          field: "description",
          description: said.description,
        }),
      )
    const kept = {
      customs_description: said.description || item.customs_description,
      material: said.material || item.material,
      customs_use: said.use || item.customs_use,
      hs_code: said.hsCode || item.hs_code,
      origin: said.origin || item.origin,
      customs_unit: said.unit || item.customs_unit,
      net_kg: said.netKg ? Number(said.netKg).toFixed(12) : item.net_kg,
    }
    const changes = keep ? changesOf(pick(item, Object.keys(kept)), kept) : []
    if (keep && changes.length > 0) {
      await trx("item")
        .where({ id: item.id })
        .update({ ...kept, version: item.version + 1 })
      await record(trx, actor, now, { action: "item.changed", detail: { sku: item.sku, changes } })
    }
    if (said.hsCode) await noteHsCode(trx, item.id, said.hsCode, now)
    // what the item says itself by now needs not be said again
    const own = keep ? lineCustomsSchema.parse({ value: said.value }) : lineCustomsSchema.parse(said)
    const empty = Object.values(own).every((text) => text === "")
    const body = empty ? null : JSON.stringify(own)
    const had = line.customs === null ? null : JSON.stringify(lineCustomsSchema.parse(parsed(line.customs)))
    if (body === had && changes.length === 0) return accepted(null)
    await trx("order_line").where({ id: line.id }).update({ customs: body })
    await touchShipment(trx, orderId)
    await record(trx, actor, now, {
      action: "order.line-customs-changed",
      orderId,
      detail: { sku: item.sku, changes: changesOf(had === null ? {} : JSON.parse(had), own) },
    })
    await recheck(trx, orderId, actor, now)
    return accepted(null)
  })
}

const pick = (row: object, names: readonly string[]): Record<string, unknown> =>
  Object.fromEntries(Object.entries(row).filter(([name]) => names.includes(name)))

/** Notes that an item had a code, so that it is offered first the next time. */
export async function noteHsCode(trx: Knex, itemId: number, code: string, now: Date): Promise<void> {
  await trx("item_hs_code").insert({ item_id: itemId, hs_code: code, used_at: now }).onConflict().merge(["used_at"])
}

/** Codes that may fit a line: what its item had before, then what the shipped table finds for the words. */
export async function hsProposals(
  { db, actor }: Context,
  lineId: LineId,
  words: string,
): Promise<readonly HsProposal[]> {
  authorise(actor, "orders.work")
  const line = await db("order_line as l")
    .join("sales_order as o", "o.id", "l.order_id")
    .join("item as i", "i.id", "l.item_id")
    .where({ "l.id": lineId, "o.warehouse_id": actor.warehouseId })
    .first("l.item_id", "i.hs_code")
  if (!line) return []
  const before: string[] = await db("item_hs_code")
    .where({ item_id: line.item_id })
    .orderBy("used_at", "desc")
    .limit(5)
    .pluck("hs_code")
  return findHs(words.slice(0, 120), [...new Set([...(line.hs_code ? [line.hs_code] : []), ...before])])
}

/** What the bill of lading of an order's shipment says besides, before it is bought. */
export const ladingForm = ladingSchema.omit({ strokes: true })
export async function saveLading(
  context: Context,
  orderId: OrderId,
  said: Partial<z.infer<typeof ladingSchema>>,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const order = await trx("sales_order")
      .where({ id: orderId, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("id", "joined_to_id")
    if (!order) return refused(reason("order.unknown"))
    const shipment = await trx("shipment")
      .where({ order_id: order.joined_to_id ?? order.id })
      .whereNot("state", "void")
      .forUpdate()
      .first("id", "state", "lading", "version")
    if (!shipment) return refused(reason("lading.no-shipment"))
    if (shipment.state !== "open") return refused(reason("pack.not-open", { state: shipment.state }))
    const had = ladingSchema.parse(parsed(shipment.lading))
    const lading = { ...had, ...said }
    const changes = changesOf(had, lading)
    if (changes.length === 0) return accepted(null)
    await trx("shipment")
      .where({ id: shipment.id })
      .update({ lading: JSON.stringify(lading), version: shipment.version + 1 })
    await record(trx, actor, now, { action: "ship.lading-changed", orderId, detail: { changes } })
    return accepted(null)
  })
}
