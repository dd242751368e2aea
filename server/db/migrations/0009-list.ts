import type { Migration } from "../migrate.ts"

/**
 * The words that orders are found by, tags and notes of our own, views kept under a name, changes of many orders that
 * can be taken back, and the indexes that the list reads by. Every statement may be run again.
 */
export const list: Migration = {
  name: "0009-list",
  statements: [
    `CREATE TABLE IF NOT EXISTS order_word (
      word VARCHAR(24) NOT NULL, order_id INT UNSIGNED NOT NULL, PRIMARY KEY (word, order_id),
      INDEX of_order (order_id, word), FOREIGN KEY (order_id) REFERENCES sales_order (id) ON DELETE CASCADE)`,
    `CREATE TABLE IF NOT EXISTS order_tag (
      order_id INT UNSIGNED NOT NULL, tag VARCHAR(24) NOT NULL, PRIMARY KEY (order_id, tag), INDEX by_tag (tag, order_id),
      FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `CREATE TABLE IF NOT EXISTS order_note (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, order_id INT UNSIGNED NOT NULL, text VARCHAR(300) NOT NULL,
      at DATETIME(3) NOT NULL, actor VARCHAR(60) NOT NULL, dropped_at DATETIME(3) NULL,
      INDEX (order_id, id), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `CREATE TABLE IF NOT EXISTS order_view (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, user_id INT UNSIGNED NOT NULL,
      name VARCHAR(40) NOT NULL, filter VARCHAR(1000) NOT NULL, shared BOOLEAN NOT NULL DEFAULT FALSE,
      UNIQUE once (warehouse_id, user_id, name), FOREIGN KEY (user_id) REFERENCES user (id),
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
    `CREATE TABLE IF NOT EXISTS group_change (
      id CHAR(36) NOT NULL PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, user_id INT UNSIGNED NULL,
      actor VARCHAR(60) NOT NULL, at DATETIME(3) NOT NULL, change_json JSON NOT NULL, content_hash CHAR(64) NOT NULL,
      undone_at DATETIME(3) NULL, INDEX latest (user_id, warehouse_id, at),
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
    `CREATE TABLE IF NOT EXISTS group_change_order (
      change_id CHAR(36) NOT NULL, order_id INT UNSIGNED NOT NULL, before_json JSON NULL, refusals JSON NOT NULL,
      undone_at DATETIME(3) NULL, PRIMARY KEY (change_id, order_id),
      FOREIGN KEY (change_id) REFERENCES group_change (id), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS words_of TINYINT UNSIGNED NOT NULL DEFAULT 0,
      ADD INDEX IF NOT EXISTS by_words (words_of, id), ADD INDEX IF NOT EXISTS by_warehouse (warehouse_id, id),
      ADD INDEX IF NOT EXISTS by_line (warehouse_id, left_line_at, id),
      ADD INDEX IF NOT EXISTS by_promise (warehouse_id, promised_on, id),
      ADD INDEX IF NOT EXISTS by_cancelled (warehouse_id, cancelled_at)`,
    "ALTER TABLE shipment ADD INDEX IF NOT EXISTS by_master (master_tracking)",
    "ALTER TABLE package ADD INDEX IF NOT EXISTS by_state (state, shipment_id)",
  ],
}
