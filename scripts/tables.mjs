import { existsSync, mkdtempSync, writeFileSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { removeDatabase, startDatabase } from "./database.mjs"

/** Writes server/db/tables.ts from a database that is migrated for it: `npm run tables`, after each migration. */
const folder = mkdtempSync(join(existsSync("/dev/shm") ? "/dev/shm" : tmpdir(), "varnok-tables-"))
const database = await startDatabase(folder, { firstPort: 33900, volatile: true })
try {
  const { connect } = await import("../server/db/connection.ts")
  const { migrate } = await import("../server/db/migrate.ts")
  const { tableTypes } = await import("../server/db/tableTypes.ts")
  const root = connect(database.url)
  await root.raw("CREATE DATABASE IF NOT EXISTS varnok_tables")
  await root.destroy()
  const at = new URL(database.url)
  at.pathname = "/varnok_tables"
  const db = connect(at.href)
  await migrate(db)
  writeFileSync("server/db/tables.ts", await tableTypes(db))
  await db.destroy()
} finally {
  await database.stop()
  removeDatabase(folder)
}
