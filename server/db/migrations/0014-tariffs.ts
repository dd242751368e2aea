import type { Migration } from "../migrate.ts"

/**
 * A carrier's tariff is one document with versions; what a shipment was priced by; what is asked for it and who pays;
 * what a carrier may differ by, and what is left of a prepaid balance. The tables `tariff` and `zone_chart` of releases
 * before are read by nothing any more and left as they are. Every statement may be run again.
 */
export const tariffs: Migration = {
  name: "0014-tariffs",
  statements: [
    `CREATE TABLE IF NOT EXISTS tariff_version (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, carrier_id INT UNSIGNED NOT NULL, number INT UNSIGNED NOT NULL,
      state ENUM('draft','released','withdrawn') NOT NULL DEFAULT 'draft', valid_from DATE NOT NULL, valid_to DATE NULL,
      body JSON NOT NULL, revision INT UNSIGNED NOT NULL DEFAULT 1,
      made_by VARCHAR(60) NOT NULL, made_at DATETIME(3) NOT NULL, released_by VARCHAR(60) NULL, released_at DATETIME(3) NULL,
      UNIQUE (carrier_id, number), INDEX (state, valid_from), FOREIGN KEY (carrier_id) REFERENCES carrier (id))`,
    `ALTER TABLE service ADD COLUMN IF NOT EXISTS mode
      ENUM('parcel','post','freight','air','groupage','own') NOT NULL DEFAULT 'parcel'`,
    `ALTER TABLE carrier ADD COLUMN IF NOT EXISTS prepaid_balance DECIMAL(14,2) NULL,
      ADD COLUMN IF NOT EXISTS account_form VARCHAR(40) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS tolerance DECIMAL(14,2) NOT NULL DEFAULT 0`,
    `ALTER TABLE shipment ADD COLUMN IF NOT EXISTS wishes JSON NOT NULL DEFAULT '{}',
      ADD COLUMN IF NOT EXISTS tariff_version_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS liftgate BOOLEAN NOT NULL DEFAULT FALSE`,
    `UPDATE shipment SET wishes = '{"options":["liftgate"]}' WHERE liftgate AND wishes = '{}'`,
    "ALTER TABLE shipment DROP COLUMN liftgate",
    "ALTER TABLE buy_intent ADD COLUMN IF NOT EXISTS tariff_version_id INT UNSIGNED NULL",
  ],
}
