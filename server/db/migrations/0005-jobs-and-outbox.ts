import type { Migration } from "../migrate.ts"

/** The queue that worker processes take from, what must be told to the outside, and counters of the sign-in limit. */
export const jobsAndOutbox: Migration = {
  name: "0005-jobs-and-outbox",
  statements: [
    `CREATE TABLE IF NOT EXISTS job (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, kind VARCHAR(40) NOT NULL, once_key VARCHAR(120) NOT NULL UNIQUE,
      payload JSON NOT NULL, state ENUM('waiting','done','dead') NOT NULL DEFAULT 'waiting', tries INT UNSIGNED NOT NULL DEFAULT 0,
      run_at DATETIME(3) NOT NULL, leased_until DATETIME(3) NULL, lease CHAR(36) NULL, trouble VARCHAR(500) NULL,
      created_at DATETIME(3) NOT NULL, done_at DATETIME(3) NULL, INDEX next_one (state, run_at))`,
    `CREATE TABLE IF NOT EXISTS outbox (
      id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, message_id CHAR(36) NOT NULL UNIQUE, topic VARCHAR(40) NOT NULL,
      source_id INT UNSIGNED NOT NULL, order_id INT UNSIGNED NOT NULL, payload JSON NOT NULL, created_at DATETIME(3) NOT NULL,
      sent_at DATETIME(3) NULL, INDEX (sent_at), INDEX (order_id))`,
    // the columns that the package rate-limiter-flexible works on
    `CREATE TABLE IF NOT EXISTS rate_limit (
      \`key\` VARCHAR(255) NOT NULL PRIMARY KEY, points INT NOT NULL DEFAULT 0, expire BIGINT UNSIGNED NULL)`,
  ],
}
