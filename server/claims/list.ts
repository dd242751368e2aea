import { addDays, type LocalDate, localDate } from "core/calendar/index.ts"
import { acknowledgedBy, answerDays, answeredBy, type ClaimList } from "core/claims/index.ts"
import type { ClaimId, WarehouseId } from "core/ids/index.ts"
import type { MoneyText } from "core/money/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import type { ClaimRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { likeInAnyCase } from "../db/words.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { kept } from "./claims.ts"
import { type ClaimFacts, type ClaimGoods, termsOf } from "./facts.ts"

export interface ClaimSummary {
  readonly id: ClaimId
  readonly number: number
  readonly kind: ClaimRow["kind"]
  readonly state: ClaimRow["state"]
  readonly carrier: string
  readonly orderNumber: string
  readonly customer: string
  readonly tracking: readonly string[]
  readonly total: MoneyText
  readonly paid: MoneyText | null
  /** What is due next, and when; null: nothing. */
  readonly next: {
    readonly what: "file" | "acknowledge" | "answer"
    readonly day: LocalDate
    readonly over: boolean
  } | null
}

export interface ClaimSearch {
  readonly text: string
  readonly list: ClaimList
  readonly page: number
}

/** Claims on a page. */
export const claimsAtOnce = 50

function nextOf(row: ClaimRow, today: LocalDate): ClaimSummary["next"] {
  const due = (what: "file" | "acknowledge" | "answer", day: LocalDate) => ({ what, day, over: day < today })
  if (row.state === "draft") return due("file", row.file_by)
  if (row.filed_on && row.state === "filed") return due("acknowledge", acknowledgedBy(row.filed_on))
  if (row.filed_on && row.state === "acknowledged") return due("answer", answeredBy(row.filed_on))
  return null
}

type Listed = ClaimRow & { readonly order_number: string; readonly customer_name: string }

const summaryOf = (row: Listed, today: LocalDate): ClaimSummary => ({
  id: row.id,
  number: row.number,
  kind: row.kind,
  state: row.state,
  carrier: row.carrier,
  orderNumber: row.order_number,
  customer: row.customer_name,
  tracking: kept(row).facts.tracking,
  total: { amount: Number(row.total).toFixed(2), currency: row.currency },
  paid: row.paid === null ? null : { amount: Number(row.paid).toFixed(2), currency: row.currency },
  next: nextOf(row, today),
})

const listed = (db: Knex, warehouseId: WarehouseId) =>
  db("claim as c").join("sales_order as o", "o.id", "c.order_id").where("c.warehouse_id", warehouseId)

function narrow(query: Knex.QueryBuilder, list: ClaimList, today: LocalDate): void {
  if (list === "draft") query.where("c.state", "draft")
  else if (list === "settled") query.whereIn("c.state", ["paid", "denied", "withdrawn"])
  else if (list === "open") query.whereIn("c.state", ["filed", "acknowledged"])
  else
    query.where((any) => {
      for (const state of ["filed", "acknowledged"] as const)
        any.orWhere((late) => late.where("c.state", state).where("c.filed_on", "<", addDays(today, -answerDays[state])))
    })
}

const todayAt = async (db: Knex, warehouseId: WarehouseId, now: Date): Promise<LocalDate> =>
  localDate(now, (await warehouseById(db, warehouseId)).zone)

/** Claims of a warehouse, those to be filed first first; one more than a page where there are more. */
export async function searchClaims(
  db: Knex,
  warehouseId: WarehouseId,
  search: ClaimSearch,
  now: Date,
): Promise<ClaimSummary[]> {
  const today = await todayAt(db, warehouseId, now)
  const query = listed(db, warehouseId)
    .limit(claimsAtOnce + 1)
    .offset((search.page - 1) * claimsAtOnce)
    .select("c.*", "o.order_number", "o.customer_name")
  const text = search.text.trim()
  if (text === "") {
    narrow(query, search.list, today)
    if (search.list === "draft") query.orderBy("c.file_by")
  } else {
    const like = `%${text.replace(/[\\%_]/g, "\\$&")}%`
    const number = /^(?:CL-?)?(\d{1,9})$/i.exec(text)?.[1]
    query.where((any) => {
      any
        .where("o.order_number", text)
        .orWhere("c.reference", text)
        .orWhereRaw(likeInAnyCase(db, "c.carrier", like))
        .orWhereRaw(likeInAnyCase(db, "o.customer_name", like))
        .orWhereRaw("JSON_CONTAINS(JSON_EXTRACT(c.facts, '$.tracking'), JSON_QUOTE(?))", [text])
      if (number) any.orWhere("c.number", Number(number))
    })
  }
  query.orderBy("c.id", "desc")
  return ((await query) as Listed[]).map((row) => summaryOf(row, today))
}

/** How many claims of a warehouse are in each list. */
export async function openClaims(
  db: Knex,
  warehouseId: WarehouseId,
  now: Date,
): Promise<Readonly<Record<"draft" | "open" | "overdue", number>>> {
  const today = await todayAt(db, warehouseId, now)
  const count = async (list: ClaimList) => {
    const query = db("claim as c").where("c.warehouse_id", warehouseId)
    narrow(query, list, today)
    return Number((await query.count({ n: "*" }).first())?.n ?? 0)
  }
  return { draft: await count("draft"), open: await count("open"), overdue: await count("overdue") }
}

interface AmountTexts {
  readonly goods: MoneyText
  readonly freight: MoneyText
  readonly total: MoneyText
  readonly limit: MoneyText | null
  readonly expected: MoneyText
}

export interface ClaimWhole extends ClaimSummary {
  readonly happened: string
  readonly facts: ClaimFacts
  readonly goods: readonly ClaimGoods[]
  readonly amounts: AmountTexts
  readonly currency: string
  readonly version: number
  readonly filedOn: LocalDate | null
  readonly filedTo: string
  readonly filedBy: string
  readonly document: number | null
  readonly reference: string
  readonly acknowledgedOn: LocalDate | null
  readonly settledOn: LocalDate | null
  readonly note: string
  readonly email: string
  readonly photos: readonly { readonly id: number; readonly name: string }[]
  /** Papers of the shipment, with those that go along. */
  readonly papers: readonly {
    readonly id: number
    readonly kind: string
    readonly name: string
    readonly chosen: boolean
  }[]
  /** Other packages that left with it, or come back with it. */
  readonly others: readonly { readonly id: number; readonly name: string; readonly chosen: boolean }[]
}

/** A claim of the warehouse with all that it is made of; null: there is none of the number. */
export async function claimWhole(
  db: Knex,
  warehouseId: WarehouseId,
  number: number,
  now: Date,
): Promise<ClaimWhole | null> {
  const row = (await listed(db, warehouseId)
    .where("c.number", number)
    .first("c.*", "o.order_number", "o.customer_name")) as Listed | undefined
  if (!row) return null
  const own = kept(row)
  const cents = ({ amount, currency }: MoneyText): MoneyText => ({ amount: Number(amount).toFixed(2), currency })
  const amounts = parsed<AmountTexts>(row.amounts)
  const papers = await db("document")
    .where({ warehouse_id: warehouseId, order_id: row.order_id, media: "application/pdf" })
    .whereNull("void_at")
    .whereNotIn("kind", ["claim", "return-label", "test-label"])
    .orderBy("id")
    .limit(60)
    .select("id", "kind", "name")
  const unit = there(await db("tracked_unit").where({ id: row.unit_id }).first("return_id"))
  const others = await db("tracked_unit")
    .where({ warehouse_id: warehouseId, order_id: row.order_id })
    .where((same) =>
      unit.return_id === null ? same.whereNull("return_id") : same.where({ return_id: unit.return_id }),
    )
    .where((seen) => seen.whereNotNull("left_at").orWhereNotNull("seen_at"))
    .whereNot({ id: row.unit_id })
    .whereNull("void_at")
    .orderBy("id")
    .limit(200)
    .select("id", "name")
  return {
    ...summaryOf(row, await todayAt(db, warehouseId, now)),
    happened: row.happened,
    facts: own.facts,
    goods: own.goods,
    amounts: {
      goods: cents(amounts.goods),
      freight: cents(amounts.freight),
      total: cents(amounts.total),
      limit: amounts.limit ? cents(amounts.limit) : null,
      expected: cents(amounts.expected),
    },
    currency: row.currency,
    version: row.version,
    filedOn: row.filed_on,
    filedTo: row.filed_to,
    filedBy: row.filed_by,
    document: row.document_id,
    reference: row.reference,
    acknowledgedOn: row.acknowledged_on,
    settledOn: row.settled_on,
    note: row.note,
    email: (await termsOf(db, row.carrier_id)).email,
    photos: await db("claim_photo").where({ claim_id: row.id }).orderBy("id").select("id", "name"),
    papers: papers.map((one) => ({ ...one, chosen: own.papers.includes(one.id) })),
    others: others.map((one) => ({ ...one, chosen: own.units.includes(one.id) })),
  }
}

/** A photo of a claim of the warehouse. */
export const photoOf = (
  db: Knex,
  warehouseId: WarehouseId,
  number: number,
  photoId: number,
): Promise<{ media: string; bytes: Buffer } | undefined> =>
  db("claim_photo as p")
    .join("claim as c", "c.id", "p.claim_id")
    .where({ "p.id": photoId, "c.number": number, "c.warehouse_id": warehouseId })
    .first("p.media", "p.bytes")
