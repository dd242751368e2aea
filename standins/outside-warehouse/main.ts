import { answerJson, argument, bodyOf, FileState, serve } from "../process.ts"

/**
 * A warehouse of others that ships our orders, simulated: takes an order once at `PUT /v1/orders/KEY`, tells where it
 * stands at `GET /v1/orders/KEY` (`taken`, `shipped` with carrier and tracking), and gives it back at `DELETE` unless it
 * is shipped. It ships by itself after some seconds, or at once by `POST /ship`. It keeps no item whose SKU begins with
 * one of `--without`. `PUT /faults` with `{ "fault": "down" | "lose-answer" | null }`.
 *
 * Arguments: --state FILE --port N [--ship-after SECONDS] [--without PREFIX,PREFIX]
 */
interface Kept {
  readonly key: string
  readonly number: string
  readonly takenAt: number
  state: "taken" | "shipped" | "recalled"
  reference: string
  carrier: string
  service: string
  packages: { trackingNumber: string; weightLb: string }[]
}

type Fault = "down" | "lose-answer" | null
const state = new FileState<{ orders: Record<string, Kept>; serial: number; fault: Fault }>(argument("state"), {
  orders: {},
  serial: 0,
  fault: null,
})
const shipAfterMs = Number(argument("ship-after", "0")) * 1_000
const without = argument("without", "").split(",").filter(Boolean)

function ship(order: Kept): void {
  state.value.serial += 1
  order.state = "shipped"
  order.packages = [{ trackingNumber: `HR${String(700_000_000 + state.value.serial)}`, weightLb: "12.40" }]
}

const shown = ({ key, state: stands, reference, carrier, service, packages }: Kept) => ({
  key,
  state: stands,
  reference,
  carrier,
  service,
  packages,
})

serve(Number(argument("port", "0")), async (request, response) => {
  const { pathname } = new URL(request.url ?? "/", "http://outside")
  if (pathname === "/faults" && request.method === "PUT") {
    state.value.fault = (JSON.parse((await bodyOf(request)).toString()) as { fault: Fault }).fault
    state.save()
    return answerJson(response, 200, { fault: state.value.fault })
  }
  if (pathname === "/ship" && request.method === "POST") {
    for (const order of Object.values(state.value.orders)) if (order.state === "taken") ship(order)
    state.save()
    return answerJson(response, 200, { shipped: true })
  }
  if (pathname === "/v1/orders") return answerJson(response, 200, Object.values(state.value.orders))
  const key = /^\/v1\/orders\/([\w-]{8,64})$/.exec(pathname)?.[1]
  if (!key) return answerJson(response, 404, { reason: "no such address" })
  if (state.value.fault === "down") return void request.socket.destroy()
  const known = state.value.orders[key]
  if (request.method === "GET") {
    if (!known) return answerJson(response, 404, { reason: "no such order" })
    if (known.state === "taken" && shipAfterMs > 0 && Date.now() - known.takenAt > shipAfterMs) {
      ship(known)
      state.save()
    }
    return answerJson(response, 200, shown(known))
  }
  if (request.method === "DELETE") {
    if (known?.state === "shipped") return answerJson(response, 409, { reason: "it is shipped" })
    if (known) known.state = "recalled"
    state.save()
    return answerJson(response, 200, { key, state: "recalled" })
  }
  if (request.method !== "PUT") return answerJson(response, 405, { reason: "PUT, GET or DELETE" })
  if (known) return answerJson(response, known.state === "recalled" ? 410 : 200, shown(known))
  const body = JSON.parse((await bodyOf(request)).toString()) as { number: string; lines: { sku: string }[] }
  const strange = body.lines.find((line) => without.some((prefix) => line.sku.startsWith(prefix)))
  if (strange) return answerJson(response, 422, { reason: `${strange.sku} is not kept here` })
  const order: Kept = {
    key,
    number: body.number,
    takenAt: Date.now(),
    state: "taken",
    reference: `HR-${1_000 + Object.keys(state.value.orders).length}`,
    carrier: "Hollow Road Haulage",
    service: "Standard",
    packages: [],
  }
  state.value.orders[key] = order
  state.save()
  if (state.value.fault === "lose-answer") {
    state.value.fault = null
    state.save()
    return void request.socket.destroy()
  }
  return answerJson(response, 201, shown(order))
})
