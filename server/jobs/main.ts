import { pino } from "pino"
import { connect } from "../db/connection.ts"
import { work } from "./worker.ts"

const log = pino({ name: "worker", level: process.env.VARNOK_LOG ?? "info" })
const db = connect()
const stop = new AbortController()
for (const signal of ["SIGTERM", "SIGINT"] as const) process.once(signal, () => stop.abort())
log.info("worker at work")
await work(db, stop.signal, log)
await db.destroy()
log.info("worker stopped")
