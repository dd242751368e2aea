import type { Migration } from "../migrate.ts"

/**
 * What papers over a border and of freight need to be told: of items and lines, of orders, of the shipper, of carriers;
 * and the dated tables that thresholds, duties and exchange go by. Every statement may be run again.
 */
export const papers: Migration = {
  name: "0029-papers",
  statements: [
    `ALTER TABLE item
      ADD COLUMN IF NOT EXISTS material VARCHAR(60) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS customs_use VARCHAR(60) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS customs_unit VARCHAR(3) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS net_kg DECIMAL(24,12) NULL,
      ADD COLUMN IF NOT EXISTS technical_name VARCHAR(80) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS subsidiary_hazard VARCHAR(12) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS inner_count INT UNSIGNED NOT NULL DEFAULT 1,
      ADD COLUMN IF NOT EXISTS lithium JSON NULL,
      ADD COLUMN IF NOT EXISTS category VARCHAR(20) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS class_item VARCHAR(12) NOT NULL DEFAULT ''`,
    // codes that an item had before: they are offered first
    `CREATE TABLE IF NOT EXISTS item_hs_code (
      item_id INT UNSIGNED NOT NULL, hs_code VARCHAR(13) NOT NULL, used_at DATETIME(3) NOT NULL,
      PRIMARY KEY (item_id, hs_code), FOREIGN KEY (item_id) REFERENCES item (id))`,
    "ALTER TABLE order_line ADD COLUMN IF NOT EXISTS customs JSON NULL",
    `CREATE TABLE IF NOT EXISTS order_customs (
      order_id INT UNSIGNED NOT NULL PRIMARY KEY, body JSON NOT NULL,
      FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `CREATE TABLE IF NOT EXISTS vague_word (
      word VARCHAR(40) COLLATE utf8mb4_bin NOT NULL PRIMARY KEY, added_by VARCHAR(80) NOT NULL, added_at DATETIME(3) NOT NULL)`,
    `ALTER TABLE warehouse
      ADD COLUMN IF NOT EXISTS shipper JSON NOT NULL DEFAULT '{}',
      ADD COLUMN IF NOT EXISTS signature MEDIUMBLOB NULL`,
    "ALTER TABLE customer ADD COLUMN IF NOT EXISTS language VARCHAR(5) NOT NULL DEFAULT 'en'",
    `ALTER TABLE carrier
      ADD COLUMN IF NOT EXISTS carrier_code VARCHAR(4) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS pro_from BIGINT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS pro_to BIGINT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS pro_next BIGINT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS pro_digits TINYINT UNSIGNED NOT NULL DEFAULT 0`,
    `ALTER TABLE shipment
      ADD COLUMN IF NOT EXISTS lading JSON NOT NULL DEFAULT '{}',
      ADD COLUMN IF NOT EXISTS exchange JSON NULL`,
    `CREATE TABLE IF NOT EXISTS exchange_rate (
      from_currency CHAR(3) NOT NULL, to_currency CHAR(3) NOT NULL, on_date DATE NOT NULL, rate DECIMAL(20,10) NOT NULL,
      PRIMARY KEY (from_currency, to_currency, on_date))`,
    `CREATE TABLE IF NOT EXISTS import_rule (
      country CHAR(2) NOT NULL, valid_from DATE NOT NULL, currency CHAR(3) NOT NULL,
      duty_free DECIMAL(12,2) NULL, tax_free DECIMAL(12,2) NULL, tax_share DECIMAL(7,5) NOT NULL,
      basis ENUM('fob','cif') NOT NULL, one_stop DECIMAL(12,2) NULL,
      PRIMARY KEY (country, valid_from))`,
    `CREATE TABLE IF NOT EXISTS duty_rate (
      country CHAR(2) NOT NULL, prefix VARCHAR(10) NOT NULL, origin CHAR(2) NOT NULL DEFAULT '', valid_from DATE NOT NULL,
      share DECIMAL(7,5) NOT NULL,
      PRIMARY KEY (country, prefix, origin, valid_from))`,
    `ALTER TABLE document
      ADD COLUMN IF NOT EXISTS electronic BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN IF NOT EXISTS language VARCHAR(5) NOT NULL DEFAULT 'en',
      ADD COLUMN IF NOT EXISTS copies SMALLINT UNSIGNED NOT NULL DEFAULT 1`,
    // as many as were printed of them before
    "UPDATE document SET copies = 4 WHERE kind = 'invoice' AND copies = 1",
    "UPDATE document SET copies = 3 WHERE kind = 'bill-of-lading' AND copies = 1",
  ],
}
