import type { Migration } from "../migrate.ts"

/** Items with their levels of packaging, bins, lots, stock and its movements, packaging. Masses kg, edges mm, exact. */
export const goods: Migration = {
  name: "0002-goods",
  statements: [
    `CREATE TABLE IF NOT EXISTS item (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, sku VARCHAR(24) NOT NULL UNIQUE,
      description VARCHAR(80) NOT NULL, weight_kg DECIMAL(20,12) NULL,
      length_mm DECIMAL(14,6) NOT NULL, width_mm DECIMAL(14,6) NOT NULL, height_mm DECIMAL(14,6) NOT NULL,
      this_side_up BOOLEAN NOT NULL DEFAULT FALSE, un_number CHAR(6) NULL, freight_only BOOLEAN NOT NULL DEFAULT FALSE,
      hs_code VARCHAR(12) NULL, origin CHAR(2) NULL, value DECIMAL(14,4) NOT NULL, currency CHAR(3) NOT NULL)`,
    `CREATE TABLE IF NOT EXISTS item_level (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, item_id INT UNSIGNED NOT NULL, name VARCHAR(16) NOT NULL,
      gtin CHAR(14) NULL UNIQUE, quantity INT UNSIGNED NOT NULL, weight_kg DECIMAL(20,12) NULL,
      length_mm DECIMAL(14,6) NULL, width_mm DECIMAL(14,6) NULL, height_mm DECIMAL(14,6) NULL,
      UNIQUE (item_id, name), FOREIGN KEY (item_id) REFERENCES item (id))`,
    `CREATE TABLE IF NOT EXISTS bin (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, code VARCHAR(16) NOT NULL,
      walk_order INT UNSIGNED NOT NULL, UNIQUE (warehouse_id, code), FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
    `CREATE TABLE IF NOT EXISTS lot (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, item_id INT UNSIGNED NOT NULL, code VARCHAR(24) NOT NULL,
      received_on DATE NOT NULL, expires_on DATE NULL, UNIQUE (item_id, code), FOREIGN KEY (item_id) REFERENCES item (id))`,
    `CREATE TABLE IF NOT EXISTS stock (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, bin_id INT UNSIGNED NOT NULL,
      item_id INT UNSIGNED NOT NULL, lot_id INT UNSIGNED NULL,
      on_hand INT NOT NULL, allocated INT NOT NULL DEFAULT 0,
      CHECK (allocated >= 0), CHECK (on_hand >= allocated),
      INDEX (warehouse_id, item_id), FOREIGN KEY (warehouse_id) REFERENCES warehouse (id),
      FOREIGN KEY (bin_id) REFERENCES bin (id), FOREIGN KEY (item_id) REFERENCES item (id), FOREIGN KEY (lot_id) REFERENCES lot (id))`,
    `CREATE TABLE IF NOT EXISTS stock_movement (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, stock_id INT UNSIGNED NOT NULL, quantity INT NOT NULL,
      cause ENUM('opening','pick') NOT NULL, at DATETIME(3) NOT NULL, user_id INT UNSIGNED NULL,
      FOREIGN KEY (stock_id) REFERENCES stock (id))`,
    `CREATE TABLE IF NOT EXISTS packaging (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, code VARCHAR(12) NOT NULL UNIQUE, name VARCHAR(60) NOT NULL,
      inner_length_mm DECIMAL(14,6) NOT NULL, inner_width_mm DECIMAL(14,6) NOT NULL, inner_height_mm DECIMAL(14,6) NOT NULL,
      outer_length_mm DECIMAL(14,6) NOT NULL, outer_width_mm DECIMAL(14,6) NOT NULL, outer_height_mm DECIMAL(14,6) NOT NULL,
      tare_kg DECIMAL(20,12) NOT NULL, max_load_kg DECIMAL(20,12) NOT NULL)`,
  ],
}
