import { connect } from "../db/connection.ts"
import { reconcileStock } from "../stock/move.ts"
import { reconcile } from "./reconcile.ts"

/** Prints our ledger beside the carriers', and stock that is not the sum of its movements; ends with 1 for a difference. */
const db = connect()
const { carriers, differences } = await reconcile(db)
for (const one of carriers)
  process.stdout.write(
    `${one.carrier.padEnd(24)} ${String(one.booked).padStart(5)} booked ${String(one.void).padStart(4)} void ${one.amount.padStart(12)}\n`,
  )
for (const one of differences)
  process.stdout.write(`DIFFERS ${one.carrier} ${one.key}\n  ours:   ${one.ours}\n  theirs: ${one.theirs}\n`)
process.stdout.write(differences.length === 0 ? "the ledgers are equal\n" : `${differences.length} differences\n`)
const stock = await reconcileStock(db)
for (const one of stock)
  process.stdout.write(
    `STOCK ${one.bin} ${one.sku} ${one.lot ?? ""}: ${one.onHand} there, ${one.moved} moved; ${one.allocated} held, ${one.held} by orders\n`,
  )
process.stdout.write(stock.length === 0 ? "stock is the sum of its movements\n" : `${stock.length} places differ\n`)
await db.destroy()
process.exitCode = differences.length + stock.length === 0 ? 0 : 1
