import { randomBytes, randomUUID } from "node:crypto"
import { join } from "node:path"
import { createRequestHandler } from "@react-router/express"
import compression from "compression"
import express, { type Express, type NextFunction, type Request, type Response } from "express"
import helmet from "helmet"
import type { Knex } from "knex"
import type { Logger } from "pino"
import { pinoHttp } from "pino-http"
import { RouterContextProvider, type ServerBuild } from "react-router"
import { say } from "words/index.ts"
import { actorOf } from "../accounts/sessions.ts"
import { hooks } from "../api/hooks.ts"
import { api } from "../api/index.ts"
import { closeAfter, limitBody, limited } from "../bodies/limitBody.ts"
import { type DatabaseFault, databaseFault } from "../db/faults.ts"
import { plainError } from "../log/index.ts"
import { frameContext, type RequestFrame } from "./context.ts"
import { sessionTokenOf } from "./cookies.ts"
import { visitLimit } from "./visitLimit.ts"

export interface AppSettings {
  readonly db: Knex
  readonly log: Logger
  readonly build: ServerBuild | (() => Promise<ServerBuild>)
  /** Screens come from Vite as they are saved: its scripts have no nonce, and its own socket is listened to. */
  readonly fromSources?: boolean
  /** Cookies by https only, and a proxy in front is believed. */
  readonly secure: boolean
  readonly demo: RequestFrame["demo"]
}

/** Longest wait of `/healthz` for the database. */
const healthMs = 2_000

/** Everything that answers a request, in its order: headers, files, the API, limits of bodies, the application. */
export function makeApp({ db, log, build, secure, demo, fromSources = false }: AppSettings): Express {
  const app = express()
  app.disable("x-powered-by")
  // nothing here reads Express's own view of a query, so nothing is parsed
  app.set("query parser", false)
  if (secure) app.set("trust proxy", 1)

  app.use((request, response, next) => {
    const id = String(request.headers["x-request-id"] ?? "").match(/^[\w-]{8,64}$/)?.[0] ?? randomUUID()
    response.locals.requestId = id
    response.locals.nonce = randomBytes(16).toString("base64")
    response.setHeader("x-request-id", id)
    next()
  })
  app.use(
    pinoHttp({
      logger: log,
      genReqId: (_request, response) => String((response as Response).locals.requestId),
      // what people look for stands in a query: the log keeps the path alone
      serializers: { req: ({ id, method, url }) => ({ id, method, url: String(url).split("?", 1)[0]?.slice(0, 200) }) },
      redact: ['res.headers["set-cookie"]', "res.headers.location"],
      customLogLevel: (_request, response, error) => (error || response.statusCode >= 500 ? "error" : "info"),
      autoLogging: { ignore: (request) => request.url === "/healthz" || (request.url ?? "").startsWith("/assets/") },
    }),
  )
  app.use((request, response, next) => {
    helmet({
      contentSecurityPolicy: !fromSources && {
        useDefaults: false,
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'", `'nonce-${response.locals.nonce}'`],
          styleSrcElem: ["'self'", `'nonce-${response.locals.nonce}'`],
          styleSrcAttr: ["'unsafe-inline'"],
          imgSrc: ["'self'", "data:"],
          fontSrc: ["'self'"],
          connectSrc: ["'self'"],
          workerSrc: ["'self'"],
          objectSrc: ["'none'"],
          baseUri: ["'none'"],
          frameAncestors: ["'none'"],
          formAction: ["'self'"],
        },
      },
      strictTransportSecurity: secure,
      referrerPolicy: { policy: "same-origin" },
    })(request, response, next)
  })
  app.use(compression())
  app.use(
    "/assets",
    express.static(join("build", "client", "assets"), {
      immutable: true,
      maxAge: "1y",
      index: false,
      fallthrough: false,
    }),
  )
  app.use(express.static(join("build", "client"), { maxAge: "1h", index: false }))

  app.get("/healthz", async (_request, response) => {
    response.setHeader("cache-control", "no-store")
    const silent = new Promise<never>((_resolve, reject) =>
      setTimeout(() => reject(new Error("silent")), healthMs).unref(),
    )
    try {
      await Promise.race([db.raw("SELECT 1"), silent])
      response.json({ ok: true })
    } catch {
      response.status(503).json({ ok: false, reason: "the database does not answer" })
    }
  })

  // other systems come with a token and no cookie, so no other site can send for them
  app.use("/api/v1", api(db))
  // carriers sign what they send; receivers have a link that nobody can guess
  const visits = visitLimit(db)
  app.use(["/follow", "/unsubscribe"], visits)
  const signed = hooks(db)
  app.use("/hooks", signed)
  app.post("/unsubscribe/:token", signed)

  app.use(sameOriginOnly)
  app.use(limitBody({ signedIn: (request) => isSignedIn(db, request.headers.cookie) }))
  const application = createRequestHandler({
    build,
    mode: process.env.NODE_ENV,
    getLoadContext(request, response) {
      const context = new RouterContextProvider()
      let fault: DatabaseFault | null = null
      context.set(frameContext, {
        db,
        nonce: response.locals.nonce,
        requestId: response.locals.requestId,
        address: request.ip ?? "",
        demo,
        secure,
        bodyRefusal: response.locals.bodyRefusal ?? null,
        note: (error) => {
          fault ??= databaseFault(error)
          if (fault === "away" && !response.headersSent) response.setHeader("retry-after", "10")
          const what = { err: plainError(error), requestId: response.locals.requestId }
          if (databaseFault(error) === "bad") log.warn(what, "a value could not be used")
          else log.error(what, "a request failed")
        },
        fault: () => fault,
      })
      return context
    },
  })
  app.use((request, response, next) => application(limited(request), response, next))
  app.use((error: { status?: number }, request: Request, response: Response, _next: NextFunction) => {
    if (response.headersSent) return void response.destroy()
    // an address that Express itself can't read, such as a broken percent sign
    const readable = !(error.status && error.status >= 400 && error.status < 500)
    const status = !readable ? (error.status as number) : databaseFault(error) === "away" ? 503 : 500
    if (readable) log.error({ err: error, requestId: response.locals.requestId }, "a request failed")
    if (status === 503) response.setHeader("retry-after", "10")
    closeAfter(request, response)
    response
      .status(status)
      .type("text")
      .send(`${say(status === 500 ? "problem.ours" : status === 503 ? "problem.database" : "problem.address")}\n`)
  })
  return app
}

async function isSignedIn(db: Knex, cookie: string | undefined): Promise<boolean> {
  const token = await sessionTokenOf(cookie)
  return token !== null && (await actorOf(db, token)) !== null
}

/**
 * Against forged requests from other sites: whatever changes something must come from a page of our own, by the
 * browser's Sec-Fetch-Site, or by Origin where a browser does not send it. With SameSite=Lax cookies beside it.
 */
function sameOriginOnly(request: Request, response: Response, next: NextFunction): void {
  if (request.method === "GET" || request.method === "HEAD") return next()
  const site = request.headers["sec-fetch-site"]
  const origin = request.headers.origin
  const own = site
    ? site === "same-origin"
    : origin !== undefined && URL.canParse(origin) && new URL(origin).host === request.headers.host
  if (own) return next()
  closeAfter(request, response)
  response.status(403).type("text").send(say("problem.other-site"))
}
