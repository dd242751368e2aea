import type { Migration } from "../migrate.ts"

/** Drop-offs: departures with which we bring packages to a carrier's place ourselves. Every statement may be run again. */
export const dropOff: Migration = {
  name: "0037-drop-off",
  statements: [
    "ALTER TABLE collection ADD COLUMN IF NOT EXISTS drop_off JSON NULL",
    // where packages of a carrier are brought from a warehouse, where that is another than the nearest place
    `CREATE TABLE IF NOT EXISTS drop_place (
      warehouse_id INT UNSIGNED NOT NULL, carrier_id INT UNSIGNED NOT NULL, code VARCHAR(40) NOT NULL,
      PRIMARY KEY (warehouse_id, carrier_id), FOREIGN KEY (carrier_id) REFERENCES carrier (id))`,
  ],
}
