import type { Migration } from "../migrate.ts"

/** How each person is told things, and an order's number by its name. Every statement may be run again. */
export const words: Migration = {
  name: "0018-words",
  statements: [
    "ALTER TABLE user ADD COLUMN IF NOT EXISTS language CHAR(2) NOT NULL DEFAULT 'en'",
    // how times of the day are written: 24 or 12 hours
    "ALTER TABLE user ADD COLUMN IF NOT EXISTS clock CHAR(2) NOT NULL DEFAULT '24'",
    "ALTER TABLE sales_order RENAME COLUMN IF EXISTS bench_number TO order_number",
    "ALTER TABLE warehouse RENAME COLUMN IF EXISTS bench_serial TO order_serial",
  ],
}
