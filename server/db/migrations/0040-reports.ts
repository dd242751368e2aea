import type { Migration } from "../migrate.ts"

/** How each source is told what became of its orders, and how each message to it stands. Every statement may be run again. */
export const reports: Migration = {
  name: "0040-reports",
  statements: [
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS report_way ENUM('http','webhook','folder-json','folder-csv') NOT NULL DEFAULT 'http'",
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS report_folder VARCHAR(40) NOT NULL DEFAULT ''",
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS report_fields JSON NULL",
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS report_names JSON NULL",
    // messages wait until somebody sends them
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS report_by_hand BOOLEAN NOT NULL DEFAULT FALSE",
    // told when labels are made and made void, too
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS report_labels BOOLEAN NOT NULL DEFAULT FALSE",
    // told of the delivery, too
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS report_delivery BOOLEAN NOT NULL DEFAULT FALSE",
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS report_secret VARBINARY(400) NULL",
    "ALTER TABLE order_source ADD COLUMN IF NOT EXISTS report_secret_before VARBINARY(400) NULL",
    "ALTER TABLE outbox ADD COLUMN IF NOT EXISTS state ENUM('waiting','sent','refused') NOT NULL DEFAULT 'waiting'",
    "ALTER TABLE outbox ADD COLUMN IF NOT EXISTS trouble VARCHAR(300) NULL",
    "ALTER TABLE outbox ADD COLUMN IF NOT EXISTS asked SMALLINT UNSIGNED NOT NULL DEFAULT 0",
    // what it is of, so that it is told once
    "ALTER TABLE outbox ADD COLUMN IF NOT EXISTS once_of VARCHAR(120) CHARACTER SET ascii COLLATE ascii_bin NULL",
    "UPDATE outbox SET state = 'sent' WHERE sent_at IS NOT NULL AND state = 'waiting'",
    "CREATE UNIQUE INDEX IF NOT EXISTS outbox_once ON outbox (once_of)",
    "CREATE INDEX IF NOT EXISTS outbox_state ON outbox (state, id)",
    "CREATE INDEX IF NOT EXISTS outbox_order ON outbox (order_id, id)",
    // what the source billed for the freight, as it told us
    `CREATE TABLE IF NOT EXISTS order_invoice (
      order_id INT UNSIGNED NOT NULL, number VARCHAR(40) NOT NULL, freight DECIMAL(14,4) NOT NULL, currency CHAR(3) NOT NULL,
      total DECIMAL(14,4) NULL, at DATETIME(3) NOT NULL, PRIMARY KEY (order_id, number),
      FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
  ],
}
