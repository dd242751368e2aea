import type { Migration } from "../migrate.ts"

/**
 * What becomes of packages once they have left. A unit is whatever is followed by a number: a package of ours, one of an
 * outside warehouse or of another carrier, one that comes back. Events are kept as they were told, units as they stand by
 * them, and cases are what a person has to see to. Every statement may be run again.
 */
export const tracking: Migration = {
  name: "0038-tracking",
  statements: [
    `CREATE TABLE IF NOT EXISTS tracked_unit (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      warehouse_id INT UNSIGNED NOT NULL, order_id INT UNSIGNED NOT NULL,
      kind ENUM('package','elsewhere','return') NOT NULL,
      package_id INT UNSIGNED NULL, return_id INT UNSIGNED NULL, piece SMALLINT UNSIGNED NOT NULL,
      carrier_id INT UNSIGNED NULL, service_id INT UNSIGNED NULL, carrier VARCHAR(60) NOT NULL DEFAULT '',
      tracking VARCHAR(40) NOT NULL, master VARCHAR(40) NOT NULL DEFAULT '',
      name VARCHAR(20) NOT NULL,
      zone VARCHAR(40) NOT NULL, lane VARCHAR(12) NOT NULL DEFAULT '',
      shipped_on DATE NULL, arrives_on DATE NULL, due_on DATE NULL, left_at DATETIME(3) NULL,
      state ENUM('announced','accepted','in-transit','in-customs','out-for-delivery','attempted','ready','held','returning','returned','lost','delivered') NOT NULL DEFAULT 'announced',
      since DATETIME(3) NULL, seen_at DATETIME(3) NULL, place VARCHAR(80) NOT NULL DEFAULT '',
      estimated_on DATE NULL, delivered_at DATETIME(3) NULL, delivered_to VARCHAR(60) NOT NULL DEFAULT '',
      void_at DATETIME(3) NULL, measured BOOLEAN NOT NULL DEFAULT FALSE,
      look_at DATETIME(3) NULL,
      UNIQUE KEY unit_of (kind, order_id, tracking, piece), KEY unit_number (carrier_id, tracking), KEY unit_master (carrier_id, master),
      KEY unit_plain (tracking), KEY unit_order (order_id), KEY unit_package (package_id), KEY unit_return (return_id), KEY unit_look (look_at),
      FOREIGN KEY (order_id) REFERENCES sales_order (id), FOREIGN KEY (carrier_id) REFERENCES carrier (id))`,
    `CREATE TABLE IF NOT EXISTS tracking_event (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      once_key VARCHAR(120) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
      carrier_id INT UNSIGNED NULL, unit_id INT UNSIGNED NULL,
      way ENUM('pulled','pushed','own','typed') NOT NULL,
      tracking VARCHAR(40) NOT NULL DEFAULT '', master VARCHAR(40) NOT NULL DEFAULT '',
      code VARCHAR(40) NOT NULL, kind VARCHAR(20) CHARACTER SET ascii COLLATE ascii_bin NULL,
      at DATETIME(3) NOT NULL, zone_offset SMALLINT NOT NULL DEFAULT 0,
      place VARCHAR(80) NOT NULL DEFAULT '', postal_code VARCHAR(12) NOT NULL DEFAULT '', country CHAR(2) NOT NULL DEFAULT '',
      text VARCHAR(200) NOT NULL DEFAULT '', estimated_on DATE NULL, name VARCHAR(60) NOT NULL DEFAULT '',
      strokes JSON NULL, picture MEDIUMBLOB NULL, picture_media VARCHAR(20) NULL,
      taken_at DATETIME(3) NOT NULL, known BOOLEAN NOT NULL DEFAULT TRUE,
      KEY event_number (carrier_id, tracking, at), KEY event_master (carrier_id, master, at), KEY event_unit (unit_id, at),
      KEY event_unknown (known, id), KEY event_code (carrier_id, code))`,
    // what each code of a carrier means; null: nobody has said yet
    `CREATE TABLE IF NOT EXISTS tracking_code (
      carrier_id INT UNSIGNED NOT NULL, code VARCHAR(40) NOT NULL,
      kind VARCHAR(20) CHARACTER SET ascii COLLATE ascii_bin NULL, text VARCHAR(200) NOT NULL DEFAULT '',
      first_at DATETIME(3) NOT NULL, PRIMARY KEY (carrier_id, code))`,
    `CREATE TABLE IF NOT EXISTS tracking_case (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
      warehouse_id INT UNSIGNED NOT NULL, order_id INT UNSIGNED NOT NULL, unit_id INT UNSIGNED NOT NULL,
      kind VARCHAR(20) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, since_key VARCHAR(120) NOT NULL,
      figures JSON NOT NULL, opened_at DATETIME(3) NOT NULL,
      state ENUM('open','watched','let-go','over') NOT NULL DEFAULT 'open', watch_until DATETIME(3) NULL,
      note VARCHAR(200) NOT NULL DEFAULT '', told_by VARCHAR(80) NOT NULL DEFAULT '', told_at DATETIME(3) NULL,
      UNIQUE KEY case_of (unit_id, kind, since_key), KEY case_open (warehouse_id, state, id), KEY case_order (order_id),
      FOREIGN KEY (unit_id) REFERENCES tracked_unit (id))`,
    // another address for what a carrier can't deliver, told to him once
    `CREATE TABLE IF NOT EXISTS tracking_readdress (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, unit_id INT UNSIGNED NOT NULL,
      once_key VARCHAR(80) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
      address JSON NOT NULL, state ENUM('waiting','taken','refused') NOT NULL DEFAULT 'waiting', trouble VARCHAR(300) NULL,
      asked_at DATETIME(3) NOT NULL, asked_by VARCHAR(80) NOT NULL, answered_at DATETIME(3) NULL,
      KEY readdress_unit (unit_id), FOREIGN KEY (unit_id) REFERENCES tracked_unit (id))`,
    // how many business days packages took from each state to their delivery, by month
    `CREATE TABLE IF NOT EXISTS delivery_leg (
      service_id INT UNSIGNED NOT NULL, lane VARCHAR(12) NOT NULL, state VARCHAR(20) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
      month DATE NOT NULL, days SMALLINT UNSIGNED NOT NULL, packages INT UNSIGNED NOT NULL DEFAULT 0,
      PRIMARY KEY (service_id, lane, state, month, days))`,
    "ALTER TABLE delivery ADD COLUMN IF NOT EXISTS lane VARCHAR(12) NOT NULL DEFAULT ''",
    "ALTER TABLE package ADD COLUMN IF NOT EXISTS delivered_at DATETIME(3) NULL",
    "ALTER TABLE outside_order ADD COLUMN IF NOT EXISTS delivered_at DATETIME(3) NULL",
    // where a carrier's events are read from up to where, and what his signed messages are checked with
    "ALTER TABLE carrier ADD COLUMN IF NOT EXISTS events_cursor VARCHAR(80) NOT NULL DEFAULT ''",
    "ALTER TABLE carrier ADD COLUMN IF NOT EXISTS events_at DATETIME(3) NULL",
    "ALTER TABLE carrier ADD COLUMN IF NOT EXISTS events_trouble VARCHAR(300) NULL",
    "ALTER TABLE carrier ADD COLUMN IF NOT EXISTS pushes VARBINARY(400) NULL",
    "ALTER TABLE carrier ADD COLUMN IF NOT EXISTS pushes_before VARBINARY(400) NULL",
    // what is on its way already
    `INSERT IGNORE INTO tracked_unit (warehouse_id, order_id, kind, package_id, piece, carrier_id, service_id, carrier, tracking, master, name, zone, shipped_on, arrives_on, due_on, left_at, look_at)
      SELECT h.warehouse_id, h.order_id, 'package', p.id, p.number, s.carrier_id, h.service_id, k.name, p.tracking, COALESCE(h.master_tracking, ''), CONCAT(o.order_number, '-', p.number),
        w.zone, h.ship_date, h.arrives_on, o.promised_on, IF(p.state = 'gone', c.closed_at, NULL), UTC_TIMESTAMP(3)
      FROM package p JOIN shipment h ON h.id = p.shipment_id JOIN service s ON s.id = h.service_id JOIN carrier k ON k.id = s.carrier_id
      JOIN sales_order o ON o.id = h.order_id JOIN warehouse w ON w.id = h.warehouse_id LEFT JOIN collection c ON c.id = p.collection_id
      WHERE p.tracking IS NOT NULL AND p.state <> 'void' AND h.state = 'bought'`,
  ],
}
