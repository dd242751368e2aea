import type { Migration } from "../migrate.ts"

/**
 * All kinds of shipment from several doors: roles and warehouses of users, tokens, customs facts, pallets, voiding,
 * live changes, sources that are pulled. Every statement may be run again.
 */
export const wider: Migration = {
  name: "0006-wider",
  statements: [
    "ALTER TABLE user MODIFY role ENUM('clerk','lead','sales','administrator') NOT NULL",
    `CREATE TABLE IF NOT EXISTS user_warehouse (
      user_id INT UNSIGNED NOT NULL, warehouse_id INT UNSIGNED NOT NULL, PRIMARY KEY (user_id, warehouse_id),
      FOREIGN KEY (user_id) REFERENCES user (id), FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
    "INSERT IGNORE INTO user_warehouse (user_id, warehouse_id) SELECT id, warehouse_id FROM user",
    "ALTER TABLE session ADD COLUMN IF NOT EXISTS warehouse_id INT UNSIGNED NULL",
    `ALTER TABLE item ADD COLUMN IF NOT EXISTS customs_description VARCHAR(80) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS freight_class VARCHAR(5) NULL, ADD COLUMN IF NOT EXISTS version INT UNSIGNED NOT NULL DEFAULT 1`,
    `ALTER TABLE packaging ADD COLUMN IF NOT EXISTS kind ENUM('carton','pallet','carrier-box') NOT NULL DEFAULT 'carton',
      ADD COLUMN IF NOT EXISTS carrier_id INT UNSIGNED NULL`,
    `ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS incoterm VARCHAR(3) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS incoterm_place VARCHAR(60) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS currency CHAR(3) NOT NULL DEFAULT 'USD',
      ADD COLUMN IF NOT EXISTS left_line_at DATETIME(3) NULL,
      ADD INDEX IF NOT EXISTS on_line (warehouse_id, left_line_at), ADD INDEX IF NOT EXISTS by_age (warehouse_id, id),
      ADD INDEX IF NOT EXISTS by_source_number (source_number)`,
    `UPDATE sales_order SET left_line_at = received_at WHERE left_line_at IS NULL
      AND EXISTS (SELECT 1 FROM shipment WHERE shipment.order_id = sales_order.id AND shipment.state = 'bought')`,
    "ALTER TABLE package ADD COLUMN IF NOT EXISTS parent_id INT UNSIGNED NULL, ADD INDEX IF NOT EXISTS by_parent (parent_id)",
    "ALTER TABLE package ADD COLUMN IF NOT EXISTS sent_kg DECIMAL(20,12) NULL",
    `UPDATE package SET sent_kg = COALESCE(measured_kg, tare_kg + (SELECT COALESCE(SUM(c.quantity * i.weight_kg), 0)
      FROM package_content c JOIN order_line l ON l.id = c.order_line_id JOIN item i ON i.id = l.item_id
      WHERE c.package_id = package.id)) WHERE sent_kg IS NULL AND state IN ('labelled','on-truck','left-behind','gone')`,
    `ALTER TABLE shipment MODIFY state ENUM('open','buying','bought','voiding','void') NOT NULL DEFAULT 'open',
      ADD COLUMN IF NOT EXISTS liftgate BOOLEAN NOT NULL DEFAULT FALSE`,
    `ALTER TABLE carrier ADD COLUMN IF NOT EXISTS numbers ENUM('plain','s10') NOT NULL DEFAULT 'plain',
      ADD COLUMN IF NOT EXISTS void_minutes INT UNSIGNED NOT NULL DEFAULT 1440`,
    "ALTER TABLE tariff ADD COLUMN IF NOT EXISTS revision INT UNSIGNED NOT NULL DEFAULT 1",
    "ALTER TABLE zone_chart ADD COLUMN IF NOT EXISTS revision INT UNSIGNED NOT NULL DEFAULT 1",
    `ALTER TABLE document MODIFY kind ENUM('label','manifest','bill-of-lading','invoice') NOT NULL,
      ADD COLUMN IF NOT EXISTS intent_id INT UNSIGNED NULL, ADD COLUMN IF NOT EXISTS void_at DATETIME(3) NULL`,
    `ALTER TABLE buy_intent MODIFY state ENUM('open','booked','refused','differs','given-up','void') NOT NULL DEFAULT 'open',
      ADD COLUMN IF NOT EXISTS void_at DATETIME(3) NULL`,
    `ALTER TABLE print_job MODIFY state ENUM('waiting','printed','cancelled') NOT NULL DEFAULT 'waiting',
      ADD COLUMN IF NOT EXISTS copies TINYINT UNSIGNED NOT NULL DEFAULT 1`,
    `ALTER TABLE charge ADD COLUMN IF NOT EXISTS intent_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS reverses_id INT UNSIGNED NULL, ADD UNIQUE INDEX IF NOT EXISTS reversed_once (reverses_id)`,
    `ALTER TABLE order_source ADD COLUMN IF NOT EXISTS pull_url VARCHAR(300) NULL,
      ADD COLUMN IF NOT EXISTS pull_warehouse_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS pull_every_s INT UNSIGNED NOT NULL DEFAULT 60,
      ADD COLUMN IF NOT EXISTS pull_cursor VARCHAR(80) NOT NULL DEFAULT ''`,
    `ALTER TABLE intake_file ADD COLUMN IF NOT EXISTS format ENUM('csv','edifact','json') NOT NULL DEFAULT 'csv'`,
    `CREATE TABLE IF NOT EXISTS api_token (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, name VARCHAR(60) NOT NULL, token_hash CHAR(64) NOT NULL UNIQUE,
      rights JSON NOT NULL, warehouse_id INT UNSIGNED NOT NULL, source_id INT UNSIGNED NOT NULL,
      created_at DATETIME(3) NOT NULL, created_by VARCHAR(60) NOT NULL, expires_at DATETIME(3) NOT NULL,
      revoked_at DATETIME(3) NULL, used_at DATETIME(3) NULL,
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id), FOREIGN KEY (source_id) REFERENCES order_source (id))`,
    `CREATE TABLE IF NOT EXISTS api_request (
      token_id INT UNSIGNED NOT NULL, idempotency_key VARCHAR(80) NOT NULL, body_hash CHAR(64) NOT NULL,
      status SMALLINT UNSIGNED NULL, answer JSON NULL, at DATETIME(3) NOT NULL, PRIMARY KEY (token_id, idempotency_key),
      FOREIGN KEY (token_id) REFERENCES api_token (id))`,
    `CREATE TABLE IF NOT EXISTS change_notice (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, at DATETIME(3) NOT NULL, warehouse_id INT UNSIGNED NOT NULL,
      order_id INT UNSIGNED NULL, INDEX (at))`,
    `CREATE TABLE IF NOT EXISTS presence (
      id CHAR(36) NOT NULL PRIMARY KEY, user_id INT UNSIGNED NOT NULL, name VARCHAR(60) NOT NULL,
      warehouse_id INT UNSIGNED NOT NULL, order_id INT UNSIGNED NOT NULL, seen_at DATETIME(3) NOT NULL, INDEX (order_id))`,
  ],
}
