import type { Migration } from "../migrate.ts"

/** Sources, customers, intake files with their rows, orders, lines, stops, allocations and scans. */
export const orders: Migration = {
  name: "0003-orders",
  statements: [
    `CREATE TABLE IF NOT EXISTS order_source (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, code VARCHAR(24) NOT NULL UNIQUE, name VARCHAR(60) NOT NULL,
      report_url VARCHAR(300) NULL)`,
    `CREATE TABLE IF NOT EXISTS customer (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, code VARCHAR(24) NOT NULL UNIQUE, name VARCHAR(60) NOT NULL)`,
    `CREATE TABLE IF NOT EXISTS intake_file (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, source_id INT UNSIGNED NOT NULL,
      name VARCHAR(200) NOT NULL, sha256 CHAR(64) NOT NULL, uploaded_at DATETIME(3) NOT NULL, user_id INT UNSIGNED NULL,
      taken_at DATETIME(3) NULL, row_count INT UNSIGNED NOT NULL DEFAULT 0, taken JSON NULL,
      FOREIGN KEY (source_id) REFERENCES order_source (id))`,
    `CREATE TABLE IF NOT EXISTS intake_row (
      intake_id INT UNSIGNED NOT NULL, line INT UNSIGNED NOT NULL, order_number VARCHAR(40) NOT NULL,
      raw JSON NOT NULL, refusals JSON NOT NULL, parsed JSON NULL, PRIMARY KEY (intake_id, line),
      FOREIGN KEY (intake_id) REFERENCES intake_file (id))`,
    `CREATE TABLE IF NOT EXISTS sales_order (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL,
      source_id INT UNSIGNED NOT NULL, source_number VARCHAR(40) NOT NULL, bench_number CHAR(5) NOT NULL UNIQUE,
      customer_id INT UNSIGNED NULL, customer_name VARCHAR(60) NOT NULL, po_number VARCHAR(40) NOT NULL,
      ordered_on DATE NOT NULL, promised_on DATE NULL,
      company VARCHAR(60) NOT NULL, attention VARCHAR(60) NOT NULL, street VARCHAR(60) NOT NULL, street2 VARCHAR(60) NOT NULL,
      city VARCHAR(40) NOT NULL, state VARCHAR(6) NOT NULL, postal_code VARCHAR(12) NOT NULL, country CHAR(2) NOT NULL,
      phone VARCHAR(24) NOT NULL, address_kind ENUM('unknown','business','residential') NOT NULL,
      notes VARCHAR(500) NOT NULL, content_hash CHAR(64) NOT NULL, received_at DATETIME(3) NOT NULL,
      refused_rows JSON NOT NULL, held_by_hand BOOLEAN NOT NULL DEFAULT FALSE,
      collection_id INT UNSIGNED NULL, planned_service_id INT UNSIGNED NULL,
      next_package INT UNSIGNED NOT NULL DEFAULT 1, version INT UNSIGNED NOT NULL DEFAULT 1,
      UNIQUE source_once (source_id, source_number), INDEX (warehouse_id, collection_id), INDEX (po_number),
      INDEX (received_at, id), FOREIGN KEY (warehouse_id) REFERENCES warehouse (id),
      FOREIGN KEY (source_id) REFERENCES order_source (id), FOREIGN KEY (customer_id) REFERENCES customer (id))`,
    `CREATE TABLE IF NOT EXISTS order_line (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, order_id INT UNSIGNED NOT NULL, line_number INT UNSIGNED NOT NULL,
      item_id INT UNSIGNED NOT NULL, ordered INT UNSIGNED NOT NULL, unit VARCHAR(16) NOT NULL,
      unit_price DECIMAL(14,4) NULL, UNIQUE (order_id, line_number),
      FOREIGN KEY (order_id) REFERENCES sales_order (id), FOREIGN KEY (item_id) REFERENCES item (id))`,
    `CREATE TABLE IF NOT EXISTS order_stop (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, order_id INT UNSIGNED NOT NULL, code VARCHAR(60) NOT NULL,
      detail JSON NOT NULL, raised_at DATETIME(3) NOT NULL, INDEX (order_id), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `CREATE TABLE IF NOT EXISTS allocation (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, order_line_id INT UNSIGNED NOT NULL, stock_id INT UNSIGNED NOT NULL,
      quantity INT UNSIGNED NOT NULL, picked INT UNSIGNED NOT NULL DEFAULT 0, unverified INT UNSIGNED NOT NULL DEFAULT 0,
      CHECK (picked <= quantity), FOREIGN KEY (order_line_id) REFERENCES order_line (id), FOREIGN KEY (stock_id) REFERENCES stock (id))`,
    `CREATE TABLE IF NOT EXISTS scan (
      id CHAR(36) NOT NULL PRIMARY KEY, at DATETIME(3) NOT NULL, user_id INT UNSIGNED NOT NULL, place VARCHAR(20) NOT NULL,
      text VARCHAR(120) NOT NULL, outcome VARCHAR(80) NOT NULL)`,
  ],
}
