import { randomBytes, randomUUID } from "node:crypto"
import { join } from "node:path"
import * as build from "virtual:react-router/server-build"
import { createRequestHandler } from "@react-router/express"
import compression from "compression"
import express, { type NextFunction, type Request, type Response } from "express"
import helmet from "helmet"
import { pino } from "pino"
import { pinoHttp } from "pino-http"
import { RouterContextProvider, type ServerBuild } from "react-router"
import { api } from "../api/index.ts"
import { connect } from "../db/connection.ts"
import { endLive } from "../live/index.ts"
import { frameContext } from "./context.ts"

const log = pino({ name: "app", level: process.env.VARNOK_LOG ?? "info" })
const db = connect()
const app = express()
const secure = process.env.VARNOK_SECURE === "1"
app.disable("x-powered-by")
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
    redact: ["req.headers.cookie", "req.headers.authorization", 'res.headers["set-cookie"]'],
    autoLogging: { ignore: (request) => request.url === "/healthz" || (request.url ?? "").startsWith("/assets/") },
  }),
)
app.use((request, response, next) => {
  helmet({
    contentSecurityPolicy: {
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
  try {
    await db.raw("SELECT 1")
    response.json({ ok: true })
  } catch {
    response.status(503).json({ ok: false, reason: "the database does not answer" })
  }
})

// other systems come with a token and no cookie, so no other site can send for them
app.use("/api/v1", api(db))

app.use(sameOriginOnly)
app.use(
  createRequestHandler({
    build: build as unknown as ServerBuild,
    mode: process.env.NODE_ENV,
    getLoadContext(request, response) {
      const context = new RouterContextProvider()
      context.set(frameContext, {
        db,
        nonce: response.locals.nonce,
        requestId: response.locals.requestId,
        address: request.ip ?? "",
        demoPassword: process.env.VARNOK_DEMO ?? null,
        secure,
      })
      return context
    },
  }),
)

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
  response
    .status(403)
    .type("text")
    .send("This request came from another site and was not carried out. Open Varnok itself and try again.")
}

const server = app.listen(Number(process.env.PORT ?? 4800), process.env.HOST ?? "127.0.0.1", () => {
  log.info({ port: (server.address() as { port: number }).port }, "listening")
})

let closing = false
for (const signal of ["SIGTERM", "SIGINT"] as const) {
  process.on(signal, () => {
    if (closing) return
    closing = true
    log.info("stopping")
    server.close(() => void db.destroy().then(() => process.exit(0)))
    endLive()
    server.closeIdleConnections()
    setTimeout(() => server.closeAllConnections(), 5_000).unref()
  })
}
