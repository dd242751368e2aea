import type { Migration } from "../migrate.ts"

/**
 * What the customer asked and paid for; what he is charged; quotes; runs of rating; when packages were delivered. Every
 * statement may be run again.
 */
export const quotes: Migration = {
  name: "0015-quotes",
  statements: [
    `ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS service_asked VARCHAR(24) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS freight_paid DECIMAL(14,2) NULL`,
    `CREATE TABLE IF NOT EXISTS charging_rule (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, position INT UNSIGNED NOT NULL, name VARCHAR(60) NOT NULL,
      is_on BOOLEAN NOT NULL DEFAULT TRUE, body JSON NOT NULL, version INT UNSIGNED NOT NULL DEFAULT 1)`,
    `ALTER TABLE shipment ADD COLUMN IF NOT EXISTS charged_by_hand JSON NULL,
      ADD COLUMN IF NOT EXISTS charged_amount DECIMAL(14,4) NULL, ADD COLUMN IF NOT EXISTS charged_why JSON NULL`,
    "ALTER TABLE order_freight ADD COLUMN IF NOT EXISTS charged_amount DECIMAL(14,4) NULL",
    `CREATE TABLE IF NOT EXISTS quote (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL,
      once_key VARCHAR(100) NOT NULL UNIQUE, number VARCHAR(16) NULL UNIQUE,
      state ENUM('open','shipped','withdrawn') NOT NULL DEFAULT 'open', valid_until DATE NOT NULL,
      order_id INT UNSIGNED NULL, customer_code VARCHAR(40) NOT NULL DEFAULT '', customer_name VARCHAR(120) NOT NULL DEFAULT '',
      asked JSON NOT NULL, offers JSON NOT NULL, currency CHAR(3) NOT NULL, note VARCHAR(500) NOT NULL DEFAULT '',
      chosen VARCHAR(16) NULL, made_by VARCHAR(60) NOT NULL, made_at DATETIME(3) NOT NULL,
      shipped_order_id INT UNSIGNED NULL, version INT UNSIGNED NOT NULL DEFAULT 1,
      INDEX (warehouse_id, id), FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
    `CREATE TABLE IF NOT EXISTS mail (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, once_key VARCHAR(100) NOT NULL UNIQUE, warehouse_id INT UNSIGNED NOT NULL,
      recipient VARCHAR(120) NOT NULL, subject VARCHAR(200) NOT NULL, body TEXT NOT NULL,
      attachment_name VARCHAR(80) NULL, attachment MEDIUMBLOB NULL, quote_id INT UNSIGNED NULL,
      state ENUM('waiting','sent','refused') NOT NULL DEFAULT 'waiting', trouble VARCHAR(300) NULL,
      made_by VARCHAR(60) NOT NULL, made_at DATETIME(3) NOT NULL, sent_at DATETIME(3) NULL, INDEX (quote_id))`,
    "ALTER TABLE outside_service MODIFY kind ENUM('address','mail') NOT NULL",
    "ALTER TABLE warehouse ADD COLUMN IF NOT EXISTS email VARCHAR(120) NOT NULL DEFAULT ''",
    `CREATE TABLE IF NOT EXISTS rating_run (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, once_key VARCHAR(100) NOT NULL UNIQUE,
      rule VARCHAR(24) NOT NULL, state ENUM('rating','done') NOT NULL DEFAULT 'rating',
      made_by VARCHAR(60) NOT NULL, made_at DATETIME(3) NOT NULL, done_at DATETIME(3) NULL,
      INDEX (warehouse_id, id))`,
    `CREATE TABLE IF NOT EXISTS rating_run_order (
      run_id INT UNSIGNED NOT NULL, order_id INT UNSIGNED NOT NULL, state ENUM('waiting','rated','refused') NOT NULL DEFAULT 'waiting',
      proposed VARCHAR(16) NULL, chosen VARCHAR(16) NULL, chosen_by VARCHAR(60) NULL, offers JSON NOT NULL DEFAULT '[]',
      reasons JSON NOT NULL DEFAULT '[]', version INT UNSIGNED NOT NULL DEFAULT 1,
      PRIMARY KEY (run_id, order_id), FOREIGN KEY (run_id) REFERENCES rating_run (id), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `CREATE TABLE IF NOT EXISTS delivery (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, tracking VARCHAR(40) NOT NULL UNIQUE, service_id INT UNSIGNED NOT NULL,
      ship_date DATE NOT NULL, promised_on DATE NOT NULL, delivered_on DATE NOT NULL,
      INDEX (service_id, ship_date), FOREIGN KEY (service_id) REFERENCES service (id))`,
  ],
}
