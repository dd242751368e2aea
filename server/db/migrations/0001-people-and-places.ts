import type { Migration } from "../migrate.ts"

/** Warehouses with their working time, users and sessions, the business clock, the audit. */
export const peopleAndPlaces: Migration = {
  name: "0001-people-and-places",
  statements: [
    `CREATE TABLE IF NOT EXISTS warehouse (
      id INT UNSIGNED NOT NULL PRIMARY KEY,
      code VARCHAR(16) NOT NULL UNIQUE, name VARCHAR(60) NOT NULL, zone VARCHAR(60) NOT NULL,
      company VARCHAR(60) NOT NULL, street VARCHAR(60) NOT NULL, city VARCHAR(40) NOT NULL, state CHAR(2) NOT NULL,
      postal_code VARCHAR(12) NOT NULL, country CHAR(2) NOT NULL, phone VARCHAR(24) NOT NULL,
      hands TINYINT UNSIGNED NOT NULL DEFAULT 1, at_work BOOLEAN NOT NULL DEFAULT TRUE,
      gln CHAR(13) NOT NULL, gs1_prefix VARCHAR(12) NOT NULL, sscc_extension TINYINT UNSIGNED NOT NULL DEFAULT 0,
      sscc_serial BIGINT UNSIGNED NOT NULL DEFAULT 0, bench_serial INT UNSIGNED NOT NULL DEFAULT 0,
      work_per_order DECIMAL(6,2) NOT NULL, work_per_bin DECIMAL(6,2) NOT NULL,
      work_per_line DECIMAL(6,2) NOT NULL, work_per_package DECIMAL(6,2) NOT NULL,
      work_source VARCHAR(200) NOT NULL)`,
    `CREATE TABLE IF NOT EXISTS work_period (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL,
      kind ENUM('shift','break') NOT NULL, starts CHAR(5) NOT NULL, ends CHAR(5) NOT NULL,
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
    `CREATE TABLE IF NOT EXISTS user (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, username VARCHAR(40) NOT NULL UNIQUE,
      name VARCHAR(60) NOT NULL, role ENUM('clerk','lead') NOT NULL, password_hash VARCHAR(200) NOT NULL,
      warehouse_id INT UNSIGNED NOT NULL, active BOOLEAN NOT NULL DEFAULT TRUE,
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
    `CREATE TABLE IF NOT EXISTS session (
      token_hash CHAR(64) NOT NULL PRIMARY KEY, user_id INT UNSIGNED NOT NULL,
      created_at DATETIME(3) NOT NULL, seen_at DATETIME(3) NOT NULL, expires_at DATETIME(3) NOT NULL,
      INDEX (expires_at), FOREIGN KEY (user_id) REFERENCES user (id))`,
    `CREATE TABLE IF NOT EXISTS business_clock (
      id TINYINT UNSIGNED NOT NULL PRIMARY KEY, offset_ms BIGINT NOT NULL DEFAULT 0, seen_at DATETIME(3) NULL)`,
    "INSERT IGNORE INTO business_clock (id, offset_ms) VALUES (1, 0)",
    `CREATE TABLE IF NOT EXISTS audit (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, at DATETIME(3) NOT NULL, user_id INT UNSIGNED NULL,
      actor VARCHAR(60) NOT NULL, order_id INT UNSIGNED NULL, collection_id INT UNSIGNED NULL,
      action VARCHAR(60) NOT NULL, detail JSON NOT NULL,
      INDEX by_order (order_id, id), INDEX by_collection (collection_id, id))`,
  ],
}
