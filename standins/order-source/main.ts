import { readFileSync } from "node:fs"
import type { IncomingMessage, ServerResponse } from "node:http"
import { Webhook } from "standardwebhooks"
import { answerJson, argument, bodyOf, FileState, serve } from "../process.ts"

/**
 * The shop system that orders come from, simulated: takes reports at `POST /reports` once by their `idempotency-key`,
 * and lists what it was told at `GET /reports`. Orders wait at `GET /orders?after=CURSOR`, oldest first; more are put
 * there by `POST /orders`; `&from=DATE&to=DATE` narrows them by the date of the order. An order has the shop's own
 * `state`, `GET /orders/NUMBER` shows its last record; one that is put there again under its number is another record of the same order.
 * Messages of the trade (ship notices, events) are taken at `POST /messages`, once by key as well, and listed at `GET /messages`. Signed
 * messages are taken at `POST /webhooks`, once by their `webhook-id` and only where they are signed with the secret that
 * `PUT /secret` names, and listed at `GET /webhooks`. `PUT /faults` with `{ "fault": "down" | "refuse" | null }`.
 *
 * Arguments: --state FILE --port N [--orders FILE]
 */
interface Report {
  key: string
  at: string
  times: number
  body: unknown
}

const first = argument("orders", "")
const state = new FileState<{
  reports: Report[]
  messages?: Report[]
  webhooks?: Report[]
  secret?: string
  orders: unknown[]
  fault: "down" | "refuse" | null
}>(argument("state"), {
  reports: [],
  orders: first ? (JSON.parse(readFileSync(first, "utf8")) as unknown[]) : [],
  fault: null,
})
state.value.orders ??= []
/** Orders in one answer. */
const page = 50

serve(Number(argument("port", "0")), async (request, response) => {
  const url = new URL(request.url ?? "/", "http://source")
  if (url.pathname === "/faults" && request.method === "PUT") {
    state.value.fault = (JSON.parse((await bodyOf(request)).toString()) as { fault: "down" | "refuse" | null }).fault
    state.save()
    return answerJson(response, 200, { fault: state.value.fault })
  }
  if (url.pathname === "/orders" && request.method === "POST") {
    state.value.orders.push(...[JSON.parse((await bodyOf(request)).toString())].flat())
    state.save()
    return answerJson(response, 201, { waiting: state.value.orders.length })
  }
  if (url.pathname === "/orders") {
    if (state.value.fault === "down") return answerJson(response, 503, { error: "closed for maintenance" })
    const after = Number(url.searchParams.get("after") || 0)
    const [from, to] = [url.searchParams.get("from") ?? "", url.searchParams.get("to") ?? "9999"]
    const records = state.value.orders.slice(after, after + page)
    const orders = records.filter((order) => {
      const { orderedOn = "" } = order as { orderedOn?: string }
      return orderedOn >= from && orderedOn <= to
    })
    return answerJson(response, 200, { orders, next: String(after + records.length) })
  }
  const record = /^\/orders\/([^/]+)$/.exec(url.pathname)?.[1]
  if (record && request.method === "GET") {
    const number = decodeURIComponent(record)
    const found = state.value.orders.filter((order) => (order as { number?: string }).number === number).at(-1)
    return found ? answerJson(response, 200, found) : answerJson(response, 404, { error: "no such order" })
  }
  if (url.pathname === "/secret" && request.method === "PUT") {
    state.value.secret = (JSON.parse((await bodyOf(request)).toString()) as { secret: string }).secret
    state.save()
    return answerJson(response, 200, {})
  }
  if (url.pathname === "/webhooks") return webhook(request, response)
  if (url.pathname !== "/reports" && url.pathname !== "/messages")
    return answerJson(response, 404, { error: "no such address" })
  state.value.messages ??= []
  const taken = url.pathname === "/reports" ? state.value.reports : state.value.messages
  if (request.method === "GET") return answerJson(response, 200, taken)
  if (request.method !== "POST") return answerJson(response, 405, { error: "GET or POST" })
  const text = await bodyOf(request)
  const body = url.pathname === "/reports" ? JSON.parse(text.toString()) : text.toString("latin1")
  if (state.value.fault === "down") return answerJson(response, 503, { error: "closed for maintenance" })
  if (state.value.fault === "refuse") return answerJson(response, 422, { error: "no such order here" })
  const key = String(request.headers["idempotency-key"] ?? "")
  if (!key) return answerJson(response, 400, { error: "an idempotency-key is needed" })
  const known = taken.find((report) => report.key === key)
  if (known) known.times += 1
  else taken.push({ key, at: new Date().toISOString(), times: 1, body })
  state.save()
  answerJson(response, known ? 200 : 201, { taken: true })
})

/** Takes a signed message once by its id, as the Standard Webhooks specification has it. */
async function webhook(request: IncomingMessage, response: ServerResponse): Promise<void> {
  state.value.webhooks ??= []
  const taken = state.value.webhooks
  if (request.method === "GET") return answerJson(response, 200, taken)
  const text = (await bodyOf(request)).toString()
  if (state.value.fault === "down") return answerJson(response, 503, { error: "closed for maintenance" })
  if (state.value.fault === "refuse") return answerJson(response, 422, { error: "no such order here" })
  const header = (name: string) => String(request.headers[name] ?? "")
  try {
    new Webhook(state.value.secret ?? "").verify(text, {
      "webhook-id": header("webhook-id"),
      "webhook-timestamp": header("webhook-timestamp"),
      "webhook-signature": header("webhook-signature"),
    })
  } catch {
    return answerJson(response, 401, { error: "not signed by you" })
  }
  const known = taken.find((one) => one.key === header("webhook-id"))
  if (known) known.times += 1
  else taken.push({ key: header("webhook-id"), at: new Date().toISOString(), times: 1, body: JSON.parse(text) })
  state.save()
  answerJson(response, known ? 200 : 201, { taken: true })
}
