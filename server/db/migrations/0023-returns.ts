import type { Migration } from "../migrate.ts"

/** Labels by which goods come back, booked at the carrier once each. Every statement may be run again. */
export const returns: Migration = {
  name: "0023-returns",
  statements: [
    // a service by which goods come back: nobody sends goods out with it
    "ALTER TABLE service ADD COLUMN IF NOT EXISTS returns BOOLEAN NOT NULL DEFAULT FALSE",
    `CREATE TABLE IF NOT EXISTS return_intent (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      warehouse_id INT UNSIGNED NOT NULL, order_id INT UNSIGNED NOT NULL, number SMALLINT UNSIGNED NOT NULL,
      intent_id INT UNSIGNED NULL, service_id INT UNSIGNED NOT NULL, tariff_version_id INT UNSIGNED NOT NULL,
      once_key VARCHAR(80) NOT NULL UNIQUE, idempotency_key CHAR(36) NOT NULL UNIQUE,
      state ENUM('open','booked','refused','differs','voiding','void') NOT NULL DEFAULT 'open',
      expected_amount DECIMAL(12,4) NOT NULL, currency CHAR(3) NOT NULL,
      paid ENUM('at-once','when-scanned') NOT NULL, valid_until DATE NOT NULL,
      request JSON NOT NULL, charges JSON NOT NULL, models JSON NOT NULL, goods JSON NOT NULL,
      answer JSON NULL, trouble JSON NULL, prints BOOLEAN NOT NULL, mail_to VARCHAR(120) NOT NULL DEFAULT '',
      master_tracking VARCHAR(40) NULL, created_at DATETIME(3) NOT NULL, answered_at DATETIME(3) NULL,
      scanned_at DATETIME(3) NULL, asked_at DATETIME(3) NULL, user_id INT UNSIGNED NULL, bench_id INT UNSIGNED NULL,
      actor VARCHAR(80) NOT NULL,
      UNIQUE INDEX of_order (order_id, number), INDEX to_ask (state, paid, scanned_at, asked_at),
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id), FOREIGN KEY (order_id) REFERENCES sales_order (id),
      FOREIGN KEY (intent_id) REFERENCES buy_intent (id), FOREIGN KEY (service_id) REFERENCES service (id),
      FOREIGN KEY (tariff_version_id) REFERENCES tariff_version (id))`,
    "ALTER TABLE document ADD COLUMN IF NOT EXISTS return_intent_id INT UNSIGNED NULL REFERENCES return_intent (id)",
  ],
}
