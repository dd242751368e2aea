import { createHash } from "node:crypto"
import { type Reason, reason } from "core/refusal/index.ts"
import express, { type NextFunction, type Request, type Response, type Router } from "express"
import type { Knex } from "knex"
import { type Caller, callerOf, type TokenRight } from "../accounts/tokens.ts"
import { parsed } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { limits } from "../formats/orderRow.ts"
import { nestedAtMost, orderDocument, rowsOfOrder } from "../formats/ordersJson.ts"
import { summaryById } from "../orders/facts.ts"
import { takeDocument } from "../orders/intake.ts"
import { shipmentOf } from "../packing/shipment.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { type OrderAnswer, type OrderStatus, openApi, type Problem } from "./openapi.ts"

const maxBody = 1024 * 1024

interface Answer {
  readonly status: number
  readonly body: OrderAnswer | OrderStatus | Omit<Problem, "requestId">
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
  router.get(
    "/orders/:number",
    handle(db, "orders.read", (caller, request) => readOrder(db, caller, String(request.params.number))),
  )
  router.use((_request, response) => {
    answer(response, refuse(404, "Nothing is at this address; /api/v1/openapi.json lists what there is."))
  })
  router.use((error: { type?: string; status?: number }, request: Request, response: Response, _next: NextFunction) => {
    if (error.type === "entity.too.large") return answer(response, refuse(413, "The body is larger than 1 MB."))
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

async function sendOrder(db: Knex, caller: Caller, request: Request): Promise<Answer> {
  const key = String(request.headers["idempotency-key"] ?? "")
  if (!/^[\x21-\x7e]{8,80}$/.test(key)) return refuse(400, "An Idempotency-Key of 8 to 80 signs is needed.")
  if (!/^application\/json\b/.test(request.headers["content-type"] ?? ""))
    return refuse(415, "Send the order as application/json.")
  const bytes = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0)
  const hash = createHash("sha256").update(bytes).digest("hex")
  const at = { token_id: caller.tokenId, idempotency_key: key }
  await db("api_request")
    .insert({ ...at, body_hash: hash, at: new Date() })
    .onConflict()
    .ignore()
  const known = await db("api_request").where(at).first()
  if (known.body_hash !== hash)
    return refuse(422, "This Idempotency-Key was used for another body. Take a new key for another order.")
  if (known.status) return { status: known.status, body: parsed(known.answer) }
  const answered = await takeOrder(db, caller, bytes)
  // what was refused may be good another time, once an item is known; only what was taken in is answered from memory
  if (answered.status < 300)
    await db("api_request")
      .where(at)
      .update({ status: answered.status, answer: JSON.stringify(answered.body) })
  return answered
}

async function takeOrder(db: Knex, caller: Caller, bytes: Buffer): Promise<Answer> {
  const value = readJson(bytes)
  if ("status" in value) return value
  const order = orderDocument.safeParse(value.value)
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
  const taken = await takeDocument(context, { id: caller.sourceId, name: caller.actor.name }, rowsOfOrder(order.data))
  if (!taken.ok) return refuse(422, "The order was not taken in; correct what the reasons name.", taken.reasons)
  const row = await db("sales_order").where({ bench_number: taken.value.bench }).first("id", "warehouse_id")
  const summary = await summaryById(db, await warehouseById(db, row.warehouse_id), row.id)
  return {
    status: taken.value.fate === "new" ? 201 : 200,
    body: {
      number: order.data.number,
      bench: taken.value.bench,
      fate: taken.value.fate as OrderAnswer["fate"],
      stage: summary?.stage ?? "received",
      stops: [...(summary?.stops ?? [])] as OrderAnswer["stops"],
    },
  }
}

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
  const row = await db("sales_order")
    .where({ source_id: caller.sourceId, source_number: number.slice(0, 40), warehouse_id: caller.actor.warehouseId })
    .first("id", "warehouse_id", "bench_number", "promised_on")
  if (!row) return refuse(404, "No order of this number was sent with a token for this warehouse.")
  const summary = await summaryById(db, await warehouseById(db, row.warehouse_id), row.id)
  const shipment = await shipmentOf(db, row.id)
  return {
    status: 200,
    body: {
      number,
      bench: row.bench_number,
      stage: summary?.stage ?? "received",
      stops: [...(summary?.stops ?? [])] as OrderStatus["stops"],
      promisedOn: row.promised_on,
      packages: (shipment?.packages ?? []).map((one) => ({
        name: `${row.bench_number}-${one.number}`,
        state: one.state,
        trackingNumber: one.tracking,
      })),
    },
  }
}
