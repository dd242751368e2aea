import type { Migration } from "../migrate.ts"

/**
 * What the plan of a day stands on: hands by shift and by date, closed days, coefficients of papers, what an extra hand
 * costs; the collection that an order must make and the one that a person chose; measured work. Every statement may be
 * run again.
 */
export const plan: Migration = {
  name: "0010-plan",
  statements: [
    `ALTER TABLE warehouse ADD COLUMN IF NOT EXISTS work_per_paper DECIMAL(6,2) NOT NULL DEFAULT 1.5,
      ADD COLUMN IF NOT EXISTS hand_hour DECIMAL(8,2) NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS currency CHAR(3) NOT NULL DEFAULT 'USD',
      ADD COLUMN IF NOT EXISTS leave_policy ENUM('soonest','latest') NOT NULL DEFAULT 'soonest',
      ADD COLUMN IF NOT EXISTS version INT UNSIGNED NOT NULL DEFAULT 1`,
    "ALTER TABLE work_period ADD COLUMN IF NOT EXISTS hands TINYINT UNSIGNED NULL",
    `CREATE TABLE IF NOT EXISTS day_exception (
      warehouse_id INT UNSIGNED NOT NULL, on_date DATE NOT NULL, closed BOOLEAN NOT NULL DEFAULT FALSE,
      hands TINYINT UNSIGNED NULL, name VARCHAR(60) NOT NULL DEFAULT '', PRIMARY KEY (warehouse_id, on_date),
      FOREIGN KEY (warehouse_id) REFERENCES warehouse (id))`,
    `ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS must_collection_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS chosen_collection_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS chosen_service_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS planned_packages SMALLINT UNSIGNED NOT NULL DEFAULT 1`,
    `CREATE TABLE IF NOT EXISTS work_measure (
      order_id INT UNSIGNED NOT NULL, kind ENUM('pick','pack','papers') NOT NULL, user_id INT UNSIGNED NOT NULL,
      began_at DATETIME(3) NOT NULL, last_at DATETIME(3) NOT NULL, active_s DECIMAL(10,3) NOT NULL DEFAULT 0,
      acts INT UNSIGNED NOT NULL DEFAULT 0, PRIMARY KEY (order_id, kind, user_id), INDEX by_person (user_id, last_at),
      FOREIGN KEY (order_id) REFERENCES sales_order (id), FOREIGN KEY (user_id) REFERENCES user (id))`,
    `CREATE TABLE IF NOT EXISTS work_done (
      order_id INT UNSIGNED NOT NULL PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, at DATETIME(3) NOT NULL,
      bins INT UNSIGNED NOT NULL, order_lines INT UNSIGNED NOT NULL, packages INT UNSIGNED NOT NULL, papers INT UNSIGNED NOT NULL,
      predicted_pick DECIMAL(8,2) NOT NULL, predicted_pack DECIMAL(8,2) NOT NULL, predicted_papers DECIMAL(8,2) NOT NULL,
      INDEX latest (warehouse_id, at), FOREIGN KEY (order_id) REFERENCES sales_order (id))`,
  ],
}
