import type { Migration } from "../migrate.ts"

/**
 * What orders are sent with and how they are routed: rules, shipping patterns, customers' routing instructions; orders
 * joined into one shipment with their shares of the freight, orders in parts at several warehouses, outside warehouses.
 * Every statement may be run again.
 */
export const routes: Migration = {
  name: "0011-routes",
  statements: [
    `CREATE TABLE IF NOT EXISTS rule (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, name VARCHAR(60) NOT NULL, position INT NOT NULL,
      is_on BOOLEAN NOT NULL DEFAULT FALSE, body JSON NOT NULL, version INT UNSIGNED NOT NULL DEFAULT 1,
      INDEX in_order (position, id))`,
    `CREATE TABLE IF NOT EXISTS shipping_pattern (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL UNIQUE, body JSON NOT NULL,
      version INT UNSIGNED NOT NULL DEFAULT 1)`,
    `ALTER TABLE customer ADD COLUMN IF NOT EXISTS routing JSON NOT NULL DEFAULT '{}'`,
    `ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS settings JSON NULL,
      ADD COLUMN IF NOT EXISTS pattern_id INT UNSIGNED NULL, ADD COLUMN IF NOT EXISTS joined_to_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS ship_to_key CHAR(40) NULL, ADD COLUMN IF NOT EXISTS part TINYINT UNSIGNED NOT NULL DEFAULT 1,
      ADD COLUMN IF NOT EXISTS split_from_id INT UNSIGNED NULL, ADD COLUMN IF NOT EXISTS came_to_id INT UNSIGNED NULL, ADD INDEX IF NOT EXISTS by_joined (joined_to_id),
      ADD INDEX IF NOT EXISTS by_split (split_from_id),
      ADD INDEX IF NOT EXISTS by_ship_to (warehouse_id, left_line_at, ship_to_key)`,
    "ALTER TABLE sales_order ADD UNIQUE INDEX IF NOT EXISTS source_part (source_id, source_number, part)",
    "ALTER TABLE sales_order DROP INDEX IF EXISTS source_once",
    `CREATE TABLE IF NOT EXISTS order_freight (
      order_id INT UNSIGNED NOT NULL, intent_id INT UNSIGNED NOT NULL, currency CHAR(3) NOT NULL,
      list_amount DECIMAL(14,4) NOT NULL, contract_amount DECIMAL(14,4) NOT NULL, weight_kg DECIMAL(20,12) NOT NULL,
      PRIMARY KEY (order_id, intent_id), FOREIGN KEY (order_id) REFERENCES sales_order (id),
      FOREIGN KEY (intent_id) REFERENCES buy_intent (id))`,
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS routing ENUM('own','nearest') NOT NULL DEFAULT 'own'",
    `CREATE TABLE IF NOT EXISTS outside_warehouse (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, code VARCHAR(12) NOT NULL UNIQUE, name VARCHAR(60) NOT NULL,
      base_url VARCHAR(300) NOT NULL, active BOOLEAN NOT NULL DEFAULT TRUE)`,
    `CREATE TABLE IF NOT EXISTS outside_order (
      order_id INT UNSIGNED NOT NULL PRIMARY KEY, outside_id INT UNSIGNED NOT NULL, idempotency_key CHAR(36) NOT NULL UNIQUE,
      state ENUM('sending','taken','refused','shipped','recalling') NOT NULL DEFAULT 'sending', trouble VARCHAR(300) NULL,
      reference VARCHAR(60) NULL, carrier VARCHAR(60) NULL, service VARCHAR(60) NULL, tracking JSON NULL,
      asked_at DATETIME(3) NOT NULL, shipped_at DATETIME(3) NULL, INDEX (state),
      FOREIGN KEY (order_id) REFERENCES sales_order (id), FOREIGN KEY (outside_id) REFERENCES outside_warehouse (id))`,
  ],
}
