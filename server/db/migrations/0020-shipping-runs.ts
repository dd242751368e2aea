import type { Migration } from "../migrate.ts"

/**
 * A rating run becomes a shipping run: packed where nobody has, rated, bought and printed in one go. Every statement may
 * be run again.
 */
export const shippingRuns: Migration = {
  name: "0020-shipping-runs",
  statements: [
    "RENAME TABLE IF EXISTS rating_run TO shipping_run",
    "RENAME TABLE IF EXISTS rating_run_order TO shipping_run_order",
    // runs of before are rated, and can be bought
    "ALTER TABLE shipping_run MODIFY state VARCHAR(12) NOT NULL DEFAULT 'open'",
    "UPDATE shipping_run SET state = 'open' WHERE state IN ('rating', 'done')",
    `ALTER TABLE shipping_run MODIFY state ENUM('open','buying','paused') NOT NULL DEFAULT 'open',
      ADD COLUMN IF NOT EXISTS name VARCHAR(60) NOT NULL DEFAULT '',
      ADD COLUMN IF NOT EXISTS origin VARCHAR(80) NOT NULL DEFAULT 'orders',
      ADD COLUMN IF NOT EXISTS prints ENUM('after','each','later') NOT NULL DEFAULT 'after',
      ADD COLUMN IF NOT EXISTS print_order ENUM('packing','doors') NOT NULL DEFAULT 'packing',
      ADD COLUMN IF NOT EXISTS parts INT UNSIGNED NOT NULL DEFAULT 0,
      ADD COLUMN IF NOT EXISTS bought_by_id INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS bought_by VARCHAR(60) NULL,
      ADD COLUMN IF NOT EXISTS bought_at DATETIME(3) NULL,
      ADD COLUMN IF NOT EXISTS ended_at DATETIME(3) NULL,
      ADD COLUMN IF NOT EXISTS seen_at DATETIME(3) NULL,
      ADD COLUMN IF NOT EXISTS put_away_at DATETIME(3) NULL,
      DROP COLUMN IF EXISTS done_at`,
    // no order is asked for in an old run again: what was chosen stands
    `ALTER TABLE shipping_run_order
      MODIFY state ENUM('waiting','rated','refused','failed','asked','buying','bought') NOT NULL DEFAULT 'waiting',
      ADD COLUMN IF NOT EXISTS position SMALLINT UNSIGNED NOT NULL DEFAULT 0,
      ADD COLUMN IF NOT EXISTS pack BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN IF NOT EXISTS rated_version INT UNSIGNED NULL,
      ADD COLUMN IF NOT EXISTS rated_at DATETIME(3) NULL,
      ADD COLUMN IF NOT EXISTS intent_id INT UNSIGNED NULL,
      DROP COLUMN IF EXISTS chosen_by, DROP COLUMN IF EXISTS version,
      ADD INDEX IF NOT EXISTS by_state (state, run_id),
      ADD INDEX IF NOT EXISTS by_intent (intent_id)`,
    "ALTER TABLE buy_intent ADD COLUMN IF NOT EXISTS prints BOOLEAN NOT NULL DEFAULT TRUE",
    `ALTER TABLE sales_order ADD COLUMN IF NOT EXISTS by_hand JSON NULL,
      ADD COLUMN IF NOT EXISTS message VARCHAR(300) NOT NULL DEFAULT ''`,
    `ALTER TABLE warehouse ADD COLUMN IF NOT EXISTS pack_in_runs BOOLEAN NOT NULL DEFAULT TRUE,
      ADD COLUMN IF NOT EXISTS weigh_all BOOLEAN NOT NULL DEFAULT FALSE`,
  ],
}
