import type { Migration } from "../migrate.ts"

/** What a day of use asked for. Every statement may be run again. */
export const oneAnswer: Migration = {
  name: "0017-one-answer",
  statements: [
    // the ship date that a person set at the bench; null: as asked, as chosen, or the next one
    "ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS chosen_ship_on DATE NULL",
  ],
}
