import type { Migration } from "../migrate.ts"

/** The truck that an order of a run would leave with: once it has left, the rate is old. Every statement may be run again. */
export const runTrucks: Migration = {
  name: "0025-run-trucks",
  statements: [
    "ALTER TABLE shipping_run_order ADD COLUMN IF NOT EXISTS collection_id INT UNSIGNED NULL, DROP COLUMN IF EXISTS proposed",
  ],
}
