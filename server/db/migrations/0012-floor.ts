import type { Migration } from "../migrate.ts"

/**
 * The floor: plans with bins at their coordinates, lots with a state, stock that moves by movements only, carts and
 * totes, runs, takes that can be undone, shorts, counts. Every statement may be run again.
 */
export const floor: Migration = {
  name: "0012-floor",
  statements: [
    `ALTER TABLE warehouse ADD COLUMN IF NOT EXISTS floor_plan JSON NULL,
      ADD COLUMN IF NOT EXISTS plan_version INT UNSIGNED NOT NULL DEFAULT 0,
      ADD COLUMN IF NOT EXISTS scan_steps JSON NOT NULL DEFAULT '{}'`,
    `ALTER TABLE bin ADD COLUMN IF NOT EXISTS aisle VARCHAR(16) NULL, ADD COLUMN IF NOT EXISTS x_m DECIMAL(8,2) NULL,
      ADD COLUMN IF NOT EXISTS y_m DECIMAL(8,2) NULL, ADD COLUMN IF NOT EXISTS level TINYINT UNSIGNED NOT NULL DEFAULT 0,
      ADD COLUMN IF NOT EXISTS zone VARCHAR(16) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS blocked_why VARCHAR(80) NULL`,
    "ALTER TABLE lot ADD COLUMN IF NOT EXISTS state ENUM('released','unreleased','blocked') NOT NULL DEFAULT 'released'",
    `ALTER TABLE stock ADD COLUMN IF NOT EXISTS to_count BOOLEAN NOT NULL DEFAULT FALSE,
      ADD INDEX IF NOT EXISTS by_place (bin_id, item_id)`,
    `ALTER TABLE stock_movement
      MODIFY cause ENUM('opening','receipt','pick','put-back','transfer','adjustment','count') NOT NULL,
      ADD COLUMN IF NOT EXISTS order_id INT UNSIGNED NULL, ADD COLUMN IF NOT EXISTS note VARCHAR(120) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS move_key CHAR(36) NULL, ADD INDEX IF NOT EXISTS by_time (stock_id, at)`,
    "ALTER TABLE stock_movement ADD UNIQUE INDEX IF NOT EXISTS moved_once (move_key, stock_id)",
    "ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS priority TINYINT NOT NULL DEFAULT 0",
    "ALTER TABLE order_line ADD COLUMN IF NOT EXISTS cancelled INT UNSIGNED NOT NULL DEFAULT 0",
    "ALTER TABLE item ADD COLUMN IF NOT EXISTS scan_steps JSON NOT NULL DEFAULT '{}'",
    `CREATE TABLE IF NOT EXISTS cart (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, code VARCHAR(16) NOT NULL,
      name VARCHAR(40) NOT NULL DEFAULT '', litres DECIMAL(8,1) NULL, kilograms DECIMAL(8,1) NULL,
      active BOOLEAN NOT NULL DEFAULT TRUE, version INT UNSIGNED NOT NULL DEFAULT 1,
      UNIQUE (warehouse_id, code), FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
    `CREATE TABLE IF NOT EXISTS pick_run (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, number INT UNSIGNED NOT NULL,
      kind ENUM('orders','single') NOT NULL DEFAULT 'orders', label VARCHAR(80) NOT NULL, zone VARCHAR(16) NULL,
      cart_id INT UNSIGNED NULL, state ENUM('ready','picking','left','done','dropped') NOT NULL DEFAULT 'ready',
      holder_id INT UNSIGNED NULL, metres DECIMAL(8,1) NULL, apart_metres DECIMAL(8,1) NULL,
      made_at DATETIME(3) NOT NULL, made_by VARCHAR(60) NOT NULL, begun_at DATETIME(3) NULL, ended_at DATETIME(3) NULL,
      made_key CHAR(36) NOT NULL, INDEX by_key (made_key), UNIQUE (warehouse_id, number), INDEX by_state (warehouse_id, state),
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id), FOREIGN KEY (cart_id) REFERENCES cart (id),
      FOREIGN KEY (holder_id) REFERENCES user (id))`,
    `CREATE TABLE IF NOT EXISTS tote (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, code VARCHAR(16) NOT NULL,
      cart_id INT UNSIGNED NULL, position INT UNSIGNED NOT NULL DEFAULT 0, litres DECIMAL(8,1) NOT NULL DEFAULT 40,
      order_id INT UNSIGNED NULL, run_id INT UNSIGNED NULL, UNIQUE (warehouse_id, code), INDEX by_order (order_id),
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id), FOREIGN KEY (cart_id) REFERENCES cart (id),
      FOREIGN KEY (order_id) REFERENCES sales_order (id), FOREIGN KEY (run_id) REFERENCES pick_run (id))`,
    `CREATE TABLE IF NOT EXISTS pick_run_order (
      run_id INT UNSIGNED NOT NULL, order_id INT UNSIGNED NOT NULL, position INT UNSIGNED NOT NULL,
      PRIMARY KEY (run_id, order_id), INDEX (order_id),
      FOREIGN KEY (run_id) REFERENCES pick_run (id), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `CREATE TABLE IF NOT EXISTS pick_run_person (
      run_id INT UNSIGNED NOT NULL, user_id INT UNSIGNED NOT NULL, since DATETIME(3) NOT NULL, left_at DATETIME(3) NULL,
      PRIMARY KEY (run_id, user_id), FOREIGN KEY (run_id) REFERENCES pick_run (id), FOREIGN KEY (user_id) REFERENCES user (id))`,
    `ALTER TABLE allocation ADD COLUMN IF NOT EXISTS run_id INT UNSIGNED NULL, ADD COLUMN IF NOT EXISTS claimed_by INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS claimed_at DATETIME(3) NULL, ADD COLUMN IF NOT EXISTS skipped_at DATETIME(3) NULL,
      ADD INDEX IF NOT EXISTS by_run (run_id)`,
    `CREATE TABLE IF NOT EXISTS pick_take (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, scan_id CHAR(36) NOT NULL UNIQUE,
      order_id INT UNSIGNED NOT NULL, order_line_id INT UNSIGNED NOT NULL, allocation_id INT UNSIGNED NOT NULL, stock_id INT UNSIGNED NOT NULL, run_id INT UNSIGNED NULL,
      quantity INT UNSIGNED NOT NULL, unverified INT UNSIGNED NOT NULL, user_id INT UNSIGNED NULL, at DATETIME(3) NOT NULL,
      undone_at DATETIME(3) NULL, INDEX latest (user_id, id), INDEX by_allocation (allocation_id))`,
    `CREATE TABLE IF NOT EXISTS count_task (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, stock_id INT UNSIGNED NOT NULL,
      why VARCHAR(20) NOT NULL, order_id INT UNSIGNED NULL, raised_at DATETIME(3) NOT NULL, raised_by VARCHAR(60) NOT NULL,
      expected INT NULL, counted INT NULL, done_at DATETIME(3) NULL, done_by VARCHAR(60) NULL,
      INDEX (warehouse_id, done_at), INDEX by_stock (stock_id, done_at),
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id), FOREIGN KEY (stock_id) REFERENCES stock (id))`,
    `CREATE TABLE IF NOT EXISTS pick_short (
      scan_id CHAR(36) NOT NULL PRIMARY KEY, order_id INT UNSIGNED NOT NULL, order_line_id INT UNSIGNED NOT NULL,
      stock_id INT UNSIGNED NOT NULL, quantity INT UNSIGNED NOT NULL,
      why ENUM('empty','too-few','damaged','wrong-goods','lot-bad') NOT NULL,
      way ENUM('elsewhere','warehouse','back-order','wait','cancel') NOT NULL,
      at DATETIME(3) NOT NULL, user_id INT UNSIGNED NULL, actor VARCHAR(60) NOT NULL, INDEX (order_id))`,
  ],
}
