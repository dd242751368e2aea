import type { Migration } from "../migrate.ts"

/**
 * Messages of the trade to customers' systems. What each says is made by the job that sends it first, of packages that
 * nobody changes any more, and kept. Every statement may be run again.
 */
export const edi: Migration = {
  name: "0035-edi",
  statements: [
    `CREATE TABLE IF NOT EXISTS edi_message (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      warehouse_id INT UNSIGNED NOT NULL, order_id INT UNSIGNED NOT NULL, customer_id INT UNSIGNED NOT NULL,
      collection_id INT UNSIGNED NULL, document_id BIGINT UNSIGNED NULL,
      kind ENUM('desadv','iftmin','epcis') NOT NULL, cancels BOOLEAN NOT NULL DEFAULT FALSE,
      way ENUM('mail','folder','http') NOT NULL, send_to VARCHAR(200) NOT NULL, receiver VARCHAR(35) NOT NULL,
      once_key VARCHAR(120) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
      message_key CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
      packages JSON NOT NULL,
      bytes MEDIUMBLOB NULL,
      state ENUM('waiting','sent','acknowledged','refused') NOT NULL DEFAULT 'waiting',
      asked SMALLINT UNSIGNED NOT NULL DEFAULT 0, trouble JSON NULL,
      made_at DATETIME(3) NOT NULL, sent_at DATETIME(3) NULL,
      answered_at DATETIME(3) NULL, answered_by VARCHAR(80) NOT NULL DEFAULT '',
      KEY edi_of (warehouse_id, id), KEY edi_state (warehouse_id, state), KEY edi_order (order_id),
      FOREIGN KEY (order_id) REFERENCES sales_order (id), FOREIGN KEY (customer_id) REFERENCES customer (id))`,
    // when a package was told of as shipped; each is told of once
    "ALTER TABLE package ADD COLUMN IF NOT EXISTS noticed_at DATETIME(3) NULL",
  ],
}
