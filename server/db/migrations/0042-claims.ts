import type { Migration } from "../migrate.ts"

/** Claims for loss and damage: what is claimed of whom until when, with its papers, and what came of it. Every statement may be run again. */
export const claims: Migration = {
  name: "0042-claims",
  statements: [
    "ALTER TABLE carrier ADD COLUMN IF NOT EXISTS claim_terms JSON NULL",
    // events that nobody asks about any more are taken away
    "CREATE INDEX IF NOT EXISTS event_taken ON tracking_event (taken_at)",
    `CREATE TABLE IF NOT EXISTS claim (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, number INT UNSIGNED NOT NULL,
      order_id INT UNSIGNED NOT NULL, unit_id INT UNSIGNED NOT NULL, units JSON NOT NULL,
      carrier_id INT UNSIGNED NULL, carrier VARCHAR(80) NOT NULL,
      kind ENUM('loss','damage','shortage') NOT NULL,
      state ENUM('draft','filed','acknowledged','paid','denied','withdrawn') NOT NULL DEFAULT 'draft',
      happened VARCHAR(1000) NOT NULL DEFAULT '', goods JSON NOT NULL, currency CHAR(3) NOT NULL, facts JSON NOT NULL, amounts JSON NOT NULL,
      total DECIMAL(14,4) NOT NULL, file_by DATE NOT NULL, papers JSON NOT NULL,
      version INT UNSIGNED NOT NULL DEFAULT 1, made_at DATETIME(3) NOT NULL, made_by VARCHAR(80) NOT NULL,
      filed_on DATE NULL, filed_to VARCHAR(120) NOT NULL DEFAULT '', filed_by VARCHAR(80) NOT NULL DEFAULT '', document_id INT UNSIGNED NULL,
      reference VARCHAR(60) NOT NULL DEFAULT '', acknowledged_on DATE NULL, settled_on DATE NULL, paid DECIMAL(14,4) NULL,
      note VARCHAR(300) NOT NULL DEFAULT '', open_unit INT UNSIGNED AS (IF(state IN ('paid','withdrawn'), NULL, unit_id)) PERSISTENT,
      UNIQUE KEY claim_number (warehouse_id, number), UNIQUE KEY one_open (open_unit, kind), KEY claim_state (warehouse_id, state, file_by),
      KEY claim_order (order_id),
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `CREATE TABLE IF NOT EXISTS claim_photo (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, claim_id INT UNSIGNED NOT NULL, name VARCHAR(120) NOT NULL,
      media VARCHAR(20) NOT NULL, sha256 CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, bytes MEDIUMBLOB NOT NULL,
      added_at DATETIME(3) NOT NULL, added_by VARCHAR(80) NOT NULL,
      UNIQUE KEY photo_once (claim_id, sha256), FOREIGN KEY (claim_id) REFERENCES claim (id))`,
  ],
}
