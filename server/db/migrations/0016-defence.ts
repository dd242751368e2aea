import type { Migration } from "../migrate.ts"

/** Byte by byte, and no blank at the end is passed over: `aB3xQ1` and `Ab3Xq1` are two. Words stay without case. */
const bytes = "CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin"

/** Numbers, codes and keys, which tell one thing from another, and are never only searched for. */
const identifiers: Readonly<Record<string, readonly string[]>> = {
  sales_order: ["source_number VARCHAR(40)", "po_number VARCHAR(40)", "bench_number VARCHAR(8)"],
  intake_row: ["order_number VARCHAR(40)"],
  intake_order: ["order_number VARCHAR(40)"],
  order_source: ["code VARCHAR(24)", "folder VARCHAR(40) NULL"],
  order_reference: ["name VARCHAR(30)"],
  order_draft: ["id CHAR(36)", "taken_as VARCHAR(8) NULL"],
  customer: ["code VARCHAR(24)"],
  address_book: ["code VARCHAR(24) NULL"],
  item: ["sku VARCHAR(24)"],
  item_level: ["gtin CHAR(14) NULL", "name VARCHAR(16)"],
  lot: ["code VARCHAR(24)"],
  bin: ["code VARCHAR(16)"],
  cart: ["code VARCHAR(16)"],
  tote: ["code VARCHAR(16)"],
  warehouse: ["code VARCHAR(16)"],
  outside_warehouse: ["code VARCHAR(12)"],
  packaging: ["code VARCHAR(12)"],
  carrier: ["code VARCHAR(16)"],
  service: ["code VARCHAR(16)"],
  package: ["sscc CHAR(18) NULL", "tracking VARCHAR(40) NULL", "routing_code VARCHAR(40) NULL"],
  shipment: ["master_tracking VARCHAR(40) NULL"],
  delivery: ["tracking VARCHAR(40)"],
  collection: ["manifest_number VARCHAR(24) NULL"],
  quote: [
    "once_key VARCHAR(100)",
    "number VARCHAR(16) NULL",
    "customer_code VARCHAR(40) NOT NULL DEFAULT ''",
    "chosen VARCHAR(16) NULL",
  ],
  rating_run: ["once_key VARCHAR(100)"],
  rating_run_order: ["proposed VARCHAR(16) NULL", "chosen VARCHAR(16) NULL"],
  job: ["once_key VARCHAR(120)"],
  mail: ["once_key VARCHAR(100)"],
  api_request: ["idempotency_key VARCHAR(80)"],
  buy_intent: ["idempotency_key CHAR(36)"],
  outbox: ["message_id CHAR(36)"],
  outside_order: ["idempotency_key CHAR(36)"],
  scan: ["id CHAR(36)"],
  pick_take: ["scan_id CHAR(36)"],
  pick_short: ["scan_id CHAR(36)"],
  pick_run: ["made_key CHAR(36)"],
  stock_movement: ["move_key CHAR(36) NULL"],
  presence: ["id CHAR(36)"],
  user: ["username VARCHAR(40)"],
}

/** `name TYPE` with the collation between type and what else is said of it; a column is needed unless it says NULL. */
const modified = (column: string): string => {
  const [, name, type, rest] = /^(\S+) (\S+)(.*)$/.exec(column) as RegExpExecArray
  return `MODIFY ${name} ${type} ${bytes}${rest || " NOT NULL"}`
}

/** What keeps people, callers and their numbers apart. Every statement may be run again. */
export const defence: Migration = {
  name: "0016-defence",
  statements: [
    `CREATE TABLE IF NOT EXISTS sign_in_setting (
      id TINYINT UNSIGNED NOT NULL PRIMARY KEY, idle_minutes SMALLINT UNSIGNED NOT NULL DEFAULT 120,
      longest_hours SMALLINT UNSIGNED NOT NULL DEFAULT 12)`,
    "INSERT IGNORE INTO sign_in_setting (id) VALUES (1)",
    `CREATE TABLE IF NOT EXISTS known_device (
      token_hash CHAR(64) NOT NULL, user_id INT UNSIGNED NOT NULL, seen_at DATETIME(3) NOT NULL,
      PRIMARY KEY (token_hash, user_id), INDEX (seen_at), INDEX (user_id),
      FOREIGN KEY (user_id) REFERENCES user (id) ON DELETE CASCADE)`,
    "ALTER TABLE job ADD COLUMN IF NOT EXISTS losses TINYINT UNSIGNED NOT NULL DEFAULT 0",
    ...Object.entries(identifiers).map(
      ([table, columns]) => `ALTER TABLE ${table} ${columns.map(modified).join(", ")}`,
    ),
    // a key and what refers to it must be alike at every moment
    "ALTER TABLE group_change_order DROP FOREIGN KEY IF EXISTS group_change_order_ibfk_1",
    `ALTER TABLE group_change ${modified("id CHAR(36)")}`,
    `ALTER TABLE group_change_order ${modified("change_id CHAR(36)")}`,
    `ALTER TABLE group_change_order ADD CONSTRAINT FOREIGN KEY IF NOT EXISTS group_change_of (change_id)
      REFERENCES group_change (id)`,
    `ALTER TABLE intake_order ADD COLUMN IF NOT EXISTS trouble VARCHAR(300) NULL,
      ADD INDEX IF NOT EXISTS by_fate (fate, intake_id)`,
    `ALTER TABLE item ADD COLUMN IF NOT EXISTS most_on_hand INT UNSIGNED NOT NULL DEFAULT 0`,
    `UPDATE item i SET most_on_hand = GREATEST(most_on_hand,
      COALESCE((SELECT SUM(GREATEST(on_hand, 0)) FROM stock s WHERE s.item_id = i.id), 0))`,
    "ALTER TABLE order_line ADD INDEX IF NOT EXISTS by_quantity (item_id, ordered)",
    // tokens shared one source: each gets its own, and the orders of a warehouse go to its oldest token
    `INSERT IGNORE INTO order_source (code, name, kind) SELECT CONCAT('api.', id), name, 'api' FROM api_token
      WHERE source_id IN (SELECT id FROM (SELECT id FROM order_source WHERE code = 'api') AS shared)`,
    `UPDATE sales_order o JOIN order_source s ON s.id = o.source_id AND s.code = 'api'
      JOIN (SELECT warehouse_id, MIN(id) AS token FROM api_token GROUP BY warehouse_id) t
        ON t.warehouse_id = COALESCE(o.came_to_id, o.warehouse_id)
      JOIN order_source n ON n.code = CONCAT('api.', t.token) SET o.source_id = n.id`,
    `UPDATE api_token t JOIN order_source s ON s.id = t.source_id AND s.code = 'api'
      JOIN order_source n ON n.code = CONCAT('api.', t.id) SET t.source_id = n.id`,
  ],
}
