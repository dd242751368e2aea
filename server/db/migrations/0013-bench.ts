import type { Migration } from "../migrate.ts"

/**
 * The bench: what items allow in a package, packaging with stock, one-off and own cartons, overrides by the lead, lots in
 * packages, scales, packing slips and logistic labels. Every statement may be run again.
 */
export const bench: Migration = {
  name: "0013-bench",
  statements: [
    `ALTER TABLE document MODIFY kind
      ENUM('label','manifest','bill-of-lading','invoice','pick-list','packing-slip','logistic-label') NOT NULL`,
    `ALTER TABLE warehouse ADD COLUMN IF NOT EXISTS slip JSON NOT NULL DEFAULT '{}',
      ADD COLUMN IF NOT EXISTS weight_tolerance DECIMAL(6,4) NOT NULL DEFAULT 0.1`,
    "ALTER TABLE customer ADD COLUMN IF NOT EXISTS slip JSON NOT NULL DEFAULT '{}'",
    `ALTER TABLE item ADD COLUMN IF NOT EXISTS stackable BOOLEAN NOT NULL DEFAULT TRUE,
      ADD COLUMN IF NOT EXISTS load_limit_kg DECIMAL(20,12) NULL, ADD COLUMN IF NOT EXISTS fragile BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN IF NOT EXISTS own_carton BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN IF NOT EXISTS goods_kind ENUM('general','food','chemical') NOT NULL DEFAULT 'general'`,
    `CREATE TABLE IF NOT EXISTS packaging_stock (
      warehouse_id INT UNSIGNED NOT NULL, packaging_id INT UNSIGNED NOT NULL, on_hand INT NOT NULL DEFAULT 0,
      low_at INT UNSIGNED NOT NULL DEFAULT 0, version INT UNSIGNED NOT NULL DEFAULT 1,
      PRIMARY KEY (warehouse_id, packaging_id),
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id), FOREIGN KEY (packaging_id) REFERENCES packaging (id))`,
    `ALTER TABLE packaging ADD COLUMN IF NOT EXISTS active BOOLEAN NOT NULL DEFAULT TRUE,
      ADD COLUMN IF NOT EXISTS version INT UNSIGNED NOT NULL DEFAULT 1`,
    `ALTER TABLE package ADD COLUMN IF NOT EXISTS origin ENUM('catalogue','one-off','own') NOT NULL DEFAULT 'catalogue',
      ADD COLUMN IF NOT EXISTS max_load_kg DECIMAL(20,12) NULL, ADD COLUMN IF NOT EXISTS overrides JSON NOT NULL DEFAULT '[]',
      ADD COLUMN IF NOT EXISTS used_packaging_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS planned JSON NULL`,
    `CREATE TABLE IF NOT EXISTS package_lot (
      package_id INT UNSIGNED NOT NULL, order_line_id INT UNSIGNED NOT NULL, lot_id INT UNSIGNED NOT NULL,
      quantity INT UNSIGNED NOT NULL, PRIMARY KEY (package_id, order_line_id, lot_id),
      FOREIGN KEY (package_id) REFERENCES package (id), FOREIGN KEY (lot_id) REFERENCES lot (id))`,
    `CREATE TABLE IF NOT EXISTS scale (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, name VARCHAR(40) NOT NULL,
      host VARCHAR(100) NOT NULL, port SMALLINT UNSIGNED NOT NULL, active BOOLEAN NOT NULL DEFAULT TRUE,
      UNIQUE (warehouse_id, name), FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
  ],
}
