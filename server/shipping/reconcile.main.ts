import { connect } from "../db/connection.ts"
import { reconcile } from "./reconcile.ts"

/** Prints our ledger beside the carriers'; ends with 1 when they differ. */
const db = connect()
const { carriers, differences } = await reconcile(db)
for (const one of carriers)
  process.stdout.write(
    `${one.carrier.padEnd(24)} ${String(one.booked).padStart(5)} booked ${String(one.void).padStart(4)} void ${one.amount.padStart(12)}\n`,
  )
for (const one of differences)
  process.stdout.write(`DIFFERS ${one.carrier} ${one.key}\n  ours:   ${one.ours}\n  theirs: ${one.theirs}\n`)
process.stdout.write(differences.length === 0 ? "the ledgers are equal\n" : `${differences.length} differences\n`)
await db.destroy()
process.exitCode = differences.length === 0 ? 0 : 1
