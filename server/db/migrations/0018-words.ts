import type { Migration } from "../migrate.ts"

/** How each person is told things, an order's number by its name, and whose a job is. Every statement may be run again. */
export const words: Migration = {
  name: "0018-words",
  statements: [
    "ALTER TABLE user ADD COLUMN IF NOT EXISTS language CHAR(2) NOT NULL DEFAULT 'en'",
    // how times of the day are written: 24 or 12 hours
    "ALTER TABLE user ADD COLUMN IF NOT EXISTS clock CHAR(2) NOT NULL DEFAULT '24'",
    "ALTER TABLE sales_order RENAME COLUMN IF EXISTS bench_number TO order_number",
    "ALTER TABLE warehouse RENAME COLUMN IF EXISTS bench_serial TO order_serial",
    // whose a job is, said when it is queued; those that wait already are everybody's
    "ALTER TABLE job ADD COLUMN IF NOT EXISTS warehouse_id INT UNSIGNED NULL",
    "ALTER TABLE job ADD COLUMN IF NOT EXISTS order_id INT UNSIGNED NULL",
    "ALTER TABLE job ADD INDEX IF NOT EXISTS job_failed (state, warehouse_id, id)",
    "ALTER TABLE job ADD INDEX IF NOT EXISTS job_done (kind, state, done_at)",
    // where a package was seen last, as a code and its door
    "UPDATE package SET seen_where = CONCAT('truck:', SUBSTRING(seen_where, 15)) WHERE seen_where LIKE 'truck at door %'",
    "UPDATE package SET seen_where = CONCAT('door:', SUBSTRING(seen_where, 6)) WHERE seen_where LIKE 'door %'",
  ],
}
