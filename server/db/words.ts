import type { Knex } from "knex"

/** For `orWhereRaw`: an identifier looked for by a part of it, as people type it; identifiers themselves compare by bytes. */
export const likeInAnyCase = (db: Knex, column: string, like: string): Knex.Raw =>
  db.raw("?? COLLATE utf8mb4_unicode_520_ci LIKE ?", [column, like])
