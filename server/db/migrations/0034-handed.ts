import type { Migration } from "../migrate.ts"

/** Goods that somebody fetched, or was handed in person, with his signature. Every statement may be run again. */
export const handed: Migration = {
  name: "0034-handed",
  statements: [
    `CREATE TABLE IF NOT EXISTS handed_over (
      order_id INT UNSIGNED NOT NULL PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL,
      way ENUM('counter','in-person') NOT NULL, name VARCHAR(60) NOT NULL,
      identity ENUM('seen','known','none') NOT NULL, on_paper BOOLEAN NOT NULL, strokes JSON NOT NULL,
      note VARCHAR(120) NOT NULL, document_id BIGINT UNSIGNED NULL,
      handed_at DATETIME(3) NOT NULL, handed_by VARCHAR(80) NOT NULL,
      KEY handed_of (warehouse_id, handed_at), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
  ],
}
