import { readFileSync } from "node:fs"
import { answerJson, argument, bodyOf, FileState, serve } from "../process.ts"

/**
 * The shop system that orders come from, simulated: takes reports at `POST /reports` once by their `idempotency-key`,
 * and lists what it was told at `GET /reports`. Orders wait at `GET /orders?after=CURSOR`, oldest first; more are put
 * there by `POST /orders`; `&from=DATE&to=DATE` narrows them by the date of the order. An order has the shop's own
 * `state`, `GET /orders/NUMBER` shows its last record; one that is put there again under its number is another record of the same order.
 * Messages of the trade (ship notices, events) are taken at `POST /messages`, once by key as well, and listed at `GET /messages`. `PUT /faults` with `{ "fault": "down" | null }`.
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
  orders: unknown[]
  fault: "down" | null
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
    state.value.fault = (JSON.parse((await bodyOf(request)).toString()) as { fault: "down" | null }).fault
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
  if (url.pathname !== "/reports" && url.pathname !== "/messages")
    return answerJson(response, 404, { error: "no such address" })
  state.value.messages ??= []
  const taken = url.pathname === "/reports" ? state.value.reports : state.value.messages
  if (request.method === "GET") return answerJson(response, 200, taken)
  if (request.method !== "POST") return answerJson(response, 405, { error: "GET or POST" })
  const text = await bodyOf(request)
  const body = url.pathname === "/reports" ? JSON.parse(text.toString()) : text.toString("latin1")
  if (state.value.fault === "down") return answerJson(response, 503, { error: "closed for maintenance" })
  const key = String(request.headers["idempotency-key"] ?? "")
  if (!key) return answerJson(response, 400, { error: "an idempotency-key is needed" })
  const known = taken.find((report) => report.key === key)
  if (known) known.times += 1
  else taken.push({ key, at: new Date().toISOString(), times: 1, body })
  state.save()
  answerJson(response, known ? 200 : 201, { taken: true })
})
