import { isLocalDate, type LocalDate } from "core/calendar/index.ts"
import type { WarehouseId } from "core/ids/index.ts"
import { knownCurrency } from "core/money/index.ts"
import { type ShipperSettings, shipperSchema } from "core/papers/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { parse } from "csv-parse/sync"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { csvText } from "../formats/csvOut.ts"
import { pictureOf } from "../pdf/picture.ts"

/** Dated tables that papers go by, each imported and exported as CSV. */
export const tableKinds = ["exchange", "imports", "duties"] as const
export type TableKind = (typeof tableKinds)[number]

/** Rows of a file, at most. */
const most = 20_000

type Cells = Readonly<Record<string, string>>
type Row = Readonly<Record<string, string | null>>

const date = (text = ""): LocalDate | null => (isLocalDate(text) ? text : null)
const country = (text = ""): string | null => (/^[A-Z]{2}$/.test(text) ? text : null)
const share = (text = ""): string | null => (/^(0(\.\d{1,5})?|1(\.0{1,5})?)$/.test(text) ? text : null)
const limit = (text = ""): string | null | undefined =>
  text === "" ? null : /^\d{1,9}(\.\d{1,2})?$/.test(text) ? text : undefined
const currency = (text = ""): string | null => (knownCurrency(text) ? text : null)

/** Of each table its columns in a file, where they are kept, and how a row is read: its columns, or the one that is wrong. */
const tables: Readonly<
  Record<
    TableKind,
    {
      readonly table: "exchange_rate" | "import_rule" | "duty_rate"
      readonly columns: readonly (readonly [name: string, column: string])[]
      readonly read: (cells: Cells) => Row | string
    }
  >
> = {
  exchange: {
    table: "exchange_rate",
    columns: [
      ["date", "on_date"],
      ["from", "from_currency"],
      ["to", "to_currency"],
      ["rate", "rate"],
    ],
    read: (cells) => {
      const [on_date, from_currency, to_currency] = [date(cells.date), currency(cells.from), currency(cells.to)]
      if (!on_date) return "date"
      if (!from_currency) return "from"
      if (!to_currency || to_currency === from_currency) return "to"
      if (!/^\d{1,9}(\.\d{1,10})?$/.test(cells.rate ?? "") || Number(cells.rate) === 0) return "rate"
      return { on_date, from_currency, to_currency, rate: cells.rate ?? "" }
    },
  },
  imports: {
    table: "import_rule",
    columns: [
      ["country", "country"],
      ["from", "valid_from"],
      ["currency", "currency"],
      ["duty_free", "duty_free"],
      ["tax_free", "tax_free"],
      ["tax", "tax_share"],
      ["basis", "basis"],
      ["one_stop", "one_stop"],
    ],
    read: (cells) => {
      const found = {
        country: country(cells.country),
        valid_from: date(cells.from),
        currency: currency(cells.currency),
        tax_share: share(cells.tax),
      }
      if (!found.country) return "country"
      if (!found.valid_from) return "from"
      if (!found.currency) return "currency"
      if (!found.tax_share) return "tax"
      const limits = {
        duty_free: limit(cells.duty_free),
        tax_free: limit(cells.tax_free),
        one_stop: limit(cells.one_stop),
      }
      for (const [name, value] of Object.entries(limits)) if (value === undefined) return name
      if (!/^(fob|cif)$/.test(cells.basis ?? "")) return "basis"
      return { ...found, ...(limits as Record<string, string | null>), basis: cells.basis ?? "" }
    },
  },
  duties: {
    table: "duty_rate",
    columns: [
      ["country", "country"],
      ["from", "valid_from"],
      ["code", "prefix"],
      ["origin", "origin"],
      ["duty", "share"],
    ],
    read: (cells) => {
      const prefix = (cells.code ?? "").replaceAll(".", "")
      if (!country(cells.country)) return "country"
      if (!date(cells.from)) return "from"
      if (!/^\d{0,10}$/.test(prefix)) return "code"
      if (cells.origin !== "" && !country(cells.origin)) return "origin"
      if (!share(cells.duty)) return "duty"
      return {
        country: cells.country ?? "",
        valid_from: cells.from ?? "",
        prefix,
        origin: cells.origin ?? "",
        share: cells.duty ?? "",
      }
    },
  },
}

/**
 * Takes rows of a dated table in from CSV. What is there already of the same day is replaced, all else stays. Refused
 * whole with the line and column of the first faults, so that nothing is lost and nothing is half there.
 */
export async function putTable(context: Context, kind: TableKind, csv: string): Promise<Outcome<{ rows: number }>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  const { table, columns, read } = tables[kind]
  let cells: Cells[]
  try {
    cells = parse(csv, {
      bom: true,
      columns: (header: string[]) => header.map((name) => name.trim().toLowerCase()),
      skip_empty_lines: true,
      trim: true,
      max_record_size: 2_000,
    })
  } catch (error) {
    return refused(reason("table.not-csv", { detail: (error as Error).message.slice(0, 80) }))
  }
  if (cells.length > most) return refused(reason("table.too-many", { most }))
  if (cells.length === 0) return refused(reason("table.empty", { columns: columns.map(([name]) => name).join(", ") }))
  const wrong: Reason[] = []
  const rows: Row[] = []
  for (const [at, one] of cells.entries()) {
    const row = read(one)
    if (typeof row === "string")
      wrong.push(reason("table.wrong", { line: at + 2, column: row, value: (one[row] ?? "").slice(0, 40) }))
    else rows.push(row)
  }
  if (wrong.length > 0) return refused(...wrong.slice(0, 8))
  await inTransaction(db, async (trx) => {
    for (let at = 0; at < rows.length; at += 500)
      await trx(table)
        .insert(rows.slice(at, at + 500) as never)
        .onConflict()
        .merge()
    await record(trx, actor, now, { action: "papers.table-put", detail: { table: kind, rows: rows.length } })
  })
  return accepted({ rows: rows.length })
}

/** Rows of a dated table as they are shown, the latest first. */
export async function tableRows(db: Knex, kind: TableKind, limitTo = most): Promise<string[][]> {
  const { table, columns } = tables[kind]
  const rows = await db(table)
    .orderBy(kind === "exchange" ? "on_date" : "valid_from", "desc")
    .limit(limitTo)
  return rows
    .map((row) => ({ ...row }) as Readonly<Record<string, unknown>>)
    .map((row) => columns.map(([, column]) => shown(row[column])))
}

export const tableColumns = (kind: TableKind): string[] => tables[kind].columns.map(([name]) => name)

/** Figures without the zeros that the database fills them up with. */
const shown = (value: unknown): string =>
  typeof value === "string" && /^\d+\.\d*0+$/.test(value) ? value.replace(/\.?0+$/, "") : String(value ?? "")

/** A dated table as CSV, as it is imported. */
export const tableCsv = async (db: Knex, kind: TableKind): Promise<string> =>
  csvText(
    tableColumns(kind),
    (await tableRows(db, kind)).map((row) =>
      Object.fromEntries(tableColumns(kind).map((name, at) => [name, row[at] ?? ""])),
    ),
  )

/** Keeps what papers say of the shipper. Refused where somebody else changed the warehouse meanwhile. */
export async function saveShipper(
  context: Context,
  { version, ...shipper }: ShipperSettings & { readonly version: number },
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const row = await trx("warehouse").where({ id: actor.warehouseId }).forUpdate().first("shipper", "version")
    const had = shipperSchema.parse(parsed(row?.shipper ?? "{}"))
    const changes = Object.entries(shipper)
      .map(([field, to]) => ({ field, from: had[field as keyof ShipperSettings], to }))
      .filter((one) => one.from !== one.to)
    if (changes.length === 0) return accepted(null)
    if (row?.version !== version) return refused(reason("shipper.changed-meanwhile"))
    await trx("warehouse")
      .where({ id: actor.warehouseId })
      .update({ shipper: JSON.stringify(shipper), version: version + 1 })
    await record(trx, actor, now, { action: "papers.shipper-changed", detail: { changes } })
    return accepted(null)
  })
}

/** Whether papers of the warehouse carry a picture of a signature. */
export const hasSignature = async ({ db, actor }: Context): Promise<boolean> =>
  (await db("warehouse").where({ id: actor.warehouseId }).whereNotNull("signature").first("id")) !== undefined

/** The picture that papers of a warehouse are signed with: that of the person who is named, and of nobody else. */
export async function signatureOf(db: Knex, warehouseId: WarehouseId): Promise<Buffer | null> {
  const row = await db("warehouse").where({ id: warehouseId }).first("signature", "shipper")
  return row?.shipper && shipperSchema.parse(parsed(row.shipper)).signer !== "" ? row.signature : null
}

/** Keeps the picture of the signature that papers carry, or takes it away. Refused for what can't be drawn. */
export async function saveSignature(context: Context, bytes: Buffer | null): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  const taken = bytes && pictureOf(bytes)
  if (taken && "refused" in taken) return refused(taken.refused)
  const signature = taken?.picture ?? null
  await inTransaction(db, async (trx) => {
    await trx("warehouse").where({ id: actor.warehouseId }).update({ signature })
    await record(trx, actor, now, { action: signature ? "papers.signature-put" : "papers.signature-removed" })
  })
  return accepted(null)
}

/** Adds a word that says nothing of goods, or takes it off the list. Safe to repeat. */
export async function setVagueWord(context: Context, typed: string, on: boolean): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "warehouse.manage")
  const word = typed.trim().toLowerCase()
  if (!/^\p{L}{3,40}$/u.test(word)) return refused(reason("vague.word"))
  await inTransaction(db, async (trx) => {
    const had = await trx("vague_word").where({ word }).first("word")
    if (!!had === on) return
    if (on) await trx("vague_word").insert({ word, added_by: actor.name, added_at: now })
    else await trx("vague_word").where({ word }).delete()
    await record(trx, actor, now, { action: on ? "papers.vague-added" : "papers.vague-removed", detail: { word } })
  })
  return accepted(null)
}
