import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { askedFor } from "../addresses/words.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { type OrderSummary, summaries } from "./facts.ts"
import { isOfStage, narrow, type OrderFilter } from "./filter.ts"

export interface OrderPage {
  readonly orders: readonly OrderSummary[]
  /** Give this as `before` for the next page; null at the end. */
  readonly next: number | null
}

const pageSize = 100
/** Orders that one page looks at before it stops and says where to go on. */
const mostLookedAt = 6_000

/** Orders that a filter finds, newest first, by keyset pages. */
export async function findOrders(
  context: Context,
  warehouse: Warehouse,
  filter: OrderFilter,
  before: number | null,
  size = pageSize,
  looks: Looks = usual,
): Promise<OrderPage> {
  const candidates = await candidatesFor(context, warehouse, filter, looks)
  const found: OrderSummary[] = []
  let cursor = before
  for (let looked = 0; looked < mostLookedAt; ) {
    const ids = await candidates(cursor, size + 1)
    if (ids.length === 0) return { orders: found, next: null }
    looked += ids.length
    cursor = ids.at(-1) as number
    for (const order of await summariesOf(context.db, warehouse, ids)) {
      if (!isOfStage(filter.stage, order)) continue
      if (found.length === size) return { orders: found, next: found.at(-1)?.id ?? null }
      found.push(order)
    }
    if (ids.length <= size) return { orders: found, next: null }
  }
  return { orders: found, next: cursor }
}

/** The ids of all orders that a filter finds, newest first; null when there are more than `most`. */
export async function allOrders(
  context: Context,
  warehouse: Warehouse,
  filter: OrderFilter,
  most: number,
): Promise<number[] | null> {
  const ids: number[] = []
  for (let before: number | null = null; ; ) {
    const page = await findOrders(context, warehouse, filter, before, 500)
    ids.push(...page.orders.map((order) => order.id))
    if (ids.length > most) return null
    if (page.next === null) return ids
    before = page.next
  }
}

const summariesOf = (db: Knex, warehouse: Warehouse, ids: readonly number[]) =>
  summaries(db, warehouse, (query) => query.whereIn("o.id", [...ids]).orderBy("o.id", "desc"))

/** Ids below a cursor, newest first, at most so many; none at the end. */
type Candidates = (before: number | null, most: number) => Promise<number[]>

/** How words are looked up; what is found is the same with any figures. */
export interface Looks {
  /** A word that fewer orders have is looked up first and as a whole. */
  readonly rare: number
  /** Newest orders on which common words are tried one by one, before they are looked up as a whole too. */
  readonly oneByOne: number
}
const usual: Looks = { rare: 20_000, oneByOne: 3_000 }

/** What the database finds of a filter: the ids first and by themselves, what is computed of them for one page only. */
async function candidatesFor(
  context: Context,
  warehouse: Warehouse,
  filter: OrderFilter,
  looks: Looks,
): Promise<Candidates> {
  const { db } = context
  const narrowed = await narrow(context, warehouse, filter)
  const page = (query: Knex.QueryBuilder, most: number) =>
    narrowed(query).orderBy("o.id", "desc").limit(most).pluck("o.id") as unknown as Promise<number[]>
  const within = (ids: readonly number[], others: readonly string[]): Candidates => {
    const sorted = [...ids].sort((a, b) => b - a)
    return async (before, most) => {
      const rest = before ? sorted.filter((id) => id < before) : sorted
      const found: number[] = []
      for (let at = 0; at < rest.length && found.length < most; at += 1_000) {
        const query = db("sales_order as o").whereIn("o.id", rest.slice(at, at + 1_000))
        for (const word of others) hasWord(query, word)
        found.push(...(await page(query, most - found.length)))
      }
      return found
    }
  }
  const typed = filter.find.split(/\s+/).filter(Boolean)
  const exact = typed.length === 1 ? await byNumber(context, warehouse, typed[0] as string) : []
  if (exact.length > 0) return within(exact, [])
  const asked = askedFor(filter.find)
  if (typed.length > 0 && asked.length === 0) return async () => []
  const rarest = asked.length > 0 ? await rarestOf(db, asked, looks.rare) : null
  if (rarest?.ids) return within(rarest.ids, rarest.others)
  if (asked.length === 0)
    return (before, most) => {
      const query = db("sales_order as o")
      if (before) query.where("o.id", "<", before)
      return page(query, most)
    }
  let together: Promise<number[]> | null = null
  return async (before, most) => {
    // common words: the newest orders are tried one by one, since a page is full soon; where it is not, the words rarely
    // stand together, and the orders that have all of them are few
    const newest = () => {
      const query = db("sales_order as o").where("o.warehouse_id", warehouse.id)
      if (before) query.where("o.id", "<", before)
      return query
    }
    const last = await newest().orderBy("o.id", "desc").offset(looks.oneByOne).first("o.id")
    const query = newest()
    if (last) query.where("o.id", ">", last.id)
    for (const word of asked) hasWord(query, word)
    const found = await page(query, most)
    if (found.length >= most || !last) return found
    together ??= withAll(db, asked)
    const older = (await together).filter((id) => id <= last.id)
    return [...found, ...(await within(older, [])(null, most - found.length))]
  }
}

/** The orders that have all of some words. */
async function withAll(db: Knex, words: readonly string[]): Promise<number[]> {
  const of = (word: string): Promise<number[]> =>
    db("order_word").where("word", "like", beginning(word)).pluck("order_id") as unknown as Promise<number[]>
  const [first = "", ...others] = words
  let ids = new Set(await of(first))
  for (const word of others) {
    if (ids.size === 0) break
    const before = ids
    ids = new Set((await of(word)).filter((id) => before.has(id)))
  }
  return [...ids]
}

/** The orders that have the rarest of the words, when they are few, and the words that they must have besides. */
async function rarestOf(
  db: Knex,
  asked: readonly string[],
  rare: number,
): Promise<{ ids: number[] | null; others: readonly string[] }> {
  const counted = await Promise.all(
    asked.map(async (word) => {
      const some = db("order_word").where("word", "like", beginning(word)).limit(rare).select("order_id").as("some")
      const row = await db.from(some).count({ n: "*" }).first()
      return { word, n: Number(row?.n ?? 0) }
    }),
  )
  const [first, ...others] = counted.sort((a, b) => a.n - b.n)
  if (!first || first.n >= rare) return { ids: null, others: asked }
  const ids = await db("order_word").where("word", "like", beginning(first.word)).pluck("order_id")
  return { ids: [...new Set<number>(ids)], others: others.map((one) => one.word) }
}

const beginning = (word: string) => `${word.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`

/** Tried on one order after another: the limit keeps the database from reading all orders of a common word first. */
const hasWord = (query: Knex.QueryBuilder, word: string) =>
  query.whereRaw("(SELECT 1 FROM order_word w WHERE w.order_id = o.id AND w.word LIKE ? LIMIT 1) = 1", [
    beginning(word),
  ])

/**
 * Orders of which the text is a whole number: ours, the source's, the purchase order's, a reference, a package's SSCC or
 * tracking number. Looks by index.
 */
async function byNumber({ db }: Context, warehouse: Warehouse, text: string): Promise<number[]> {
  const looks = ["order_number", "source_number", "po_number"].map((column) =>
    db("sales_order")
      .where({ warehouse_id: warehouse.id, [column]: text })
      .limit(pageSize)
      .pluck("id"),
  )
  const references = db("order_reference as r")
    .join("sales_order as o", "o.id", "r.order_id")
    .where({ "r.value": text, "o.warehouse_id": warehouse.id })
    .limit(pageSize)
    .pluck("o.id")
  const packages = ["sscc", "tracking"].map((column) =>
    db("package as p")
      .join("shipment as h", "h.id", "p.shipment_id")
      .where({ [`p.${column}`]: text, "h.warehouse_id": warehouse.id })
      .limit(pageSize)
      .pluck("h.order_id"),
  )
  const master = db("shipment")
    .where({ warehouse_id: warehouse.id, master_tracking: text })
    .limit(pageSize)
    .pluck("order_id")
  return [...new Set<number>((await Promise.all([...looks, references, ...packages, master])).flat())]
}
