import type { Migration } from "../migrate.ts"

/** What pages ask for at every request is found by index. Every statement may be run again. */
export const cheapPages: Migration = {
  name: "0019-cheap-pages",
  statements: [
    // which kinds of papers there are is said by their words
    "ALTER TABLE document MODIFY kind VARCHAR(24) NOT NULL",
    "ALTER TABLE change_notice ADD INDEX IF NOT EXISTS of_warehouse (warehouse_id, id)",
    "ALTER TABLE change_notice ADD INDEX IF NOT EXISTS by_time (at)",
    // what the clear-up takes away
    "ALTER TABLE known_device ADD INDEX IF NOT EXISTS by_seen (seen_at)",
    "ALTER TABLE api_request ADD INDEX IF NOT EXISTS by_time (at)",
    // changes of one person, newest first; orders to one country
    "ALTER TABLE audit ADD INDEX IF NOT EXISTS by_actor (actor, id)",
    "ALTER TABLE sales_order ADD INDEX IF NOT EXISTS by_country (warehouse_id, country, id)",
  ],
}
