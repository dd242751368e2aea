import type { Migration } from "../migrate.ts"

/** Lots may be asked to stay in one package as well as lines. May be run again. */
export const lots: Migration = {
  name: "0027-lots",
  statements: ["ALTER TABLE warehouse MODIFY COLUMN keep_together ENUM('no','lines','lots') NOT NULL DEFAULT 'no'"],
}
