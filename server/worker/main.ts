import { connect } from "../db/connection.ts"
import { makeLog } from "../log/index.ts"
import { work } from "./index.ts"

const log = makeLog("worker")
const db = connect()
const stop = new AbortController()
for (const signal of ["SIGTERM", "SIGINT"] as const) process.once(signal, () => stop.abort())
log.info("listening for jobs")
await work(db, stop.signal, log)
await db.destroy()
log.info("worker stopped")
