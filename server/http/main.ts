import { createServer } from "node:http"
import * as build from "virtual:react-router/server-build"
import type { ServerBuild } from "react-router"
import { connect, patience } from "../db/connection.ts"
import { endLive } from "../live/index.ts"
import { makeLog } from "../log/index.ts"
import { makeApp } from "./app.ts"
import { demoOf } from "./demo.ts"
import { listen } from "./listen.ts"

const log = makeLog("app")
const db = connect(process.env.VARNOK_DATABASE, patience.page)
const app = makeApp({
  db,
  log,
  build: build as unknown as ServerBuild,
  secure: process.env.VARNOK_SECURE === "1",
  demo: demoOf(process.env.VARNOK_DEMO),
})

// a sender that trickles its headers, or its body beyond what any route allows, holds its connection for so long
const server = createServer({ headersTimeout: 15_000, requestTimeout: 330_000, keepAliveTimeout: 10_000 }, app)
server.maxHeadersCount = 100
server.maxConnections = 4_000

const port = await listen(
  server,
  Number(process.env.PORT ?? 4800),
  process.env.HOST ?? "127.0.0.1",
  // the start command lets a demo move on from a port that is taken
  Number(process.env.VARNOK_PORT_TRIES ?? 1),
)
// what a preview links to where nobody said where we are reached from outside
process.env.VARNOK_PUBLIC_URL ??= `http://127.0.0.1:${port}`
log.info({ port }, "listening")

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
