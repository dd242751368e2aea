import { createHash } from "node:crypto"
import { type Reason, reason } from "core/refusal/index.ts"
import express, { type NextFunction, type Request, type Response, type Router } from "express"
import type { Knex } from "knex"
import { type Caller, callerOf, type TokenRight } from "../accounts/tokens.ts"
import { parsed } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { limits } from "../formats/orderRow.ts"
import { nestedAtMost, orderDocument, rowsOfOrder } from "../formats/ordersJson.ts"
import { cancelFromSource, takeDocument } from "../intake/take.ts"
import { summaryById } from "../orders/facts.ts"
import { outsideOrder } from "../outside/index.ts"
import { shipmentOf } from "../packing/shipment.ts"
import { quoteAsked } from "../quotes/asked.ts"
import { makeQuote, quoteByNumber } from "../quotes/index.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { packagesOf } from "../shipping/accept.ts"
import {
  type BulkAnswer,
  type OrderAnswer,
  type OrderStatus,
  openApi,
  type Problem,
  type QuoteAnswer,
} from "./openapi.ts"

const maxBody = 1024 * 1024
const maxBulk = 8 * maxBody

interface Answer {
  readonly status: number
  readonly body: OrderAnswer | BulkAnswer | OrderStatus | QuoteAnswer | Omit<Problem, "requestId">
}
const refuse = (status: number, error: string, reasons?: readonly Reason[]): Answer => ({
  status,
  body: { error, ...(reasons ? { reasons: [...reasons] } : {}) } as Omit<Problem, "requestId">,
})

/** `/api/v1` for other systems: tokens with rights, JSON in and out, every write under an idempotency key. */
export function api(db: Knex): Router {
  const router = express.Router()
  const described = JSON.stringify(openApi())
  router.get("/openapi.json", (_request, response) => {
    response.type("application/json").send(described)
  })
  router.post(
    "/orders",
    express.raw({ type: () => true, limit: maxBody }),
    handle(db, "orders.write", (caller, request) => sendOrder(db, caller, request)),
  )
  router.post(
    "/orders/bulk",
    express.raw({ type: () => true, limit: maxBulk }),
    handle(db, "orders.write", (caller, request) => sendOrders(db, caller, request)),
  )
  router.post(
    "/quotes",
    express.raw({ type: () => true, limit: maxBody }),
    handle(db, "quotes.write", (caller, request) => sendQuote(db, caller, request)),
  )
  router.post(
    "/orders/:number/cancellation",
    handle(db, "orders.write", (caller, request) => cancelOrder(db, caller, request)),
  )
  router.get(
    "/orders/:number",
    handle(db, "orders.read", (caller, request) => readOrder(db, caller, String(request.params.number))),
  )
  router.use((_request, response) => {
    answer(response, refuse(404, "Nothing is at this address; /api/v1/openapi.json lists what there is."))
  })
  router.use((error: { type?: string; status?: number }, request: Request, response: Response, _next: NextFunction) => {
    if (error.type === "entity.too.large")
      return answer(response, refuse(413, "The body is larger than 1 MB, or 8 MB for many orders."))
    if (error.status && error.status < 500) return answer(response, refuse(error.status, "The body could not be read."))
    request.log?.error({ err: error }, "api")
    answer(response, refuse(500, "This went wrong on our side. Send it again with the same Idempotency-Key."))
  })
  return router
}

function answer(response: Response, { status, body }: Answer): void {
  const withId = "error" in body ? { ...body, requestId: response.locals.requestId } : body
  response.status(status).json(withId)
}

const handle =
  (db: Knex, right: TokenRight, work: (caller: Caller, request: Request) => Promise<Answer>) =>
  async (request: Request, response: Response): Promise<void> => {
    const token = /^Bearer (\S{10,200})$/.exec(request.headers.authorization ?? "")?.[1]
    const caller = token ? await callerOf(db, token) : null
    if (!caller) {
      response.setHeader("www-authenticate", "Bearer")
      return answer(response, refuse(401, "A valid token is needed: Authorization: Bearer …"))
    }
    if (!caller.rights.includes(right)) return answer(response, refuse(403, `The token has not the right ${right}.`))
    answer(response, await work(caller, request))
  }

/** A write under an idempotency key: the same key with the same body again gets the same answer. */
async function once(
  db: Knex,
  caller: Caller,
  request: Request,
  work: (bytes: Buffer) => Promise<Answer>,
): Promise<Answer> {
  const key = String(request.headers["idempotency-key"] ?? "")
  if (!/^[\x21-\x7e]{8,80}$/.test(key)) return refuse(400, "An Idempotency-Key of 8 to 80 signs is needed.")
  const bytes = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0)
  if (bytes.length > 0 && !/^application\/json\b/.test(request.headers["content-type"] ?? ""))
    return refuse(415, "Send the body as application/json.")
  const hash = createHash("sha256").update(bytes)
  if (request.path !== "/orders") hash.update(request.path)
  const bodyHash = hash.digest("hex")
  const at = { token_id: caller.tokenId, idempotency_key: key }
  await db("api_request")
    .insert({ ...at, body_hash: bodyHash, at: new Date() })
    .onConflict()
    .ignore()
  const known = await db("api_request").where(at).first()
  if (known.body_hash !== bodyHash)
    return refuse(422, "This Idempotency-Key was used for another body. Take a new key for another order.")
  if (known.status) return { status: known.status, body: parsed(known.answer) }
  const answered = await work(bytes)
  // what was refused may be good another time, once an item is known; only what was taken in is answered from memory
  const whole = answered.status < 300 && (answered.body as BulkAnswer).refused !== undefined
  if (answered.status < 300 && (!whole || (answered.body as BulkAnswer).refused === 0))
    await db("api_request")
      .where(at)
      .update({ status: answered.status, answer: JSON.stringify(answered.body) })
  return answered
}

const sendOrder = (db: Knex, caller: Caller, request: Request): Promise<Answer> =>
  once(db, caller, request, async (bytes) => {
    const read = readJson(bytes)
    return "status" in read ? read : takeOrder(db, caller, read.value)
  })

/** Orders of one call that are taken in or refused each by itself. */
const mostInBulk = 500

const sendOrders = (db: Knex, caller: Caller, request: Request): Promise<Answer> =>
  once(db, caller, request, async (bytes) => {
    const read = readJson(bytes)
    if ("status" in read) return read
    const orders = (read.value as { orders?: unknown } | null)?.orders
    if (!Array.isArray(orders) || orders.length === 0 || orders.length > mostInBulk)
      return refuse(400, `The body is not { "orders": […] } with 1 to ${mostInBulk} orders.`)
    const results: BulkAnswer["results"][number][] = []
    for (const [index, order] of orders.entries()) {
      const { status, body } = await takeOrder(db, caller, order)
      const number = String((order as { number?: unknown } | null)?.number ?? "").slice(0, 40)
      results.push({ index, number, status, ...(body as object) })
    }
    const refused = results.filter((one) => one.status >= 300).length
    return { status: 200, body: { taken: results.length - refused, refused, results } }
  })

const cancelOrder = (db: Knex, caller: Caller, request: Request): Promise<Answer> =>
  once(db, caller, request, async () => {
    const number = String(request.params.number).slice(0, 40)
    const row = await orderOf(db, caller, number)
    if (!row) return refuse(404, "No order of this number was sent with a token for this warehouse.")
    const now = await businessNow(db)
    const context = { db, actor: caller.actor, now }
    const { fate } = await cancelFromSource(context, caller.sourceId, number, caller.actor.name)
    const summary = await summaryById(db, await warehouseById(db, row.warehouse_id), row.id)
    return {
      status: 200,
      body: {
        number,
        bench: row.bench_number,
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
      "The body is not an order; see /api/v1/openapi.json.",
      order.error.issues
        .slice(0, 50)
        .map((issue) => reason("json.shape", { field: issue.path.join("."), problem: issue.message })),
    )
  const now = await businessNow(db)
  const context = { db, actor: caller.actor, now }
  const taken = await takeDocument(context, caller.sourceId, caller.actor.name, rowsOfOrder(order.data))
  if (!taken.ok) return refuse(422, "The order was not taken in; correct what the reasons name.", taken.reasons)
  const { bench, fate } = taken.value
  const row = bench ? await db("sales_order").where({ bench_number: bench }).first("id", "warehouse_id") : null
  const summary = row ? await summaryById(db, await warehouseById(db, row.warehouse_id), row.id) : null
  return {
    status: fate === "new" ? 201 : 200,
    body: {
      number: order.data.number,
      bench,
      fate: fate as OrderAnswer["fate"],
      stage: summary?.stage ?? "received",
      stops: [...(summary?.stops ?? [])] as OrderAnswer["stops"],
    },
  }
}

/** A quote of what is asked: the same figures as the sales desk sees. */
const sendQuote = (db: Knex, caller: Caller, request: Request): Promise<Answer> =>
  once(db, caller, request, async (bytes) => {
    const read = readJson(bytes)
    if (!("value" in read)) return read
    const asked = quoteAsked.safeParse(read.value)
    if (!asked.success)
      return refuse(
        400,
        "The body is not what a quote is asked with; see /api/v1/openapi.json.",
        asked.error.issues
          .slice(0, 20)
          .map((issue) => reason("api.field", { field: issue.path.join("."), why: issue.message })),
      )
    const now = await businessNow(db)
    const key = `api ${String(request.headers["idempotency-key"])}`
    const outcome = await makeQuote({ db, now, actor: caller.actor }, { asked: asked.data }, key)
    if (!outcome.ok) return refuse(422, "It can't be quoted.", outcome.reasons)
    const warehouse = await warehouseById(db, caller.actor.warehouseId)
    const quote = await quoteByNumber(db, warehouse, outcome.value.number, now)
    if (!quote) return refuse(500, "The quote is gone.")
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

const orderOf = (db: Knex, caller: Caller, number: string) =>
  db("sales_order")
    .where({ source_id: caller.sourceId, source_number: number, part: 1 })
    // an order that was sent to another warehouse is still whose it was
    .whereRaw("COALESCE(came_to_id, warehouse_id) = ?", [caller.actor.warehouseId])
    .first("id", "warehouse_id", "bench_number", "promised_on")

/** A body as JSON, or why not: not UTF-8, nested too deep, no JSON. */
function readJson(bytes: Buffer): { value: unknown } | Answer {
  let text: string
  try {
    text = new TextDecoder("utf-8", { fatal: true }).decode(bytes)
  } catch {
    return refuse(400, "The body is not UTF-8.")
  }
  if (!nestedAtMost(text, limits.depth)) return refuse(400, `The body is nested deeper than ${limits.depth} brackets.`)
  try {
    return { value: JSON.parse(text) as unknown }
  } catch {
    return refuse(400, "The body is not JSON.")
  }
}

async function readOrder(db: Knex, caller: Caller, number: string): Promise<Answer> {
  const row = await orderOf(db, caller, number.slice(0, 40))
  if (!row) return refuse(404, "No order of this number was sent with a token for this warehouse.")
  const summary = await summaryById(db, await warehouseById(db, row.warehouse_id), row.id)
  const shipment = await shipmentOf(db, row.id)
  const outside = await outsideOrder(db, row.id)
  return {
    status: 200,
    body: {
      number,
      bench: row.bench_number,
      stage: summary?.stage ?? "received",
      stops: [...(summary?.stops ?? [])] as OrderStatus["stops"],
      promisedOn: row.promised_on,
      packages: outside
        ? outside.tracking.map((trackingNumber, index) => ({
            name: `${row.bench_number}-${index + 1}`,
            state: "gone" as const,
            trackingNumber,
          }))
        : (!shipment || shipment.members.length === 1 ? (shipment?.packages ?? []) : packagesOf(shipment, row.id)).map(
            (one) => ({
              name: `${shipment?.bench}-${one.number}`,
              state: one.state,
              trackingNumber: one.tracking,
            }),
          ),
    },
  }
}
