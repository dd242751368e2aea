import type { Migration } from "../migrate.ts"

/**
 * Collections that are booked with a carrier, and trucks that come only when they are. Every statement may be run again.
 */
export const booked: Migration = {
  name: "0031-booked",
  statements: [
    `CREATE TABLE IF NOT EXISTS booked_collection (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      warehouse_id INT UNSIGNED NOT NULL, carrier_id INT UNSIGNED NOT NULL, collection_id INT UNSIGNED NULL,
      own_truck BOOLEAN NOT NULL DEFAULT FALSE, order_id INT UNSIGNED NULL,
      press_key VARCHAR(64) COLLATE utf8mb4_bin NOT NULL UNIQUE, once_key CHAR(36) COLLATE utf8mb4_bin NOT NULL UNIQUE,
      revision SMALLINT UNSIGNED NOT NULL DEFAULT 1, asked SMALLINT UNSIGNED NOT NULL DEFAULT 1,
      state ENUM('asking','booked','refused','cancelling','cancelled') NOT NULL,
      ask JSON NOT NULL, held JSON NULL,
      fee DECIMAL(12,2) NOT NULL, currency CHAR(3) NOT NULL,
      number VARCHAR(60) COLLATE utf8mb4_bin NOT NULL DEFAULT '', trouble JSON NULL,
      on_date DATE NOT NULL,
      asked_at DATETIME(3) NOT NULL, asked_by VARCHAR(80) NOT NULL, answered_at DATETIME(3) NULL,
      KEY booked_on (warehouse_id, on_date), KEY booked_truck (collection_id), KEY booked_number (warehouse_id, number),
      FOREIGN KEY (carrier_id) REFERENCES carrier (id))`,
    `ALTER TABLE collection
      ADD COLUMN IF NOT EXISTS on_call BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN IF NOT EXISTS cancelled_at DATETIME(3) NULL`,
    "ALTER TABLE collection_rule ADD COLUMN IF NOT EXISTS on_call BOOLEAN NOT NULL DEFAULT FALSE",
    "ALTER TABLE closing_address ADD COLUMN IF NOT EXISTS purpose ENUM('forms','collections') NOT NULL DEFAULT 'forms'",
  ],
}
