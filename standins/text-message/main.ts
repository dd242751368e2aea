import { answerJson, argument, bodyOf, FileState, serve } from "../process.ts"

/**
 * A service for short messages, simulated: `PUT /v1/messages/{key}` takes `{ to, text }` once by its key, `GET /v1/messages`
 * and `GET /` list them. It refuses what is no number (E.164), text over 612 signs, and numbers that end in 0000; `PUT
 * /faults` with `{ "fault": "down" | "busy" | null }`.
 *
 * Arguments: --state FILE --port N
 */
interface State {
  messages: { key: string; to: string; text: string; at: string }[]
  fault: "down" | "busy" | null
}
const state = new FileState<State>(argument("state"), { messages: [], fault: null })

serve(Number(argument("port", "0")), async (request, response) => {
  const { pathname } = new URL(request.url ?? "/", "http://text")
  if (pathname === "/faults" && request.method === "PUT") {
    state.value.fault = (JSON.parse((await bodyOf(request)).toString()) as { fault: State["fault"] }).fault
    state.save()
    return answerJson(response, 200, { fault: state.value.fault })
  }
  if (pathname === "/" || pathname === "/v1/messages") return answerJson(response, 200, state.value.messages)
  const key = /^\/v1\/messages\/([\w-]{3,80})$/.exec(pathname)?.[1]
  if (!key || request.method !== "PUT") return answerJson(response, 404, { reason: "no such address" })
  if (state.value.fault === "down") return void request.socket.destroy()
  const { to = "", text = "" } = JSON.parse((await bodyOf(request)).toString()) as { to?: string; text?: string }
  if (state.value.fault === "busy") return answerJson(response, 429, { reason: "too many, later" })
  const known = state.value.messages.find((one) => one.key === key)
  if (known) return answerJson(response, 200, known)
  if (!/^\+[1-9]\d{6,14}$/.test(to) || to.endsWith("0000"))
    return answerJson(response, 422, { reason: "no such number" })
  if (text === "" || text.length > 612) return answerJson(response, 422, { reason: "text is empty or too long" })
  const message = { key, to, text, at: new Date().toISOString() }
  state.value.messages.push(message)
  state.save()
  answerJson(response, 201, message)
})
