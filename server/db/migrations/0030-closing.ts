import type { Migration } from "../migrate.ts"

/**
 * Forms that goods are handed over with: several for a truck, each package on one at most. The one manifest that a
 * collection had before becomes its first form. Every statement may be run again.
 */
export const closing: Migration = {
  name: "0030-closing",
  statements: [
    `CREATE TABLE IF NOT EXISTS closing_form (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      warehouse_id INT UNSIGNED NOT NULL, collection_id INT UNSIGNED NOT NULL, carrier_id INT UNSIGNED NOT NULL,
      sequence SMALLINT UNSIGNED NOT NULL,
      way ENUM('one-barcode','manifest','bill-of-lading','electronic','none') NOT NULL,
      number VARCHAR(40) COLLATE utf8mb4_bin NOT NULL,
      account VARCHAR(40) NOT NULL, service VARCHAR(80) NULL,
      supplement BOOLEAN NOT NULL DEFAULT FALSE, at_closing BOOLEAN NOT NULL DEFAULT TRUE,
      packages INT UNSIGNED NOT NULL, weight_kg DECIMAL(24,12) NOT NULL,
      document_id BIGINT UNSIGNED NULL, own_document BOOLEAN NOT NULL DEFAULT TRUE,
      told BOOLEAN NOT NULL DEFAULT FALSE, once_key CHAR(36) COLLATE utf8mb4_bin NOT NULL UNIQUE, asked SMALLINT UNSIGNED NOT NULL DEFAULT 0,
      state ENUM('made','sending','done','refused','discarded') NOT NULL DEFAULT 'made',
      carrier_number VARCHAR(60) COLLATE utf8mb4_bin NOT NULL DEFAULT '', trouble JSON NULL,
      made_at DATETIME(3) NOT NULL, made_by VARCHAR(80) NOT NULL,
      ended_at DATETIME(3) NULL, ended_by VARCHAR(80) NULL,
      UNIQUE KEY form_sequence (collection_id, sequence),
      KEY form_number (warehouse_id, number), KEY form_made (warehouse_id, made_at), KEY form_state (warehouse_id, state),
      FOREIGN KEY (collection_id) REFERENCES collection (id), FOREIGN KEY (carrier_id) REFERENCES carrier (id))`,
    `ALTER TABLE package
      ADD COLUMN IF NOT EXISTS form_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS missed_id INT UNSIGNED NULL,
      ADD KEY IF NOT EXISTS package_form (form_id)`,
    `ALTER TABLE collection
      ADD COLUMN IF NOT EXISTS final_at DATETIME(3) NULL,
      ADD COLUMN IF NOT EXISTS closings SMALLINT UNSIGNED NOT NULL DEFAULT 0`,
    // minutes after closing in which a lead can still reopen a door
    "ALTER TABLE warehouse ADD COLUMN IF NOT EXISTS closing_wait SMALLINT UNSIGNED NOT NULL DEFAULT 10",
    `CREATE TABLE IF NOT EXISTS closing_address (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      warehouse_id INT UNSIGNED NOT NULL, carrier_id INT UNSIGNED NULL, email VARCHAR(120) NOT NULL,
      KEY closing_address_of (warehouse_id, carrier_id))`,
    // the columns are dropped below: run again, there is nothing left to copy
    `BEGIN NOT ATOMIC
      IF EXISTS (SELECT 1 FROM information_schema.COLUMNS
        WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME = 'collection' AND COLUMN_NAME = 'manifest_number') THEN
        INSERT IGNORE INTO closing_form (warehouse_id, collection_id, carrier_id, sequence, way, number, account, packages, weight_kg,
          document_id, once_key, state, made_at, made_by, ended_at, ended_by)
        SELECT c.warehouse_id, c.id, c.carrier_id, 1, 'manifest', c.manifest_number, k.account,
          (SELECT COUNT(*) FROM package p WHERE p.collection_id = c.id AND p.state = 'gone' AND p.parent_id IS NULL),
          (SELECT COALESCE(SUM(p.sent_kg), 0) FROM package p WHERE p.collection_id = c.id AND p.state = 'gone' AND p.parent_id IS NULL),
          c.manifest_document_id, UUID(), 'done', c.closed_at, COALESCE(c.closed_by, ''), c.closed_at, COALESCE(c.closed_by, '')
        FROM collection c JOIN carrier k ON k.id = c.carrier_id
        WHERE c.closed_at IS NOT NULL AND c.manifest_number IS NOT NULL AND c.closings = 0;
      END IF;
    END`,
    `UPDATE package p JOIN closing_form f ON f.collection_id = p.collection_id AND f.sequence = 1
      SET p.form_id = f.id WHERE p.state = 'gone' AND p.parent_id IS NULL AND p.form_id IS NULL`,
    "UPDATE collection SET final_at = closed_at, closings = 1 WHERE closed_at IS NOT NULL AND closings = 0",
    // what a truck had one of is kept with its forms now
    "ALTER TABLE collection DROP COLUMN IF EXISTS manifest_number, DROP COLUMN IF EXISTS manifest_document_id",
  ],
}
