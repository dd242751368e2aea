import type { Migration } from "../migrate.ts"

/** Papers of an order, customer or item that are printed with every shipment of it. Every statement may be run again. */
export const ownPapers: Migration = {
  name: "0022-own-papers",
  statements: [
    // of exactly one of the three; what is removed stays for what was printed of it
    `CREATE TABLE IF NOT EXISTS own_paper (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      order_id INT UNSIGNED NULL, customer_id INT UNSIGNED NULL, item_id INT UNSIGNED NULL,
      name VARCHAR(80) NOT NULL, pages SMALLINT UNSIGNED NOT NULL, sha256 CHAR(64) NOT NULL, bytes MEDIUMBLOB NOT NULL,
      added_at DATETIME(3) NOT NULL, added_by VARCHAR(80) NOT NULL, removed_at DATETIME(3) NULL,
      INDEX of_order (order_id), INDEX of_customer (customer_id), INDEX of_item (item_id),
      FOREIGN KEY (order_id) REFERENCES sales_order (id), FOREIGN KEY (customer_id) REFERENCES customer (id),
      FOREIGN KEY (item_id) REFERENCES item (id))`,
    // its bytes are kept once, however often it is printed
    "ALTER TABLE document ADD COLUMN IF NOT EXISTS own_paper_id INT UNSIGNED NULL REFERENCES own_paper (id)",
  ],
}
