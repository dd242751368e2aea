import type { Knex } from "knex"
import { migrations } from "./migrations/index.ts"

/** A step forward of the schema. DDL commits by itself in MariaDB, so every statement must stand being run again. */
export interface Migration {
  readonly name: string
  readonly statements: readonly string[]
}

/** Brings the schema to the newest state with Knex's own bookkeeping; returns the names of the steps taken. */
export async function migrate(db: Knex, steps: readonly Migration[] = migrations): Promise<string[]> {
  const source: Knex.MigrationSource<Migration> = {
    getMigrations: async () => [...steps],
    getMigrationName: (step) => step.name,
    getMigration: async (step) => ({
      config: { transaction: false },
      up: async (connection: Knex) => {
        for (const statement of step.statements) await connection.raw(statement)
      },
      down: async () => {
        throw new Error(`migrations go forward only; restore a backup to go behind ${step.name}`)
      },
    }),
  }
  const [, taken] = (await db.migrate.latest({ migrationSource: source })) as [number, string[]]
  return taken
}
