import { randomBytes } from "node:crypto"
import type { Knex } from "knex"
import { connect } from "server/db/connection.ts"
import { migrate } from "server/db/migrate.ts"
import { inject } from "vitest"
import { sql } from "../../scripts/database.mjs"

/** A database of its own with the newest schema; `url` for programs beside the test, `drop` at the end. */
export async function freshDatabase(): Promise<{ db: Knex; url: string; drop: () => Promise<void> }> {
  const name = `varnok_${randomBytes(6).toString("hex")}`
  const socket = inject("databaseSocket")
  sql(socket, `CREATE DATABASE ${name}`)
  const url = inject("databaseUrl").replace(/\/varnok$/, `/${name}`)
  const db = connect(url)
  await migrate(db)
  return {
    db,
    url,
    drop: async () => {
      await db.destroy()
      sql(socket, `DROP DATABASE ${name}`)
    },
  }
}
