import { resumeClock } from "server/clock/index.ts"
import { connect } from "server/db/connection.ts"
import { loadDemo } from "./load.ts"
import { type Addresses, loadCarriers, moveAddresses } from "./setup.ts"
import { loadTrackingCodes } from "./tracking.ts"

/** Loads the demo into an empty schema, or tells an existing one where the stand-ins are now and resumes its clock. */
const addresses = JSON.parse(process.env.VARNOK_STANDINS ?? "{}") as Addresses
const tariffs = process.env.VARNOK_TARIFFS ?? "demo/tariffs"
const db = connect()
const known = await db("warehouse").first("id")
if (known) {
  await loadCarriers(db, addresses, tariffs)
  await loadTrackingCodes(db)
  await moveAddresses(db, addresses)
  await resumeClock(db)
} else {
  await loadDemo(db, addresses, tariffs)
  process.stdout.write("the demo is loaded\n")
}
await db.destroy()
