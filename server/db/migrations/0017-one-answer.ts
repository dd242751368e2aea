import type { Migration } from "../migrate.ts"

/** What a day of use asked for. Every statement may be run again. */
export const oneAnswer: Migration = {
  name: "0017-one-answer",
  statements: [
    // the ship date that a person set at the bench; null: as asked, as chosen, or the next one
    "ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS chosen_ship_on DATE NULL",
    // lines that the lead changed: what the source sends after that waits for a decision
    "ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS lines_changed_at DATETIME(3) NULL",
    // what orders were joined for: by themselves and together, kept on the leading one
    "ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS joined_for JSON NULL",
    // our cost goes to a source only where it is set so
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS report_cost BOOLEAN NOT NULL DEFAULT FALSE",
  ],
}
