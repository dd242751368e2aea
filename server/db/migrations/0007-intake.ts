import type { Migration } from "../migrate.ts"

/**
 * Sources with names of their own and their manner of writing, intake in steps with progress, corrections, orders that
 * are typed, changes and cancellations that wait for a decision, references, what a person lets pass, credit,
 * screening, data of dangerous goods. Every statement may be run again.
 */
export const intake: Migration = {
  name: "0007-intake",
  statements: [
    `ALTER TABLE order_source ADD COLUMN IF NOT EXISTS kind ENUM('upload','folder','api','pull','typed') NOT NULL DEFAULT 'upload',
      ADD COLUMN IF NOT EXISTS active BOOLEAN NOT NULL DEFAULT TRUE, ADD COLUMN IF NOT EXISTS folder VARCHAR(40) NULL UNIQUE,
      ADD COLUMN IF NOT EXISTS ship_states JSON NOT NULL DEFAULT '[]',
      ADD COLUMN IF NOT EXISTS cancelled_states JSON NOT NULL DEFAULT '["cancelled"]',
      ADD COLUMN IF NOT EXISTS record_url VARCHAR(300) NULL, ADD COLUMN IF NOT EXISTS mapping JSON NULL,
      ADD COLUMN IF NOT EXISTS sample JSON NULL, ADD COLUMN IF NOT EXISTS version INT UNSIGNED NOT NULL DEFAULT 1,
      ADD COLUMN IF NOT EXISTS ran_at DATETIME(3) NULL, ADD COLUMN IF NOT EXISTS run_trouble VARCHAR(300) NULL`,
    "UPDATE order_source SET kind = 'pull' WHERE pull_url IS NOT NULL AND kind = 'upload'",
    `UPDATE order_source SET kind = 'api' WHERE kind = 'upload'
      AND EXISTS (SELECT 1 FROM api_token WHERE api_token.source_id = order_source.id)`,
    `INSERT INTO order_source (code, name, kind) SELECT 'typed', 'Typed at the bench', 'typed' FROM DUAL
      WHERE NOT EXISTS (SELECT 1 FROM order_source WHERE code = 'typed')`,
    `ALTER TABLE intake_file ADD COLUMN IF NOT EXISTS state ENUM('reading','read','taking','taken') NOT NULL DEFAULT 'read',
      ADD COLUMN IF NOT EXISTS order_count INT UNSIGNED NOT NULL DEFAULT 0,
      ADD COLUMN IF NOT EXISTS refused_count INT UNSIGNED NOT NULL DEFAULT 0,
      ADD COLUMN IF NOT EXISTS taken_count INT UNSIGNED NOT NULL DEFAULT 0,
      ADD INDEX IF NOT EXISTS by_source (source_id, id)`,
    "UPDATE intake_file SET state = 'taken' WHERE taken_at IS NOT NULL AND state = 'read'",
    `ALTER TABLE intake_row ADD COLUMN IF NOT EXISTS corrected_by VARCHAR(60) NULL,
      ADD COLUMN IF NOT EXISTS refused BOOLEAN AS (parsed IS NULL) STORED,
      ADD INDEX IF NOT EXISTS by_order (intake_id, order_number), ADD INDEX IF NOT EXISTS by_refused (intake_id, refused, line)`,
    `CREATE TABLE IF NOT EXISTS intake_refusal (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, source_id INT UNSIGNED NOT NULL, warehouse_id INT UNSIGNED NOT NULL,
      name VARCHAR(200) NOT NULL, reason JSON NOT NULL, at DATETIME(3) NOT NULL, seen_at DATETIME(3) NULL,
      INDEX (source_id, id), FOREIGN KEY (source_id) REFERENCES order_source (id))`,
    `CREATE TABLE IF NOT EXISTS intake_order (
      intake_id INT UNSIGNED NOT NULL, position INT UNSIGNED NOT NULL, order_number VARCHAR(40) NOT NULL,
      customer VARCHAR(60) NOT NULL, place VARCHAR(60) NOT NULL,
      good_rows INT UNSIGNED NOT NULL, refused_rows INT UNSIGNED NOT NULL, content_hash CHAR(64) NOT NULL,
      wish ENUM('ship','wait','cancel') NOT NULL DEFAULT 'ship', fate VARCHAR(20) NULL,
      PRIMARY KEY (intake_id, position), UNIQUE (intake_id, order_number), INDEX to_take (intake_id, fate, position),
      FOREIGN KEY (intake_id) REFERENCES intake_file (id))`,
    `INSERT IGNORE INTO intake_order (intake_id, position, order_number, customer, place, good_rows, refused_rows, content_hash, fate)
      SELECT r.intake_id, MIN(r.line), r.order_number, COALESCE(JSON_VALUE(MAX(r.parsed), '$.customer'), ''),
        COALESCE(JSON_VALUE(MAX(r.parsed), '$.city'), ''), SUM(r.parsed IS NOT NULL), SUM(r.parsed IS NULL), '',
        IF(f.taken_at IS NULL, NULL, 'earlier')
      FROM intake_row r JOIN intake_file f ON f.id = r.intake_id WHERE f.order_count = 0
      GROUP BY r.intake_id, r.order_number, f.taken_at`,
    `UPDATE intake_file f SET order_count = (SELECT COUNT(*) FROM intake_order o WHERE o.intake_id = f.id),
      refused_count = (SELECT COUNT(*) FROM intake_row r WHERE r.intake_id = f.id AND r.parsed IS NULL),
      taken_count = IF(f.taken_at IS NULL, 0, (SELECT COUNT(*) FROM intake_order o WHERE o.intake_id = f.id))
      WHERE f.order_count = 0`,
    `ALTER TABLE sales_order MODIFY bench_number VARCHAR(8) NOT NULL,
      ADD COLUMN IF NOT EXISTS intake_id INT UNSIGNED NULL, ADD COLUMN IF NOT EXISTS ship_on DATE NULL,
      ADD COLUMN IF NOT EXISTS source_state VARCHAR(40) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS record_url VARCHAR(300) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS source_waits BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN IF NOT EXISTS cancelled_at DATETIME(3) NULL,
      ADD INDEX IF NOT EXISTS by_customer (customer_id, id), ADD INDEX IF NOT EXISTS by_intake (intake_id)`,
    `CREATE TABLE IF NOT EXISTS order_reference (
      order_id INT UNSIGNED NOT NULL, name VARCHAR(30) NOT NULL, value VARCHAR(60) NOT NULL, printed BOOLEAN NOT NULL,
      PRIMARY KEY (order_id, name), INDEX (value), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `CREATE TABLE IF NOT EXISTS order_change (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, order_id INT UNSIGNED NOT NULL,
      kind ENUM('changed','cancelled') NOT NULL, content JSON NOT NULL, content_hash CHAR(64) NOT NULL,
      came_with VARCHAR(200) NOT NULL, intake_id INT UNSIGNED NULL, came_at DATETIME(3) NOT NULL,
      state ENUM('open','taken','kept','overtaken') NOT NULL DEFAULT 'open',
      decided_at DATETIME(3) NULL, decided_by VARCHAR(60) NULL,
      INDEX (order_id, state), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `CREATE TABLE IF NOT EXISTS order_waiver (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, order_id INT UNSIGNED NOT NULL, code VARCHAR(60) NOT NULL,
      detail_hash CHAR(64) NOT NULL, detail JSON NOT NULL, actor VARCHAR(60) NOT NULL, at DATETIME(3) NOT NULL,
      UNIQUE once (order_id, code, detail_hash), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `CREATE TABLE IF NOT EXISTS order_draft (
      id CHAR(36) NOT NULL PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, user_id INT UNSIGNED NOT NULL,
      title VARCHAR(80) NOT NULL, content JSON NOT NULL, updated_at DATETIME(3) NOT NULL,
      version INT UNSIGNED NOT NULL DEFAULT 1, taken_as VARCHAR(8) NULL,
      INDEX (warehouse_id, taken_as, updated_at), FOREIGN KEY (user_id) REFERENCES user (id))`,
    `ALTER TABLE customer ADD COLUMN IF NOT EXISTS credit_stop BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN IF NOT EXISTS credit_note VARCHAR(120) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS version INT UNSIGNED NOT NULL DEFAULT 1, ADD INDEX IF NOT EXISTS by_name (name)`,
    `CREATE TABLE IF NOT EXISTS screening_entry (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, list VARCHAR(40) NOT NULL, reference VARCHAR(40) NOT NULL,
      name VARCHAR(160) NOT NULL, street VARCHAR(120) NOT NULL, city VARCHAR(60) NOT NULL, country CHAR(2) NOT NULL,
      INDEX (list))`,
    `ALTER TABLE item ADD COLUMN IF NOT EXISTS proper_shipping_name VARCHAR(120) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS hazard_class VARCHAR(8) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS packing_group VARCHAR(3) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS inner_quantity DECIMAL(12,4) NULL,
      ADD COLUMN IF NOT EXISTS inner_unit VARCHAR(4) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS limited_quantity BOOLEAN NULL`,
    "ALTER TABLE stock_movement MODIFY cause ENUM('opening','pick','put-back') NOT NULL",
  ],
}
