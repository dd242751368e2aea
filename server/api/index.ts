import { createHash } from "node:crypto"
import { identifier } from "core/identifier/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import express, { type NextFunction, type Request, type Response, type Router } from "express"
import type { Knex } from "knex"
import { sayCode } from "words/index.ts"
import { type Caller, callerOf, type TokenRight } from "../accounts/tokens.ts"
import { parsed } from "../audit/index.ts"
import { sendingMs } from "../bodies/bodyLimits.ts"
import { closeAfter, collect, declared, hasBody } from "../bodies/limitBody.ts"
import { businessNow } from "../clock/index.ts"
import { databaseFault } from "../db/faults.ts"
import { there } from "../db/there.ts"
import { limits } from "../formats/orderRow.ts"
import { nestedAtMost, type OrderDocument, orderDocument, rowsOfOrder, valuesAtMost } from "../formats/ordersJson.ts"
import { differences } from "../intake/oneOrder.ts"
import { cancelFromSource, takeDocument } from "../intake/take.ts"
import { plainError } from "../log/index.ts"
import { summaryById } from "../orders/facts.ts"
import { outsideOrder } from "../outside/index.ts"
import { packagesOf, shipmentOf } from "../packages/shipment.ts"
import { quoteAsked } from "../quotes/asked.ts"
import { makeQuote, quoteByNumber } from "../quotes/index.ts"
import { invoiceDocument, keepInvoice } from "../reports/freight.ts"
import { reportsOf } from "../reports/read.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { deliveredOf } from "../tracking/read.ts"
import {
  type BulkAnswer,
  type InvoiceAnswer,
  type OrderAnswer,
  type OrderStatus,
  openApi,
  type Problem,
  type QuoteAnswer,
  type ReportsAnswer,
} from "./openapi.ts"

const maxBody = 1024 * 1024
const maxBulk = 8 * maxBody

interface Answer {
  readonly status: number
  readonly body:
    | OrderAnswer
    | BulkAnswer
    | OrderStatus
    | QuoteAnswer
    | InvoiceAnswer
    | ReportsAnswer
    | Omit<Problem, "requestId">
}
/** A refusal as its code and figures, with the words beside them for whoever reads a log. */
const refuse = (status: number, why: Reason, reasons?: readonly Reason[]): Answer => ({
  status,
  body: {
    error: sayCode(why.code, why.values, "en"),
    ...why,
    ...(reasons ? { reasons: [...reasons] } : {}),
  } as Omit<Problem, "requestId">,
})

/** `/api/v1` for other systems: tokens with rights, JSON in and out, every write under an idempotency key. */
export function api(db: Knex): Router {
  const router = express.Router()
  const described = JSON.stringify(openApi())
  router.get("/openapi.json", (_request, response) => {
    response.type("application/json").send(described)
  })
  router.post("/orders", handle(db, "orders.write", maxBody, sendOrder))
  router.post("/orders/bulk", handle(db, "orders.write", maxBulk, sendOrders))
  router.post("/quotes", handle(db, "quotes.write", maxBody, sendQuote))
  router.post("/orders/:number/cancellation", handle(db, "orders.write", maxBody, cancelOrder))
  router.post("/orders/:number/invoice", handle(db, "orders.write", maxBody, takeInvoice))
  router.get(
    "/orders/:number/reports",
    handle(db, "orders.read", 0, (asked, caller, request) =>
      readReports(asked, caller, identifier(String(request.params.number))),
    ),
  )
  router.get(
    "/orders/:number",
    handle(db, "orders.read", 0, (context, caller, request) =>
      readOrder(context, caller, identifier(String(request.params.number))),
    ),
  )
  router.use((_request, response) => {
    answer(response, refuse(404, reason("problem.no-such-address")))
  })
  router.use((error: { status?: number }, request: Request, response: Response, _next: NextFunction) => {
    if (response.headersSent) return void response.destroy()
    if (error.status && error.status < 500) return answer(response, refuse(error.status, reason("problem.address")))
    const fault = databaseFault(error)
    const what = { err: plainError(error), requestId: response.locals.requestId }
    if (fault === "bad") {
      request.log?.warn(what, "a value could not be used")
      return answer(response, refuse(400, reason("problem.value")))
    }
    request.log?.error(what, "an API request failed")
    if (fault === "away") {
      response.setHeader("retry-after", "10")
      return answer(response, refuse(503, reason("problem.database-key")))
    }
    answer(response, refuse(500, reason("problem.ours-key")))
  })
  return router
}

function answer(response: Response, { status, body }: Answer): void {
  const withId = "error" in body ? { ...body, requestId: response.locals.requestId } : body
  response.status(status).json(withId)
}

/** A request's own connection to the database, and its body within its limit. */
interface Asked {
  readonly db: Knex
  readonly bytes: Buffer
}

/** Who calls is known before anything of the body is read; then the body, within `most` bytes and its time. */
const handle =
  (
    db: Knex,
    right: TokenRight,
    most: number,
    work: (asked: Asked, caller: Caller, request: Request) => Promise<Answer>,
  ) =>
  async (request: Request, response: Response): Promise<void> => {
    response.setHeader("cache-control", "no-store")
    const turnDown = (refusal: Answer) => {
      if (hasBody(request)) closeAfter(request, response)
      answer(response, refusal)
    }
    const token = /^Bearer (\S{10,200})$/.exec(request.headers.authorization ?? "")?.[1]
    const caller = token ? await callerOf(db, token) : null
    if (!caller) {
      response.setHeader("www-authenticate", "Bearer")
      return turnDown(refuse(401, reason("problem.no-token")))
    }
    if (!caller.rights.includes(right)) return turnDown(refuse(403, reason("problem.no-right", { right })))
    const tooLarge = refuse(413, reason("problem.body-large", { limit: most / 1024 / 1024 }))
    if (declared(request) > most) return turnDown(most === 0 ? refuse(400, reason("problem.no-body")) : tooLarge)
    if (request.headers["content-encoding"]) return turnDown(refuse(415, reason("problem.compressed")))
    const bytes = hasBody(request)
      ? await collect(request, most, most > maxBody ? sendingMs.bulk : sendingMs.form)
      : Buffer.alloc(0)
    if ("status" in bytes)
      return turnDown(bytes.status === 413 ? tooLarge : refuse(bytes.status, reason("problem.body-slow")))
    answer(response, await work({ db, bytes }, caller, request))
  }

/** A write under an idempotency key: the same key with the same body again gets the same answer. */
async function once(
  { db, bytes }: Asked,
  caller: Caller,
  request: Request,
  work: () => Promise<Answer>,
): Promise<Answer> {
  const key = String(request.headers["idempotency-key"] ?? "")
  if (!/^[\x21-\x7e]{8,80}$/.test(key)) return refuse(400, reason("problem.key"))
  if (bytes.length > 0 && !/^application\/json\b/.test(request.headers["content-type"] ?? ""))
    return refuse(415, reason("problem.not-json-type"))
  const hash = createHash("sha256").update(bytes)
  if (request.path !== "/orders") hash.update(request.path)
  const bodyHash = hash.digest("hex")
  const at = { token_id: caller.tokenId, idempotency_key: key }
  await db("api_request")
    .insert({ ...at, body_hash: bodyHash, at: new Date() })
    .onConflict()
    .ignore()
  const known = there(await db("api_request").where(at).first())
  if (known.body_hash !== bodyHash) return refuse(422, reason("problem.key-used"))
  if (known.status) return { status: known.status, body: parsed(known.answer) }
  const answered = await work()
  // what was refused may be good another time, once an item is known; only what was imported is answered from memory
  const whole = answered.status < 300 && (answered.body as BulkAnswer).refused !== undefined
  if (answered.status < 300 && (!whole || (answered.body as BulkAnswer).refused === 0))
    await db("api_request")
      .where(at)
      .update({ status: answered.status, answer: JSON.stringify(answered.body) })
  return answered
}

const sendOrder = (asked: Asked, caller: Caller, request: Request): Promise<Answer> =>
  once(asked, caller, request, async () => {
    const read = readJson(asked.bytes, valuesOfOrder)
    return "status" in read ? read : takeOrder(asked.db, caller, read.value)
  })

/** Orders of one call that are imported or refused each by itself. */
const mostInBulk = 500

const sendOrders = ({ db, bytes }: Asked, caller: Caller, request: Request): Promise<Answer> =>
  once({ db, bytes }, caller, request, async () => {
    const read = readJson(bytes, valuesOfBulk)
    if ("status" in read) return read
    const orders = (read.value as { orders?: unknown } | null)?.orders
    if (!Array.isArray(orders) || orders.length === 0 || orders.length > mostInBulk)
      return refuse(400, reason("problem.not-orders", { most: mostInBulk }))
    const results: BulkAnswer["results"][number][] = []
    const heads = new Map<string, OrderDocument>()
    for (const [index, order] of orders.entries()) {
      const other = otherOfNumber(heads, order)
      const { status, body } = await (other ?? takeOrder(db, caller, order)).catch((error: unknown): Answer => {
        // one order that breaks never holds up those after it; without the database none could be imported
        if (databaseFault(error) === "away") throw error
        request.log?.error({ err: plainError(error), requestId: request.id, index }, "an order of many failed")
        return databaseFault(error) === "bad"
          ? refuse(400, reason("problem.order-value"))
          : refuse(500, reason("problem.ours-order"))
      })
      const number = String((order as { number?: unknown } | null)?.number ?? "").slice(0, 40)
      results.push({ index, number, status, ...(body as object) })
    }
    const refused = results.filter((one) => one.status >= 300).length
    return { status: 200, body: { taken: results.length - refused, refused, results } }
  })

/** The refusal of an order whose number another one of the same call has; null where none has, or it is the same. */
function otherOfNumber(heads: Map<string, OrderDocument>, value: unknown): Promise<Answer> | null {
  const read = orderDocument.safeParse(value)
  if (!read.success) return null
  const number = identifier(read.data.number)
  const first = heads.get(number)
  if (!first) heads.set(number, read.data)
  if (!first || JSON.stringify(first) === JSON.stringify(read.data)) return null
  const [a, b] = [rowsOfOrder(first)[0]?.row, rowsOfOrder(read.data)[0]?.row]
  const why = a && b ? differences({ row: a, line: 1, document: undefined }, b, 1) : []
  return Promise.resolve(
    refuse(
      422,
      reason("problem.number-twice"),
      why.length > 0 ? why : [reason("row.twice", { line: 1, field: "order_number", value: number, at: 1 })],
    ),
  )
}

const cancelOrder = ({ db, bytes }: Asked, caller: Caller, request: Request): Promise<Answer> =>
  once({ db, bytes }, caller, request, async () => {
    const number = identifier(String(request.params.number))
    const row = await orderOf(db, caller, number)
    if (!row) return refuse(404, reason("problem.no-order"))
    const now = await businessNow(db)
    const context = { db, actor: caller.actor, now }
    const { fate } = await cancelFromSource(context, caller.sourceId, number, caller.actor.name)
    const summary = await summaryById(db, await warehouseById(db, row.warehouse_id), row.id)
    return {
      status: 200,
      body: {
        number,
        orderNumber: row.order_number,
        fate: fate as OrderAnswer["fate"],
        stage: summary?.stage ?? "received",
        stops: [...(summary?.stops ?? [])] as OrderAnswer["stops"],
      },
    }
  })

async function takeOrder(db: Knex, caller: Caller, value: unknown): Promise<Answer> {
  const order = orderDocument.safeParse(value)
  if (!order.success)
    return refuse(
      400,
      reason("problem.not-order"),
      order.error.issues
        .slice(0, 50)
        .map((issue) => reason("json.shape", { field: shown(issue.path.join(".")), problem: shown(issue.message) })),
    )
  const now = await businessNow(db)
  const context = { db, actor: caller.actor, now }
  const taken = await takeDocument(context, caller.sourceId, caller.actor.name, rowsOfOrder(order.data))
  if (!taken.ok) return refuse(422, reason("problem.order-refused"), taken.reasons)
  const { orderNumber, fate } = taken.value
  if (fate === "other-warehouse") return refuse(409, reason("problem.other-warehouse"))
  const row = orderNumber
    ? await db("sales_order").where({ order_number: orderNumber }).first("id", "warehouse_id")
    : null
  const summary = row ? await summaryById(db, await warehouseById(db, row.warehouse_id), row.id) : null
  return {
    status: fate === "new" ? 201 : 200,
    body: {
      number: order.data.number,
      orderNumber,
      fate: fate as OrderAnswer["fate"],
      stage: summary?.stage ?? "received",
      stops: [...(summary?.stops ?? [])] as OrderAnswer["stops"],
    },
  }
}

/** A quote of what is asked: the same figures as the sales desk sees. */
const sendQuote = ({ db, bytes }: Asked, caller: Caller, request: Request): Promise<Answer> =>
  once({ db, bytes }, caller, request, async () => {
    const read = readJson(bytes, valuesOfOrder)
    if (!("value" in read)) return read
    const asked = quoteAsked.safeParse(read.value)
    if (!asked.success)
      return refuse(
        400,
        reason("problem.not-quote"),
        asked.error.issues
          .slice(0, 20)
          .map((issue) => reason("api.field", { field: shown(issue.path.join(".")), why: shown(issue.message) })),
      )
    const now = await businessNow(db)
    // two callers may take the same key for what each of them sends
    const key = `token ${caller.tokenId} ${String(request.headers["idempotency-key"])}`
    const outcome = await makeQuote({ db, now, actor: caller.actor }, { asked: asked.data }, key)
    if (!outcome.ok) return refuse(422, reason("problem.not-quoted"), outcome.reasons)
    const warehouse = await warehouseById(db, caller.actor.warehouseId)
    const quote = await quoteByNumber(db, warehouse, outcome.value.number, now)
    if (!quote) return refuse(500, reason("problem.quote-gone"))
    return {
      status: 201,
      body: {
        number: quote.number,
        validUntil: quote.validUntil,
        currency: quote.quoted.currency,
        services: quote.quoted.services.map((one) => ({
          service: one.code,
          name: one.name,
          carrier: one.carrier,
          charged: one.charged,
          arrives: one.arrives,
          late: one.late,
          best: one.best,
          reasons: [...one.refusals] as QuoteAnswer["services"][number]["reasons"],
        })),
      },
    }
  })

/** So much of what was sent is said back. */
const shown = (text: string): string => (text.length > 120 ? `${text.slice(0, 119)}…` : text)

const orderOf = (db: Knex, caller: Caller, number: string) =>
  db("sales_order")
    .where({ source_id: caller.sourceId, source_number: number, part: 1 })
    // an order that was sent to another warehouse is still whose it was
    .whereRaw("COALESCE(came_to_id, warehouse_id) = ?", [caller.actor.warehouseId])
    .first("id", "warehouse_id", "order_number", "promised_on")

/** Most values in a body: of one order with 500 lines some 3 500. */
const valuesOfOrder = 20_000
const valuesOfBulk = 400_000

/** A body as JSON, or why not: not UTF-8, nested too deep, more values than there may be, no JSON. */
function readJson(bytes: Buffer, mostValues: number): { value: unknown } | Answer {
  let text: string
  try {
    text = new TextDecoder("utf-8", { fatal: true }).decode(bytes)
  } catch {
    return refuse(400, reason("problem.not-utf-8"))
  }
  if (!nestedAtMost(text, limits.depth)) return refuse(400, reason("problem.too-deep", { limit: limits.depth }))
  if (!valuesAtMost(text, mostValues)) return refuse(413, reason("problem.too-many-values", { limit: mostValues }))
  try {
    return { value: JSON.parse(text) as unknown }
  } catch {
    return refuse(400, reason("problem.not-json"))
  }
}

/** What the source billed: kept beside what the freight cost us. */
const takeInvoice = (asked: Asked, caller: Caller, request: Request): Promise<Answer> =>
  once(asked, caller, request, async () => {
    const read = readJson(asked.bytes, valuesOfOrder)
    if (!("value" in read)) return read
    const invoice = invoiceDocument.safeParse(read.value)
    if (!invoice.success)
      return refuse(
        400,
        reason("problem.not-invoice"),
        invoice.error.issues
          .slice(0, 20)
          .map((issue) => reason("api.field", { field: shown(issue.path.join(".")), why: shown(issue.message) })),
      )
    const row = await orderOf(asked.db, caller, identifier(String(request.params.number)))
    if (!row) return refuse(404, reason("problem.no-order"))
    await keepInvoice(asked.db, row.id, invoice.data, caller.actor, await businessNow(asked.db))
    return { status: 200, body: { number: invoice.data.number } }
  })

/** What the source was told of an order, or will be, in its order: for whoever asks instead of being told. */
async function readReports({ db }: Asked, caller: Caller, number: string): Promise<Answer> {
  const row = await orderOf(db, caller, number)
  if (!row) return refuse(404, reason("problem.no-order"))
  return { status: 200, body: { reports: await reportsOf(db, caller.sourceId, number) } }
}

async function readOrder({ db }: Asked, caller: Caller, number: string): Promise<Answer> {
  const row = await orderOf(db, caller, number)
  if (!row) return refuse(404, reason("problem.no-order"))
  const summary = await summaryById(db, await warehouseById(db, row.warehouse_id), row.id)
  const shipment = await shipmentOf(db, row.id)
  const outside = await outsideOrder(db, row.id)
  const delivered = await deliveredOf(db, row.warehouse_id, row.id)
  const stateOf = (name: string, state: string) => (delivered.has(name) ? "delivered" : state)
  return {
    status: 200,
    body: {
      number,
      orderNumber: row.order_number,
      stage: summary?.stage ?? "received",
      stops: [...(summary?.stops ?? [])] as OrderStatus["stops"],
      promisedOn: row.promised_on,
      packages: outside
        ? outside.tracking.map((trackingNumber, index) => ({
            name: `${row.order_number}-${index + 1}`,
            state: stateOf(`${row.order_number}-${index + 1}`, "gone"),
            trackingNumber,
          }))
        : (!shipment || shipment.members.length === 1 ? (shipment?.packages ?? []) : packagesOf(shipment, row.id)).map(
            (one) => ({
              name: `${shipment?.orderNumber}-${one.number}`,
              state: stateOf(`${shipment?.orderNumber}-${one.number}`, one.state),
              trackingNumber: one.tracking,
            }),
          ),
    },
  }
}
