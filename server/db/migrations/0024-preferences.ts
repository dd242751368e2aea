import type { Migration } from "../migrate.ts"

/** What a person, a bench and a warehouse are used to. Every statement may be run again. */
export const preferences: Migration = {
  name: "0024-preferences",
  statements: [
    // of the warehouse where bench and person are 0
    `CREATE TABLE IF NOT EXISTS preference (
      warehouse_id INT UNSIGNED NOT NULL, bench INT UNSIGNED NOT NULL DEFAULT 0, person INT UNSIGNED NOT NULL DEFAULT 0,
      body JSON NOT NULL, PRIMARY KEY (warehouse_id, bench, person), FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
    // the form that whoever asked for it is used to, where the printer has the sheet for it
    "ALTER TABLE print_job ADD COLUMN IF NOT EXISTS form VARCHAR(16) NOT NULL DEFAULT ''",
  ],
}
