declare module "knex/lib/dialects/mysql2/index.js" {
  import { Knex } from "knex"
  /** Knex's client of the dialect; what is used of it. */
  export default class MySql2 extends Knex.Client {
    config: Knex.Config & { readonly queryMs?: number }
    _query(connection: unknown, asked: unknown): Promise<unknown>
  }
}
