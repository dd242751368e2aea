import express, { type NextFunction, type Request, type Response, type Router } from "express"
import type { Knex } from "knex"
import { sendingMs } from "../bodies/bodyLimits.ts"
import { closeAfter, collect, declared, hasBody } from "../bodies/limitBody.ts"
import { businessNow } from "../clock/index.ts"
import { databaseFault } from "../db/faults.ts"
import { plainError } from "../log/index.ts"
import { NoKey } from "../secrets/index.ts"
import { unsubscribe } from "../telling/blocks.ts"
import { unsubscribed } from "../telling/links.ts"
import { takePush } from "../tracking/push.ts"

/** Most bytes of a message: some hundred events, or one with a picture. */
const mostBytes = 2 * 1024 * 1024
/** Most bytes of a press, and how mail programs and pages send it (RFC 8058). */
const mostPressed = 1_024
const pressedAs = new Set(["", "application/x-www-form-urlencoded", "multipart/form-data"])
const named = ["webhook-id", "webhook-timestamp", "webhook-signature"] as const

/**
 * `/hooks/carriers/{code}`: events that carriers send by themselves, signed as the Standard Webhooks specification has it.
 * Whoever signs wrongly learns nothing: an unknown carrier and a wrong signature are answered alike.
 */
export function hooks(db: Knex): Router {
  const router = express.Router()
  router.post("/carriers/:code", async (request, response) => {
    response.setHeader("cache-control", "no-store")
    const turnDown = (status: number, error: string) => {
      if (hasBody(request)) closeAfter(request, response)
      response.status(status).json({ error })
    }
    if (declared(request) > mostBytes) return turnDown(413, "too large")
    if (request.headers["content-encoding"]) return turnDown(415, "not compressed")
    const headers = Object.fromEntries(named.map((name) => [name, String(request.headers[name] ?? "").slice(0, 1_000)]))
    if (named.some((name) => headers[name] === "")) return turnDown(401, "not signed")
    const body = hasBody(request) ? await collect(request, mostBytes, sendingMs.form) : Buffer.alloc(0)
    if ("status" in body) return turnDown(body.status, "not read")
    const answer = await takePush(db, String(request.params.code).slice(0, 8), body, headers)
    if (answer === "taken") return void response.status(204).end()
    if (answer === "unreadable") return turnDown(400, "not events")
    turnDown(401, "not signed")
  })
  // one press in a mail program (RFC 8058), or in the page that its link shows
  router.post("/unsubscribe/:token", async (request, response) => {
    const turnDown = (status: number) => {
      if (hasBody(request)) closeAfter(request, response)
      response.status(status).json({ error: "not taken" })
    }
    if (declared(request) > mostPressed) return turnDown(413)
    const kind = (request.headers["content-type"] ?? "").split(";", 1)[0]?.trim().toLowerCase() ?? ""
    if (request.headers["content-encoding"] || !pressedAs.has(kind)) return turnDown(415)
    const body = hasBody(request) ? await collect(request, mostPressed, sendingMs.form) : Buffer.alloc(0)
    if ("status" in body) return turnDown(body.status)
    // nothing but the press itself is asked for
    if (
      body.length > 0 &&
      !/^[\s\S]{0,200}List-Unsubscribe[\s\S]{1,60}One-Click[\s\S]{0,200}$/.test(body.toString("latin1"))
    )
      return turnDown(415)
    const id = unsubscribed(String(request.params.token))
    if (id === null || !(await unsubscribe(db, id, await businessNow(db)))) return turnDown(404)
    response.redirect(303, `/unsubscribe/${request.params.token}?done`)
  })
  router.use((_request, response) => void response.status(404).json({ error: "no such address" }))
  router.use((error: unknown, request: Request, response: Response, _next: NextFunction) => {
    if (response.headersSent) return void response.destroy()
    request.log?.error({ err: plainError(error as Error), requestId: response.locals.requestId }, "a message failed")
    const away = databaseFault(error) === "away" || error instanceof NoKey
    if (away) response.setHeader("retry-after", "30")
    response.status(away ? 503 : 500).json({ error: "try again later" })
  })
  return router
}
