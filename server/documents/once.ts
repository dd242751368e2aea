import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"

/**
 * Whether a press is the first with its key, in the caller's transaction: asked again with the same one, nothing is
 * printed again. `text`: what was asked for, as it is kept.
 */
export async function firstPress(
  trx: Knex,
  { actor, now }: Pick<Context, "actor" | "now">,
  key: string,
  text: string,
): Promise<boolean> {
  const note = {
    id: key,
    at: now,
    user_id: actor.userId ?? 0,
    place: "print",
    text: text.slice(0, 120),
    outcome: "done",
  }
  const [{ affectedRows }] = await trx.raw("INSERT IGNORE INTO scan SET ?", [note])
  return affectedRows > 0
}
