import type { Migration } from "../migrate.ts"

/**
 * The directory of addresses with the words it is found by, how sure the kind of an address is, what delivery there
 * needs, other parties of an order, remote areas. Every statement may be run again.
 */
export const addresses: Migration = {
  name: "0008-addresses",
  statements: [
    `CREATE TABLE IF NOT EXISTS address_book (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, code VARCHAR(24) NULL UNIQUE, customer_id INT UNSIGNED NULL,
      company VARCHAR(60) NOT NULL, attention VARCHAR(60) NOT NULL, street VARCHAR(60) NOT NULL, street2 VARCHAR(60) NOT NULL,
      city VARCHAR(40) NOT NULL, state VARCHAR(6) NOT NULL, postal_code VARCHAR(12) NOT NULL, country CHAR(2) NOT NULL,
      phone VARCHAR(24) NOT NULL, address_kind ENUM('unknown','business','residential') NOT NULL DEFAULT 'unknown',
      kind_confirmed BOOLEAN NOT NULL DEFAULT FALSE, building VARCHAR(60) NOT NULL DEFAULT '',
      instructions VARCHAR(200) NOT NULL DEFAULT '', opening_hours VARCHAR(120) NOT NULL DEFAULT '',
      dock ENUM('unknown','yes','no') NOT NULL DEFAULT 'unknown', forklift ENUM('unknown','yes','no') NOT NULL DEFAULT 'unknown',
      latitude DECIMAL(9,6) NULL, longitude DECIMAL(9,6) NULL, zone VARCHAR(60) NULL,
      used_at DATETIME(3) NULL, version INT UNSIGNED NOT NULL DEFAULT 1,
      INDEX by_customer (customer_id), FOREIGN KEY (customer_id) REFERENCES customer (id))`,
    `CREATE TABLE IF NOT EXISTS address_word (
      word VARCHAR(24) NOT NULL, address_id INT UNSIGNED NOT NULL, PRIMARY KEY (word, address_id),
      INDEX of_address (address_id, word), FOREIGN KEY (address_id) REFERENCES address_book (id) ON DELETE CASCADE)`,
    `CREATE TABLE IF NOT EXISTS remote_area (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, name VARCHAR(60) NOT NULL, country CHAR(2) NOT NULL,
      from_code VARCHAR(12) NOT NULL, to_code VARCHAR(12) NOT NULL, INDEX (country))`,
    `CREATE TABLE IF NOT EXISTS order_party (
      order_id INT UNSIGNED NOT NULL, role ENUM('sender','return-to','notify') NOT NULL,
      company VARCHAR(60) NOT NULL, attention VARCHAR(60) NOT NULL, street VARCHAR(60) NOT NULL, street2 VARCHAR(60) NOT NULL,
      city VARCHAR(40) NOT NULL, state VARCHAR(6) NOT NULL, postal_code VARCHAR(12) NOT NULL, country CHAR(2) NOT NULL,
      phone VARCHAR(24) NOT NULL, email VARCHAR(120) NOT NULL, PRIMARY KEY (order_id, role),
      FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    "ALTER TABLE customer ADD COLUMN IF NOT EXISTS blind_ship BOOLEAN NOT NULL DEFAULT FALSE",
    `CREATE TABLE IF NOT EXISTS outside_service (
      kind ENUM('address') NOT NULL PRIMARY KEY, name VARCHAR(60) NOT NULL, url VARCHAR(300) NOT NULL)`,
    `ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS kind_confirmed BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN IF NOT EXISTS building VARCHAR(60) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS instructions VARCHAR(200) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS opening_hours VARCHAR(120) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS dock ENUM('unknown','yes','no') NOT NULL DEFAULT 'unknown',
      ADD COLUMN IF NOT EXISTS forklift ENUM('unknown','yes','no') NOT NULL DEFAULT 'unknown'`,
  ],
}
