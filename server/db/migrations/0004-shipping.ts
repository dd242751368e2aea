import type { Migration } from "../migrate.ts"

/** Carriers, services, tariffs, collections, shipments, packages, the exact-once buying, papers and printing. */
export const shipping: Migration = {
  name: "0004-shipping",
  statements: [
    `CREATE TABLE IF NOT EXISTS carrier (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, code VARCHAR(16) NOT NULL UNIQUE, name VARCHAR(60) NOT NULL,
      base_url VARCHAR(300) NOT NULL, account VARCHAR(40) NOT NULL, holidays JSON NOT NULL,
      down_until DATETIME(3) NULL)`,
    `CREATE TABLE IF NOT EXISTS service (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, carrier_id INT UNSIGNED NOT NULL, code VARCHAR(16) NOT NULL UNIQUE,
      name VARCHAR(60) NOT NULL, FOREIGN KEY (carrier_id) REFERENCES carrier (id))`,
    `CREATE TABLE IF NOT EXISTS tariff (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, service_id INT UNSIGNED NOT NULL, valid_from DATE NOT NULL,
      body JSON NOT NULL, UNIQUE (service_id, valid_from), FOREIGN KEY (service_id) REFERENCES service (id))`,
    `CREATE TABLE IF NOT EXISTS zone_chart (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, carrier_id INT UNSIGNED NOT NULL, origin CHAR(3) NOT NULL,
      body JSON NOT NULL, UNIQUE (carrier_id, origin), FOREIGN KEY (carrier_id) REFERENCES carrier (id))`,
    `CREATE TABLE IF NOT EXISTS collection_rule (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, carrier_id INT UNSIGNED NOT NULL,
      door VARCHAR(4) NOT NULL, cut_off CHAR(5) NOT NULL, weekdays JSON NOT NULL, services JSON NOT NULL,
      UNIQUE (warehouse_id, door, cut_off), FOREIGN KEY (carrier_id) REFERENCES carrier (id))`,
    `CREATE TABLE IF NOT EXISTS collection (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, carrier_id INT UNSIGNED NOT NULL,
      door VARCHAR(4) NOT NULL, on_date DATE NOT NULL, cut_off DATETIME(3) NOT NULL,
      services JSON NOT NULL,
      closed_at DATETIME(3) NULL, closed_by VARCHAR(60) NULL, manifest_number VARCHAR(24) NULL UNIQUE,
      manifest_document_id BIGINT UNSIGNED NULL,
      UNIQUE once (warehouse_id, door, cut_off), INDEX (warehouse_id, on_date), FOREIGN KEY (carrier_id) REFERENCES carrier (id))`,
    `CREATE TABLE IF NOT EXISTS shipment (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, order_id INT UNSIGNED NOT NULL, warehouse_id INT UNSIGNED NOT NULL,
      state ENUM('open','buying','bought','void') NOT NULL DEFAULT 'open', version INT UNSIGNED NOT NULL DEFAULT 1,
      service_id INT UNSIGNED NULL, collection_id INT UNSIGNED NULL, ship_date DATE NULL,
      master_tracking VARCHAR(40) NULL, currency CHAR(3) NULL, list_amount DECIMAL(14,4) NULL, contract_amount DECIMAL(14,4) NULL,
      arrives_on DATE NULL, bought_at DATETIME(3) NULL, trouble JSON NULL,
      FOREIGN KEY (order_id) REFERENCES sales_order (id), FOREIGN KEY (service_id) REFERENCES service (id),
      FOREIGN KEY (collection_id) REFERENCES collection (id))`,
    `CREATE TABLE IF NOT EXISTS package (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, shipment_id INT UNSIGNED NOT NULL, number INT UNSIGNED NOT NULL,
      packaging_id INT UNSIGNED NULL, state ENUM('open','closed','labelled','on-truck','left-behind','gone','void') NOT NULL DEFAULT 'open',
      length_mm DECIMAL(14,6) NOT NULL, width_mm DECIMAL(14,6) NOT NULL, height_mm DECIMAL(14,6) NOT NULL,
      tare_kg DECIMAL(20,12) NOT NULL, measured_kg DECIMAL(20,12) NULL, size_by_hand BOOLEAN NOT NULL DEFAULT FALSE,
      sscc CHAR(18) NULL UNIQUE, tracking VARCHAR(40) NULL UNIQUE, routing_code VARCHAR(40) NULL,
      label_document_id BIGINT UNSIGNED NULL, collection_id INT UNSIGNED NULL, loaded_at DATETIME(3) NULL, loaded_by VARCHAR(60) NULL,
      seen_at DATETIME(3) NULL, seen_where VARCHAR(60) NULL,
      UNIQUE (shipment_id, number), INDEX (collection_id, state), FOREIGN KEY (shipment_id) REFERENCES shipment (id), FOREIGN KEY (collection_id) REFERENCES collection (id), FOREIGN KEY (packaging_id) REFERENCES packaging (id))`,
    `CREATE TABLE IF NOT EXISTS package_content (
      package_id INT UNSIGNED NOT NULL, order_line_id INT UNSIGNED NOT NULL, quantity INT UNSIGNED NOT NULL,
      unverified INT UNSIGNED NOT NULL DEFAULT 0, PRIMARY KEY (package_id, order_line_id),
      FOREIGN KEY (package_id) REFERENCES package (id), FOREIGN KEY (order_line_id) REFERENCES order_line (id))`,
    `CREATE TABLE IF NOT EXISTS buy_intent (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, idempotency_key CHAR(36) NOT NULL UNIQUE,
      shipment_id INT UNSIGNED NOT NULL, shipment_version INT UNSIGNED NOT NULL, service_id INT UNSIGNED NOT NULL,
      expected_amount DECIMAL(14,4) NOT NULL, currency CHAR(3) NOT NULL, request JSON NOT NULL, rate JSON NOT NULL,
      state ENUM('open','booked','refused','differs','given-up') NOT NULL DEFAULT 'open', answer JSON NULL,
      created_at DATETIME(3) NOT NULL, answered_at DATETIME(3) NULL, give_up BOOLEAN NOT NULL DEFAULT FALSE, user_id INT UNSIGNED NULL, actor VARCHAR(60) NOT NULL,
      UNIQUE version_once (shipment_id, shipment_version), FOREIGN KEY (shipment_id) REFERENCES shipment (id))`,
    `CREATE TABLE IF NOT EXISTS charge (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, shipment_id INT UNSIGNED NOT NULL, code VARCHAR(40) NOT NULL,
      package_number INT UNSIGNED NULL, currency CHAR(3) NOT NULL, list_amount DECIMAL(14,4) NOT NULL,
      contract_amount DECIMAL(14,4) NOT NULL, why JSON NOT NULL, INDEX (shipment_id), FOREIGN KEY (shipment_id) REFERENCES shipment (id))`,
    `CREATE TABLE IF NOT EXISTS document (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL,
      kind ENUM('label','manifest') NOT NULL, name VARCHAR(80) NOT NULL, media VARCHAR(40) NOT NULL,
      sha256 CHAR(64) NOT NULL, bytes MEDIUMBLOB NOT NULL, made_at DATETIME(3) NOT NULL, order_id INT UNSIGNED NULL,
      collection_id INT UNSIGNED NULL, INDEX (order_id), INDEX (warehouse_id, id))`,
    `CREATE TABLE IF NOT EXISTS printer (
      id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, warehouse_id INT UNSIGNED NOT NULL, name VARCHAR(60) NOT NULL,
      uri VARCHAR(300) NOT NULL, tray_url VARCHAR(300) NULL, media VARCHAR(40) NOT NULL, UNIQUE (warehouse_id, media))`,
    `CREATE TABLE IF NOT EXISTS print_job (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, document_id BIGINT UNSIGNED NOT NULL, printer_id INT UNSIGNED NOT NULL,
      name CHAR(36) NOT NULL UNIQUE, state ENUM('waiting','printed') NOT NULL DEFAULT 'waiting', tries INT UNSIGNED NOT NULL DEFAULT 0,
      trouble VARCHAR(300) NULL, created_at DATETIME(3) NOT NULL, printed_at DATETIME(3) NULL, INDEX (state),
      FOREIGN KEY (document_id) REFERENCES document (id), FOREIGN KEY (printer_id) REFERENCES printer (id))`,
  ],
}
