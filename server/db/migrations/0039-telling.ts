import type { Migration } from "../migrate.ts"

/**
 * Messages to customers: who is told of what, in which words, and what was sent; the page that each links to; and who is
 * not written to any more. Every statement may be run again.
 */
export const telling: Migration = {
  name: "0039-telling",
  statements: [
    // what else goes with an e-mail; and by whom one is being sent just now
    "ALTER TABLE mail ADD COLUMN IF NOT EXISTS html MEDIUMTEXT NULL",
    "ALTER TABLE mail ADD COLUMN IF NOT EXISTS documents JSON NULL",
    "ALTER TABLE mail ADD COLUMN IF NOT EXISTS sender_name VARCHAR(80) NOT NULL DEFAULT ''",
    "ALTER TABLE mail ADD COLUMN IF NOT EXISTS unsubscribe_url VARCHAR(200) NOT NULL DEFAULT ''",
    "ALTER TABLE mail ADD COLUMN IF NOT EXISTS leased_until DATETIME(3) NULL",
    "ALTER TABLE mail ADD COLUMN IF NOT EXISTS bounced_at DATETIME(3) NULL",
    "ALTER TABLE mail MODIFY state ENUM('waiting','sent','refused','bounced') NOT NULL DEFAULT 'waiting'",
    "CREATE INDEX IF NOT EXISTS mail_waits ON mail (state, id)",
    "ALTER TABLE outside_service MODIFY kind ENUM('address','mail','text') NOT NULL",
    `CREATE TABLE IF NOT EXISTS customer_contact (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, customer_id INT UNSIGNED NOT NULL,
      role ENUM('receiving','purchasing','billing','sales') NOT NULL, name VARCHAR(60) NOT NULL DEFAULT '',
      way ENUM('mail','text') NOT NULL, address VARCHAR(120) NOT NULL, language CHAR(2) NOT NULL DEFAULT '',
      topics JSON NOT NULL, UNIQUE KEY contact_of (customer_id, way, address),
      FOREIGN KEY (customer_id) REFERENCES customer (id))`,
    // which happenings the house tells of, and whether a message waits until the night is over
    `CREATE TABLE IF NOT EXISTS telling_topic (
      topic VARCHAR(20) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY, is_on BOOLEAN NOT NULL)`,
    "ALTER TABLE warehouse ADD COLUMN IF NOT EXISTS quiet_from CHAR(5) NOT NULL DEFAULT '21:00'",
    "ALTER TABLE warehouse ADD COLUMN IF NOT EXISTS quiet_to CHAR(5) NOT NULL DEFAULT '07:00'",
    "ALTER TABLE warehouse ADD COLUMN IF NOT EXISTS quiet_mail BOOLEAN NOT NULL DEFAULT FALSE",
    `CREATE TABLE IF NOT EXISTS message_template (
      topic VARCHAR(20) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, way ENUM('mail','text') NOT NULL, language CHAR(2) NOT NULL,
      subject VARCHAR(200) NOT NULL DEFAULT '', body TEXT NOT NULL, version INT UNSIGNED NOT NULL DEFAULT 1,
      PRIMARY KEY (topic, way, language))`,
    // what is said and sent with one order
    `CREATE TABLE IF NOT EXISTS order_telling (
      order_id INT UNSIGNED NOT NULL PRIMARY KEY, is_off BOOLEAN NOT NULL DEFAULT FALSE, note VARCHAR(500) NOT NULL DEFAULT '',
      thanks BOOLEAN NOT NULL DEFAULT FALSE, more JSON NOT NULL, attach JSON NOT NULL,
      FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    // addresses that are not written to, by their hash: an erased one is not known any more
    `CREATE TABLE IF NOT EXISTS telling_block (
      address_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
      why ENUM('unsubscribed','bounced','erased') NOT NULL, at DATETIME(3) NOT NULL)`,
    `CREATE TABLE IF NOT EXISTS customer_message (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      warehouse_id INT UNSIGNED NOT NULL, order_id INT UNSIGNED NOT NULL,
      topic VARCHAR(20) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
      once_key CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
      way ENUM('mail','text') NOT NULL, address VARCHAR(120) NOT NULL, name VARCHAR(60) NOT NULL DEFAULT '', language CHAR(2) NOT NULL,
      facts JSON NOT NULL,
      state ENUM('waiting','handed-on','sent','refused','bounced','blocked','off') NOT NULL DEFAULT 'waiting',
      subject VARCHAR(200) NOT NULL DEFAULT '', body TEXT NULL, trouble VARCHAR(300) NULL,
      made_at DATETIME(3) NOT NULL, send_after DATETIME(3) NOT NULL, sent_at DATETIME(3) NULL, leased_until DATETIME(3) NULL,
      mail_id INT UNSIGNED NULL,
      KEY message_waits (state, way, send_after, id), KEY message_of (warehouse_id, id), KEY message_order (order_id), KEY message_mail (mail_id),
      FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    `CREATE TABLE IF NOT EXISTS receiver_link (
      token CHAR(22) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
      order_id INT UNSIGNED NOT NULL UNIQUE, warehouse_id INT UNSIGNED NOT NULL, language CHAR(2) NOT NULL,
      made_at DATETIME(3) NOT NULL, expires_at DATETIME(3) NOT NULL,
      FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
  ],
}
