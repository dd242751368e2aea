import type { Migration } from "../migrate.ts"

/**
 * Goods that come back: what is awaited, what arrived at the dock, what was found in it, and where it went from the
 * inspection bin. Every statement may be run again.
 */
export const goodsReturned: Migration = {
  name: "0041-goods-returned",
  statements: [
    // a bin that returned goods lie in, from which nothing is picked
    "ALTER TABLE bin ADD COLUMN IF NOT EXISTS purpose ENUM('inspection','repair') NULL",
    "ALTER TABLE stock_movement MODIFY cause ENUM('opening','receipt','pick','put-back','transfer','adjustment','count','return','scrap') NOT NULL",
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS report_returns BOOLEAN NOT NULL DEFAULT FALSE",
    // packages on their way back to us are looked for
    "CREATE INDEX IF NOT EXISTS unit_state ON tracked_unit (state, seen_at)",
    `CREATE TABLE IF NOT EXISTS goods_return (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      warehouse_id INT UNSIGNED NOT NULL, name VARCHAR(30) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
      order_id INT UNSIGNED NULL, number SMALLINT UNSIGNED NOT NULL DEFAULT 0,
      kind ENUM('label','undelivered','unannounced','unknown') NOT NULL,
      return_intent_id INT UNSIGNED NULL UNIQUE,
      state ENUM('awaited','arrived','inspected','done','declined','closed','void') NOT NULL DEFAULT 'awaited',
      valid_until DATE NULL, made_at DATETIME(3) NOT NULL, arrived_at DATETIME(3) NULL, is_late BOOLEAN NOT NULL DEFAULT FALSE,
      note VARCHAR(200) NOT NULL DEFAULT '', finishes SMALLINT UNSIGNED NOT NULL DEFAULT 0, inspected_at DATETIME(3) NULL,
      told_by VARCHAR(80) NOT NULL DEFAULT '', press_key VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL UNIQUE,
      UNIQUE KEY return_name (warehouse_id, name), KEY return_state (warehouse_id, state, id), KEY return_order (order_id),
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id), FOREIGN KEY (order_id) REFERENCES sales_order (id),
      FOREIGN KEY (return_intent_id) REFERENCES return_intent (id))`,
    `CREATE TABLE IF NOT EXISTS goods_return_package (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, goods_return_id INT UNSIGNED NOT NULL, piece SMALLINT UNSIGNED NOT NULL,
      unit_id INT UNSIGNED NULL, tracking VARCHAR(60) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '',
      arrived_at DATETIME(3) NULL, told_by VARCHAR(80) NOT NULL DEFAULT '',
      UNIQUE KEY piece_of (goods_return_id, piece), KEY by_tracking (tracking), KEY by_unit (unit_id),
      FOREIGN KEY (goods_return_id) REFERENCES goods_return (id))`,
    `CREATE TABLE IF NOT EXISTS goods_return_line (
      goods_return_id INT UNSIGNED NOT NULL, item_id INT UNSIGNED NOT NULL, announced INT UNSIGNED NOT NULL,
      PRIMARY KEY (goods_return_id, item_id),
      FOREIGN KEY (goods_return_id) REFERENCES goods_return (id), FOREIGN KEY (item_id) REFERENCES item (id))`,
    `CREATE TABLE IF NOT EXISTS goods_return_finding (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, goods_return_id INT UNSIGNED NOT NULL,
      item_id INT UNSIGNED NULL, lot_id INT UNSIGNED NULL, goods VARCHAR(120) NOT NULL DEFAULT '',
      state ENUM('sound','damaged','other') NOT NULL, quantity INT UNSIGNED NOT NULL, note VARCHAR(200) NOT NULL DEFAULT '',
      in_inspection INT UNSIGNED NOT NULL DEFAULT 0, in_repair INT UNSIGNED NOT NULL DEFAULT 0,
      put_back INT UNSIGNED NOT NULL DEFAULT 0, thrown_away INT UNSIGNED NOT NULL DEFAULT 0,
      inspection_stock_id INT UNSIGNED NULL, repair_stock_id INT UNSIGNED NULL,
      press_key VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL UNIQUE,
      at DATETIME(3) NOT NULL, told_by VARCHAR(80) NOT NULL, undone_at DATETIME(3) NULL,
      KEY finding_of (goods_return_id), KEY finding_item (item_id),
      FOREIGN KEY (goods_return_id) REFERENCES goods_return (id), FOREIGN KEY (item_id) REFERENCES item (id),
      FOREIGN KEY (lot_id) REFERENCES lot (id))`,
    // what labels for the way back that were made before wait for
    `INSERT IGNORE INTO goods_return (warehouse_id, name, order_id, number, kind, return_intent_id, valid_until, made_at)
      SELECT r.warehouse_id, CONCAT(o.order_number, '-R', r.number), r.order_id, r.number, 'label', r.id, r.valid_until, r.created_at
      FROM return_intent r JOIN sales_order o ON o.id = r.order_id WHERE r.state IN ('booked', 'voiding')`,
    `INSERT IGNORE INTO goods_return_package (goods_return_id, piece, unit_id, tracking)
      SELECT g.id, u.piece, u.id, u.tracking FROM goods_return g JOIN tracked_unit u ON u.return_id = g.return_intent_id
      WHERE u.kind = 'return'`,
    `INSERT IGNORE INTO goods_return_line (goods_return_id, item_id, announced)
      SELECT g.id, i.id, SUM(t.pieces) FROM goods_return g JOIN return_intent r ON r.id = g.return_intent_id
      JOIN JSON_TABLE(r.goods, '$[*]' COLUMNS (sku VARCHAR(40) PATH '$.sku', pieces INT PATH '$.pieces')) t
      JOIN item i ON i.sku = t.sku WHERE t.pieces > 0 GROUP BY g.id, i.id`,
  ],
}
