import { createHash } from "node:crypto"
import { type LocalDate, localDate } from "core/calendar/index.ts"
import {
  type ClaimKind,
  type ClaimState,
  type ClaimTerms,
  claimKinds,
  claimTermsSchema,
  mostPhoto,
  nextStates,
} from "core/claims/index.ts"
import type { CarrierId, WarehouseId } from "core/ids/index.ts"
import { moneyText } from "core/money/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { announce, parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { ClaimRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { unprintable } from "../pdf/page.ts"
import { pictureOf } from "../pdf/picture.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { type ClaimFacts, type ClaimGoods, claimFacts, claimOf, hasLeft, termsOf } from "./facts.ts"

/** Photos of one claim, at most. */
export const mostPhotos = 12

export const claimForm = z.object({
  kind: z.enum(claimKinds),
  happened: z.string().trim().max(1_000).default(""),
  /** Other packages of the shipment that are part of it. */
  units: z.array(z.number().int().min(1)).max(200).default([]),
  goods: z
    .array(
      z.object({
        lineId: z.number().int().min(1),
        pieces: z.number().int().min(0).max(1_000_000),
        unitValue: z.string().regex(/^\d{1,9}(\.\d{1,6})?$/, { error: "claim.value" }),
      }),
    )
    .max(400),
  /** Papers of the shipment that go along. */
  papers: z.array(z.number().int().min(1)).max(60).default([]),
  version: z.coerce.number().int().min(0).catch(0).default(0),
})
export type ClaimForm = z.infer<typeof claimForm>

/** What a row keeps as JSON. */
export const kept = (row: ClaimRow) => ({
  facts: parsed<ClaimFacts>(row.facts),
  goods: parsed<readonly ClaimGoods[]>(row.goods),
  units: parsed<readonly number[]>(row.units),
  papers: parsed<readonly number[]>(row.papers),
})

/** What of a package goes into a claim before anybody has said: all of it. */
const allOf = (facts: ClaimFacts): ClaimGoods[] =>
  facts.lines.map((one) => ({ lineId: one.lineId, pieces: one.pieces, unitValue: one.unitValue ?? "0" }))

/** The claim of a package that is not settled yet, if there is one that it is part of. */
async function openOf(db: Knex, orderId: number, unitId: number, kind: ClaimKind): Promise<ClaimRow | undefined> {
  const rows = await db("claim").where({ order_id: orderId, kind }).whereNotIn("state", ["paid", "withdrawn"])
  return rows.find((row) => parsed<number[]>(row.units).includes(unitId))
}

/**
 * Begins a claim for a package, with all that is known of it: its goods at their value, the carrier's last day for it.
 * Where there is one already that is not settled, that. Refused for what never left.
 */
export async function openClaim(
  context: Context,
  unitId: number,
  kind: ClaimKind,
): Promise<Outcome<{ readonly number: number }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const unit = await db("tracked_unit")
    .where({ id: unitId, warehouse_id: actor.warehouseId })
    .whereNull("void_at")
    .first()
  if (!unit) return refused(reason("claim.no-package"))
  if (!hasLeft(unit)) return refused(reason("claim.not-left", { package: unit.name }))
  const { currency } = await warehouseById(db, actor.warehouseId)
  const known = await claimFacts(db, actor.warehouseId, unit.order_id, [unitId], currency)
  if (!known) return refused(reason("claim.no-package"))
  const terms = await termsOf(db, unit.carrier_id)
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly number: number }>> => {
    await trx("warehouse").where({ id: actor.warehouseId }).forUpdate().first("id")
    const before = await openOf(trx, unit.order_id, unitId, kind)
    if (before) return accepted({ number: before.number })
    const last = (await trx("claim").where({ warehouse_id: actor.warehouseId }).max({ most: "number" }).first())?.most
    const number = Number(last ?? 0) + 1
    const goods = allOf(known.facts)
    const { amounts, fileBy } = claimOf(kind, known.facts, goods, terms, currency)
    const { happened, papers } = await suggested(trx, unit.order_id, unitId, kind)
    await trx("claim").insert({
      warehouse_id: actor.warehouseId,
      number,
      order_id: unit.order_id,
      unit_id: unitId,
      units: JSON.stringify([unitId]),
      carrier_id: unit.carrier_id,
      carrier: unit.carrier,
      kind,
      happened,
      goods: JSON.stringify(goods),
      currency,
      facts: JSON.stringify(known.facts),
      amounts: JSON.stringify(amounts),
      total: amounts.total.amount.toFixed(4),
      file_by: fileBy,
      papers: JSON.stringify(papers),
      made_at: now,
      made_by: actor.name,
    })
    await record(trx, actor, now, {
      action: "claim.opened",
      orderId: unit.order_id,
      detail: { number, kind, carrier: unit.carrier, amount: moneyText(amounts.total) },
    })
    return accepted({ number })
  })
}

/** What the carrier's people said of a package, and the papers that usually go with a claim (common practice). */
async function suggested(db: Knex, orderId: number, unitId: number, kind: ClaimKind) {
  const unit = there(await db("tracked_unit").where({ id: unitId }).first())
  const said =
    kind === "loss"
      ? []
      : await db("tracking_event")
          .where({ kind: "damaged" })
          .where((any) =>
            any
              .where({ unit_id: unitId })
              .orWhere((carried) =>
                carried.where({ carrier_id: unit.carrier_id, tracking: unit.tracking }).whereNotNull("carrier_id"),
              ),
          )
          .orderBy("at")
          .limit(5)
          .select("text", "place")
  const papers: number[] = await db("document")
    .where({ order_id: orderId })
    .whereIn("kind", ["invoice", "bill-of-lading", "packing-list", "packing-slip"])
    .where({ media: "application/pdf" })
    .whereNull("void_at")
    .orderBy("id", "desc")
    .limit(6)
    .pluck("id")
  return {
    happened: said
      .map((one) => [one.text, one.place].filter(Boolean).join(", "))
      .filter(Boolean)
      .join("\n")
      .slice(0, 1_000),
    papers,
  }
}

/** The claim by its number, held; with its order held before, as everything locks. */
async function held(trx: Knex, { actor }: Context, number: number): Promise<ClaimRow | undefined> {
  return trx("claim").where({ warehouse_id: actor.warehouseId, number }).forUpdate().first()
}

/** Saves what is claimed, as long as it was not filed; refused where somebody else changed it, or it names what it can't. */
export async function saveClaim(
  context: Context,
  number: number,
  said: ClaimForm,
): Promise<Outcome<{ readonly number: number }>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const at = await db("claim").where({ warehouse_id: actor.warehouseId, number }).first()
  if (!at) return refused(reason("claim.gone", { number }))
  const unitIds = [...new Set([at.unit_id, ...said.units])]
  const known = await claimFacts(db, actor.warehouseId, at.order_id, unitIds, at.currency)
  // what goes out and what comes back is never one claim
  if (!known || known.units.length !== unitIds.length || new Set(known.units.map((one) => one.return_id)).size > 1)
    return refused(reason("claim.no-package"))
  const signs = unprintable(said.happened)
  if (signs !== "")
    return refused(reason("claim.signs", { signs: [...signs].slice(0, 12).join(""), field: "happened" }))
  const terms = await termsOf(db, at.carrier_id)
  const goods = said.goods.filter((one) => one.pieces > 0)
  for (const one of goods) {
    const line = known.facts.lines.find((each) => each.lineId === one.lineId)
    if (!line) return refused(reason("claim.not-in-it"))
    if (one.pieces > line.pieces) return refused(reason("claim.too-many", { sku: line.sku, held: line.pieces }))
  }
  const { amounts, fileBy } = claimOf(said.kind, known.facts, goods, terms, at.currency)
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly number: number }>> => {
    const row = there(await held(trx, context, number))
    const same = {
      kind: said.kind,
      happened: said.happened,
      goods: JSON.stringify(goods),
      units: JSON.stringify(unitIds),
      papers: JSON.stringify(said.papers),
    }
    const was = kept(row)
    const before = {
      kind: row.kind,
      happened: row.happened,
      goods: JSON.stringify(was.goods),
      units: JSON.stringify(was.units),
      papers: JSON.stringify(was.papers),
    }
    if (JSON.stringify(same) === JSON.stringify(before)) return accepted({ number })
    if (row.state !== "draft") return refused(reason("claim.is-filed", { number }))
    if (row.version !== said.version) return refused(reason("claim.changed"))
    const other = await openOf(trx, row.order_id, row.unit_id, said.kind)
    if (other && other.id !== row.id) return refused(reason("claim.twice", { number: other.number }))
    await trx("claim")
      .where({ id: row.id })
      .update({
        ...same,
        facts: JSON.stringify(known.facts),
        amounts: JSON.stringify(amounts),
        total: amounts.total.amount.toFixed(4),
        file_by: fileBy,
        version: row.version + 1,
      })
    await announce(trx, { orderId: row.order_id })
    return accepted({ number })
  })
}

/** Adds a photo to a claim that was not filed yet: a JPEG or PNG; the same one again is nothing new. */
export async function addPhoto(
  context: Context,
  number: number,
  file: { readonly name: string; readonly bytes: Buffer },
): Promise<Outcome<{ readonly name: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const read = pictureOf(file.bytes, mostPhoto)
  if ("refused" in read) return refused(read.refused)
  const media = read.picture[0] === 0xff ? "image/jpeg" : "image/png"
  const sha256 = createHash("sha256").update(file.bytes).digest("hex")
  const name = file.name.replace(/[^\p{L}\p{N} ._-]+/gu, "").slice(0, 100) || media
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly name: string }>> => {
    const row = await held(trx, context, number)
    if (!row) return refused(reason("claim.gone", { number }))
    if (row.state !== "draft") return refused(reason("claim.is-filed", { number }))
    const photos = await trx("claim_photo").where({ claim_id: row.id }).select("sha256")
    if (photos.some((one) => one.sha256 === sha256)) return accepted({ name })
    if (photos.length >= mostPhotos) return refused(reason("claim.many-photos", { most: mostPhotos }))
    await trx("claim_photo").insert({
      claim_id: row.id,
      name,
      media,
      sha256,
      bytes: read.picture,
      added_at: now,
      added_by: actor.name,
    })
    await announce(trx, { orderId: row.order_id })
    return accepted({ name })
  })
}

/** Takes a photo off a claim that was not filed yet. Again changes nothing. */
export async function removePhoto(context: Context, number: number, photoId: number): Promise<Outcome<null>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const row = await held(trx, context, number)
    if (!row) return refused(reason("claim.gone", { number }))
    if (row.state !== "draft") return refused(reason("claim.is-filed", { number }))
    await trx("claim_photo").where({ id: photoId, claim_id: row.id }).delete()
    await announce(trx, { orderId: row.order_id })
    return accepted(null)
  })
}

const day = z
  .string()
  .trim()
  .refine((text) => text === "" || /^\d{4}-\d\d-\d\d$/.test(text), { error: "stock.day" })
  .default("")
export const answerForm = z.object({
  to: z.enum(["acknowledged", "paid", "denied", "withdrawn"]),
  reference: z.string().trim().max(60).default(""),
  on: day,
  paid: z
    .string()
    .trim()
    .refine((text) => text === "" || /^\d{1,9}(\.\d{1,2})?$/.test(text), { error: "claim.value" })
    .default(""),
  note: z.string().trim().max(300).default(""),
})

/** Whether a claim stands so already, by all that is said; what is left out is not asked for. */
const isSaid = (row: ClaimRow, said: z.infer<typeof answerForm>): boolean =>
  row.state === said.to &&
  (said.to !== "paid" || Number(said.paid) === Number(row.paid)) &&
  (said.reference === "" || said.reference === row.reference) &&
  (said.note === "" || said.note === row.note) &&
  (said.on === "" || said.on === (said.to === "acknowledged" ? row.acknowledged_on : row.settled_on))

/**
 * Notes what became of a claim: acknowledged with the carrier's own number, paid so much, denied or withdrawn with the
 * reason. Again the same changes nothing; refused where it can't follow what it stands at.
 */
export async function answerClaim(
  context: Context,
  number: number,
  said: z.infer<typeof answerForm>,
): Promise<Outcome<{ readonly state: ClaimState }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const { zone } = await warehouseById(db, actor.warehouseId)
  const today = localDate(now, zone)
  const on = (said.on || today) as LocalDate
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly state: ClaimState }>> => {
    const row = await held(trx, context, number)
    if (!row) return refused(reason("claim.gone", { number }))
    if (isSaid(row, said)) return accepted({ state: said.to })
    if (!nextStates[row.state].includes(said.to)) return refused(reason("claim.not-now", { number }))
    if (on > today || (row.filed_on !== null && on < row.filed_on)) return refused(reason("claim.day", { field: "on" }))
    if (said.to === "paid" && !(Number(said.paid) > 0)) return refused(reason("claim.how-much", { field: "paid" }))
    if (said.to === "paid" && Number(said.paid) > Number(row.total))
      return refused(reason("claim.paid-more", { total: Number(row.total).toFixed(2), field: "paid" }))
    if ((said.to === "denied" || said.to === "withdrawn") && said.note === "")
      return refused(reason("claim.why", { field: "note" }))
    await trx("claim")
      .where({ id: row.id })
      .update({
        state: said.to,
        ...(said.reference === "" ? {} : { reference: said.reference }),
        ...(said.to === "acknowledged" ? { acknowledged_on: on } : { settled_on: on }),
        ...(said.to === "paid" ? { paid: said.paid } : {}),
        ...(said.note === "" ? {} : { note: said.note }),
        version: row.version + 1,
      })
    await record(trx, actor, now, {
      action: `claim.${said.to}`,
      orderId: row.order_id,
      detail: {
        number,
        carrier: row.carrier,
        reference: said.reference,
        amount: { amount: Number(said.paid || 0).toFixed(2), currency: row.currency },
        why: said.note,
      },
    })
    return accepted({ state: said.to })
  })
}

const money = z
  .string()
  .trim()
  .refine((text) => text === "" || /^\d{1,9}(\.\d{1,4})?$/.test(text), { error: "claim.value" })
  .default("")
const within = z.coerce.number().int().min(1, { error: "claim.within" }).max(400, { error: "claim.within" })
const unit = z.enum(["days", "months"])
export const termsForm = z.object({
  carrier: z.coerce.number().int().min(1),
  email: z.union([z.literal(""), z.email({ error: "tell.no-mail" }).max(120)]).default(""),
  loss: within,
  lossUnit: unit,
  lossFrom: z.enum(["shipped", "due"]),
  damage: within,
  damageUnit: unit,
  perPackage: money,
  perPound: money,
  freight: z.literal("on").optional(),
})

/** Sets a carrier's terms for claims; drafts are worked out by them when they are saved next. */
export async function setClaimTerms(
  { db, actor, now }: Context,
  said: z.infer<typeof termsForm>,
): Promise<Outcome<{ readonly carrier: string }>> {
  authorise(actor, "tariffs.manage")
  const terms: ClaimTerms = claimTermsSchema.parse({
    email: said.email,
    lossWithin: { n: said.loss, unit: said.lossUnit },
    lossFrom: said.lossFrom,
    damageWithin: { n: said.damage, unit: said.damageUnit },
    perPackage: said.perPackage || null,
    perPound: said.perPound || null,
    freight: said.freight === "on",
  })
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly carrier: string }>> => {
    const carrier = await trx("carrier").where({ id: said.carrier }).forUpdate().first("name", "claim_terms")
    if (!carrier) return refused(reason("claim.no-carrier"))
    const before = carrier.claim_terms ? JSON.stringify(parsed(carrier.claim_terms)) : ""
    if (before === JSON.stringify(terms)) return accepted({ carrier: carrier.name })
    await trx("carrier")
      .where({ id: said.carrier })
      .update({ claim_terms: JSON.stringify(terms) })
    await record(trx, actor, now, { action: "claim.terms-set", detail: { carrier: carrier.name } })
    return accepted({ carrier: carrier.name })
  })
}

/** All carriers with their terms for claims. */
export async function allTerms(db: Knex): Promise<{ id: CarrierId; name: string; terms: ClaimTerms; own: boolean }[]> {
  const rows = await db("carrier").orderBy("name").select("id", "name", "claim_terms")
  return Promise.all(
    rows.map(async (row) => ({
      id: row.id,
      name: row.name,
      terms: await termsOf(db, row.id),
      own: row.claim_terms !== null,
    })),
  )
}

export const claimNumbered = (db: Knex, warehouseId: WarehouseId, number: number): Promise<ClaimRow | undefined> =>
  db("claim").where({ warehouse_id: warehouseId, number }).first()
