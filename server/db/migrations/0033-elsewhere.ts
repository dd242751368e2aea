import type { Migration } from "../migrate.ts"

/**
 * Orders that somebody else carried, with the number that he gave, typed or imported from a file. Every statement may be
 * run again.
 */
export const elsewhere: Migration = {
  name: "0033-elsewhere",
  statements: [
    `ALTER TABLE outside_order
      MODIFY outside_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS shipped_on DATE NULL,
      ADD COLUMN IF NOT EXISTS cost DECIMAL(12,2) NULL,
      ADD COLUMN IF NOT EXISTS currency CHAR(3) NULL,
      ADD COLUMN IF NOT EXISTS recorded_by VARCHAR(80) NULL`,
    `CREATE TABLE IF NOT EXISTS tracking_file (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      warehouse_id INT UNSIGNED NOT NULL, name VARCHAR(120) NOT NULL,
      state ENUM('preview','taking','done') NOT NULL DEFAULT 'preview',
      made_at DATETIME(3) NOT NULL, made_by VARCHAR(80) NOT NULL, user_id INT UNSIGNED NULL,
      KEY tracking_file_of (warehouse_id, id))`,
    `CREATE TABLE IF NOT EXISTS tracking_row (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      file_id INT UNSIGNED NOT NULL, line INT UNSIGNED NOT NULL,
      order_number VARCHAR(80) COLLATE utf8mb4_bin NOT NULL, order_id INT UNSIGNED NULL,
      body JSON NOT NULL, state ENUM('good','refused','taken') NOT NULL, why JSON NULL,
      KEY tracking_row_of (file_id, state, id), FOREIGN KEY (file_id) REFERENCES tracking_file (id) ON DELETE CASCADE)`,
  ],
}
