import { connect } from "../db/connection.ts"
import { makeLog } from "../log/index.ts"
import { listenForBounces } from "../telling/bounces.ts"
import { work } from "./index.ts"

const log = makeLog("worker")
const db = connect()
const stop = new AbortController()
for (const signal of ["SIGTERM", "SIGINT"] as const) process.once(signal, () => stop.abort())
const bounces = process.env.VARNOK_BOUNCE_PORT
  ? listenForBounces(db, Number(process.env.VARNOK_BOUNCE_PORT), process.env.VARNOK_BOUNCE_HOST ?? "127.0.0.1", log)
  : null
log.info("listening for jobs")
await work(db, stop.signal, log)
bounces?.close()
await db.destroy()
log.info("worker stopped")
