import type { Migration } from "../migrate.ts"

/**
 * Printers with what they are like and how they are, which kind of paper goes to which, from which bench and for whom;
 * labels in the form of their printer. Every statement may be run again.
 */
export const printers: Migration = {
  name: "0021-printers",
  statements: [
    // a warehouse may have several printers of a medium
    "ALTER TABLE printer ADD UNIQUE INDEX IF NOT EXISTS by_name (warehouse_id, name)",
    "ALTER TABLE printer DROP INDEX IF EXISTS warehouse_id",
    `ALTER TABLE printer
      ADD COLUMN IF NOT EXISTS active BOOLEAN NOT NULL DEFAULT TRUE,
      ADD COLUMN IF NOT EXISTS form VARCHAR(16) NOT NULL DEFAULT '4x6',
      ADD COLUMN IF NOT EXISTS dpi SMALLINT UNSIGNED NOT NULL DEFAULT 203,
      ADD COLUMN IF NOT EXISTS held BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN IF NOT EXISTS half_free BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN IF NOT EXISTS fallback_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS state VARCHAR(16) NULL,
      ADD COLUMN IF NOT EXISTS reasons VARCHAR(300) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS media_found JSON NOT NULL DEFAULT '[]',
      ADD COLUMN IF NOT EXISTS model VARCHAR(120) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS looked_at DATETIME(3) NULL,
      ADD COLUMN IF NOT EXISTS trouble_since DATETIME(3) NULL,
      ADD COLUMN IF NOT EXISTS lease CHAR(36) NULL,
      ADD COLUMN IF NOT EXISTS leased_until DATETIME(3) NULL,
      ADD COLUMN IF NOT EXISTS version INT UNSIGNED NOT NULL DEFAULT 1`,
    // what has a medium of labels prints labels, all else sheets
    "UPDATE printer SET form = 'letter' WHERE media LIKE 'na_letter%' AND version = 1 AND form = '4x6'",
    `CREATE TABLE IF NOT EXISTS bench (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL,
      name VARCHAR(60) NOT NULL, active BOOLEAN NOT NULL DEFAULT TRUE,
      UNIQUE INDEX of_warehouse (warehouse_id, name), FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
    // of a bench, a user or neither: the warehouse's own
    `CREATE TABLE IF NOT EXISTS printer_use (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL,
      bench_id INT UNSIGNED NULL, user_id INT UNSIGNED NULL, kind VARCHAR(24) NOT NULL, printer_id INT UNSIGNED NOT NULL,
      INDEX of_warehouse (warehouse_id, kind), FOREIGN KEY (warehouse_id) REFERENCES warehouse (id),
      FOREIGN KEY (bench_id) REFERENCES bench (id), FOREIGN KEY (user_id) REFERENCES user (id),
      FOREIGN KEY (printer_id) REFERENCES printer (id))`,
    `INSERT INTO printer_use (warehouse_id, kind, printer_id)
      SELECT p.warehouse_id, IF(p.media LIKE 'na_index-4x6%', 'labels', 'papers'), MIN(p.id) FROM printer p
      WHERE NOT EXISTS (SELECT 1 FROM printer_use u WHERE u.warehouse_id = p.warehouse_id)
      GROUP BY p.warehouse_id, IF(p.media LIKE 'na_index-4x6%', 'labels', 'papers')`,
    `ALTER TABLE print_job MODIFY state ENUM('waiting','sent','printed','cancelled') NOT NULL DEFAULT 'waiting',
      ADD COLUMN IF NOT EXISTS ipp_job INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS sheet CHAR(36) NULL,
      ADD INDEX IF NOT EXISTS of_printer (printer_id, state, id)`,
    // what is on a label, so that it is drawn in the form of whatever printer it goes to
    "ALTER TABLE document ADD COLUMN IF NOT EXISTS model JSON NULL",
    "ALTER TABLE carrier ADD COLUMN IF NOT EXISTS label_form VARCHAR(16) NOT NULL DEFAULT ''",
    "ALTER TABLE buy_intent ADD COLUMN IF NOT EXISTS bench_id INT UNSIGNED NULL",
    "ALTER TABLE shipping_run ADD COLUMN IF NOT EXISTS bench_id INT UNSIGNED NULL",
  ],
}
