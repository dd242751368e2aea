import type { SourceId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { businessNow } from "../clock/index.ts"
import { type Due, type Handler, handler } from "../jobs/kind.ts"
import { watchFolder } from "./folder.ts"
import { importing, importingOne, pulling, watching } from "./jobs.ts"
import { pullOrders } from "./pull.ts"
import { takeAside, takePart } from "./take.ts"

/** Sources that are looked at by themselves, at the interval that each is set up with. */
const dueSources = async (db: Knex, folder: boolean): Promise<Due<{ readonly sourceId: SourceId }>[]> => {
  const rows: { id: number; pull_every_s: number }[] = await db("order_source")
    .where({ active: true })
    .where(
      (some) =>
        void (folder
          ? some.where("kind", "folder").whereNotNull("folder")
          : some.whereNot("kind", "folder").whereNotNull("pull_url")),
    )
    .select("id", "pull_every_s")
  return rows.map((row) => ({
    everyMs: row.pull_every_s * 1_000,
    key: `${folder ? watching.name : pulling.name}:${row.id}`,
    payload: { sourceId: row.id },
  }))
}

export const intakeHandlers: readonly Handler[] = [
  handler(importing, async ({ db, payload }) => takePart(db, payload, await businessNow(db))),
  handler(importingOne, async ({ db, payload }) => takeAside(db, payload, await businessNow(db))),
  handler(
    pulling,
    async ({ db, payload }) => void (await pullOrders(db, payload.sourceId)),
    (db) => dueSources(db, false),
  ),
  handler(
    watching,
    async ({ db, payload }) => void (await watchFolder(db, payload.sourceId)),
    (db) => dueSources(db, true),
  ),
]
