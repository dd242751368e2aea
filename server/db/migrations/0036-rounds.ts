import type { Migration } from "../migrate.ts"

/** Stops of our own vehicle's rounds, a row for each order that is delivered there. Every statement may be run again. */
export const rounds: Migration = {
  name: "0036-rounds",
  statements: [
    `CREATE TABLE IF NOT EXISTS round_stop (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      warehouse_id INT UNSIGNED NOT NULL, collection_id INT UNSIGNED NOT NULL, order_id INT UNSIGNED NOT NULL,
      position SMALLINT UNSIGNED NOT NULL,
      state ENUM('planned','delivered','not-delivered') NOT NULL DEFAULT 'planned',
      name VARCHAR(60) NOT NULL DEFAULT '', reason VARCHAR(120) NOT NULL DEFAULT '', strokes JSON NULL,
      told_at DATETIME(3) NULL, told_by VARCHAR(80) NOT NULL DEFAULT '',
      UNIQUE KEY round_order (collection_id, order_id), KEY round_of (warehouse_id, collection_id), KEY round_stop_order (order_id),
      FOREIGN KEY (collection_id) REFERENCES collection (id), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
    // how far it is as it was planned, in kilometers
    "ALTER TABLE collection ADD COLUMN IF NOT EXISTS round_km DECIMAL(8,1) NULL",
  ],
}
