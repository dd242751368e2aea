import type { Migration } from "../migrate.ts"

/** What was taken last of an order's advice, and what it needs to be taken back. May be run again. */
export const advice: Migration = {
  name: "0028-advice",
  statements: ["ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS advice_taken JSON NULL"],
}
