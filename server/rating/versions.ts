import type { CarrierId, TariffVersionId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { lintTariff, readTariff, type Tariff, tariffSchema, tariffText } from "core/tariff/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { TariffVersionRow } from "../db/tables.ts"
import { newId } from "../db/there.ts"

export type VersionState = "draft" | "released" | "withdrawn"

export interface VersionRow {
  readonly id: number
  readonly number: number
  readonly state: VersionState
  readonly validFrom: string
  readonly validTo: string | null
  readonly revision: number
  readonly madeBy: string
  readonly madeAt: Date
  readonly releasedBy: string | null
  readonly releasedAt: Date | null
  /** Shipments that were priced by it. */
  readonly shipments: number
}

/** Versions of a carrier's tariff, the newest first. */
export async function versionRows(db: Knex, carrierId: CarrierId): Promise<VersionRow[]> {
  const used = new Map(
    (
      await db("shipment")
        .whereNotNull("tariff_version_id")
        .groupBy("tariff_version_id")
        .select<{ tariff_version_id: number; n: number }[]>("tariff_version_id", db.raw("COUNT(*) AS n"))
    ).map((row) => [row.tariff_version_id, Number(row.n)]),
  )
  const rows = await db("tariff_version")
    .where({ carrier_id: carrierId })
    .orderBy("number", "desc")
    .select(...columns)
  return rows.map((row) => ({ ...rowOf(row), shipments: used.get(row.id) ?? 0 }))
}

const columns = [
  "id",
  "number",
  "state",
  "valid_from",
  "valid_to",
  "revision",
  "made_by",
  "made_at",
  "released_by",
  "released_at",
] as const

const rowOf = (row: Pick<TariffVersionRow, (typeof columns)[number]>): Omit<VersionRow, "shipments"> => ({
  id: row.id,
  number: row.number,
  state: row.state,
  validFrom: row.valid_from,
  validTo: row.valid_to,
  revision: row.revision,
  madeBy: row.made_by,
  madeAt: row.made_at,
  releasedBy: row.released_by,
  releasedAt: row.released_at,
})

/** A version with its document, or null. */
export async function versionOf(
  db: Knex,
  carrierCode: string,
  number: number,
): Promise<(Omit<VersionRow, "shipments"> & { readonly carrierId: CarrierId; readonly tariff: Tariff }) | null> {
  const row = await db("tariff_version")
    .join("carrier", "carrier.id", "tariff_version.carrier_id")
    .where("carrier.code", carrierCode)
    .where({ number })
    .first("tariff_version.*")
  return row ? { ...rowOf(row), carrierId: row.carrier_id, tariff: tariffSchema.parse(parsed(row.body)) } : null
}

interface By {
  readonly name: string
  readonly at: Date
}

/**
 * Keeps the document as a new version of its carrier's tariff, a draft; the same document again as the newest draft is
 * that draft. Throws a ZodError where it is no tariff. Refused where it is another carrier's.
 */
export async function keepDraft(
  db: Knex,
  carrierId: CarrierId,
  document: unknown,
  by: By,
): Promise<Outcome<{ readonly versionId: TariffVersionId; readonly number: number }>> {
  const tariff = tariffSchema.parse(document)
  const carrier = await db("carrier").where({ id: carrierId }).forUpdate().first("code")
  if (!carrier) return refused(reason("tariff.no-carrier"))
  if (carrier.code !== tariff.carrier)
    return refused(reason("tariff.other-carrier", { carrier: tariff.carrier, wanted: carrier.code }))
  const newest = await db("tariff_version").where({ carrier_id: carrierId }).orderBy("number", "desc").first()
  const body = JSON.stringify(tariff)
  if (newest?.state === "draft" && JSON.stringify(parsed(newest.body)) === body)
    return accepted({ versionId: newest.id, number: newest.number })
  const number = (newest?.number ?? 0) + 1
  const versionId = newId(
    await db("tariff_version").insert({
      carrier_id: carrierId,
      number,
      valid_from: tariff.validFrom,
      valid_to: tariff.validTo,
      body,
      made_by: by.name,
      made_at: by.at,
    }),
  )
  return accepted({ versionId: versionId, number })
}

/**
 * Puts a draft in force from its day on, and makes known the services that it names. Refused where the linter finds an error, a
 * service's code is another carrier's, or the version is withdrawn. A version that is in force stays so.
 */
export async function release(db: Knex, versionId: TariffVersionId, by: By): Promise<Outcome<null>> {
  const row = await db("tariff_version").where({ id: versionId }).forUpdate().first()
  if (!row) return refused(reason("tariff.no-version"))
  if (row.state === "released") return accepted(null)
  if (row.state === "withdrawn") return refused(reason("tariff.withdrawn"))
  const tariff = tariffSchema.parse(parsed(row.body))
  const errors = lintTariff(tariff).filter((one) => one.level === "error")
  if (errors.length > 0)
    return refused(reason("tariff.has-errors", { n: errors.length }), ...errors.slice(0, 5).map((one) => one.why))
  const { services } = tariff
  const known = await db("service").whereIn(
    "code",
    services.map((one) => one.code),
  )
  const others = known.filter((one) => one.carrier_id !== row.carrier_id)
  if (others.length > 0) return refused(...others.map((one) => reason("tariff.service-taken", { code: one.code })))
  for (const service of services)
    await db("service")
      .insert({
        carrier_id: row.carrier_id,
        code: service.code,
        name: service.name,
        mode: service.mode,
        returns: service.returns !== null,
      })
      .onConflict("code")
      .merge(["name", "mode", "returns"])
  await db("tariff_version")
    .where({ id: versionId })
    .update({ state: "released", released_by: by.name, released_at: by.at })
  return accepted(null)
}

/** Takes a document from outside in as a new draft. Refused with every place at which it is no tariff. */
export async function importTariff(
  context: Context,
  carrierCode: string,
  text: string,
): Promise<Outcome<{ readonly number: number }>> {
  const { db, actor, now } = context
  authorise(actor, "tariffs.manage")
  const read = readTariff(text)
  if (!read.ok)
    return refused(
      ...read.flaws
        .slice(0, 20)
        .map(({ path, why }) => reason("tariff.flaw", { path: path.join("."), why: why.values.why ?? "" })),
    )
  return inTransaction(db, async (trx) => {
    const carrier = await trx("carrier").where({ code: carrierCode }).first("id")
    if (!carrier) return refused(reason("tariff.no-carrier"))
    const kept = await keepDraft(trx, carrier.id, read.tariff, { name: actor.name, at: now })
    if (!kept.ok) return kept
    await record(trx, actor, now, {
      action: "tariff.imported",
      detail: { carrier: carrierCode, number: kept.value.number },
    })
    return accepted({ number: kept.value.number })
  })
}

/** Changes a draft's document. Refused when it is no draft, or was changed by somebody else since it was read. */
export async function saveDraft(
  context: Context,
  carrierCode: string,
  number: number,
  revision: number,
  text: string,
): Promise<Outcome<{ readonly revision: number }>> {
  const { actor, now } = context
  authorise(actor, "tariffs.manage")
  const read = readTariff(text)
  if (!read.ok)
    return refused(
      ...read.flaws
        .slice(0, 20)
        .map(({ path, why }) => reason("tariff.flaw", { path: path.join("."), why: why.values.why ?? "" })),
    )
  return change(context, carrierCode, number, async (trx, row) => {
    if (row.state !== "draft") return refused(reason("tariff.no-draft"))
    const same = tariffText(tariffSchema.parse(parsed(row.body))) === tariffText(read.tariff)
    if (same) return accepted({ revision: row.revision })
    if (row.revision !== revision) return refused(reason("tariff.changed-meanwhile"))
    if (read.tariff.carrier !== carrierCode)
      return refused(reason("tariff.other-carrier", { carrier: read.tariff.carrier, wanted: carrierCode }))
    const { validFrom: valid_from, validTo: valid_to } = read.tariff
    await trx("tariff_version")
      .where({ id: row.id })
      .update({ body: JSON.stringify(read.tariff), revision: row.revision + 1, valid_from, valid_to })
    await record(trx, actor, now, { action: "tariff.saved", detail: { carrier: carrierCode, number } })
    return accepted({ revision: row.revision + 1 })
  })
}

/** Puts a draft in force, takes a version out of force, or throws a draft away. */
export const changeVersion = (
  context: Context,
  carrierCode: string,
  number: number,
  what: "release" | "withdraw" | "drop",
): Promise<Outcome<null>> =>
  change(context, carrierCode, number, async (trx, row) => {
    const { actor, now } = context
    if (what === "release") {
      const outcome = await release(trx, row.id, { name: actor.name, at: now })
      if (!outcome.ok || row.state === "released") return outcome
    } else if (what === "withdraw") {
      if (row.state === "withdrawn") return accepted(null)
      if (row.state !== "released") return refused(reason("tariff.not-in-force"))
      await trx("tariff_version").where({ id: row.id }).update({ state: "withdrawn" })
    } else {
      if (row.state !== "draft") return refused(reason("tariff.no-draft"))
      await trx("tariff_version").where({ id: row.id }).delete()
    }
    await record(trx, actor, now, { action: `tariff.${what}`, detail: { carrier: carrierCode, number } })
    return accepted(null)
  })

/** A copy of a version as a new draft, to be changed. */
export const copyVersion = (
  context: Context,
  carrierCode: string,
  number: number,
): Promise<Outcome<{ readonly number: number }>> =>
  change(context, carrierCode, number, async (trx, row) => {
    const { actor, now } = context
    const kept = await keepDraft(trx, row.carrier_id, parsed(row.body), { name: actor.name, at: now })
    if (!kept.ok) return kept
    await record(trx, actor, now, {
      action: "tariff.copied",
      detail: { carrier: carrierCode, from: number, number: kept.value.number },
    })
    return accepted({ number: kept.value.number })
  })

async function change<T>(
  { db, actor }: Context,
  carrierCode: string,
  number: number,
  work: (trx: Knex, row: TariffVersionRow) => Promise<Outcome<T>>,
): Promise<Outcome<T>> {
  authorise(actor, "tariffs.manage")
  return inTransaction(db, async (trx) => {
    const row = await trx("tariff_version")
      .join("carrier", "carrier.id", "tariff_version.carrier_id")
      .where("carrier.code", carrierCode)
      .where({ number })
      .forUpdate()
      .first("tariff_version.*")
    return row ? work(trx, row) : refused(reason("tariff.no-version"))
  })
}
