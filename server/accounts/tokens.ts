import { randomBytes } from "node:crypto"
import type { SourceId, TokenId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { type Actor, authorise, type Context, tokenHash } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId, there } from "../db/there.ts"

/** What a token may do at `/api/v1`. */
export const tokenRights = ["orders.write", "orders.read", "quotes.write"] as const
export type TokenRight = (typeof tokenRights)[number]

export interface TokenRow {
  readonly id: number
  readonly name: string
  readonly rights: readonly TokenRight[]
  readonly warehouse: string
  readonly createdBy: string
  readonly expiresAt: Date
  readonly revokedAt: Date | null
  readonly usedAt: Date | null
}

export async function tokens(context: Context): Promise<TokenRow[]> {
  const { db, actor } = context
  authorise(actor, "tokens.manage")
  const rows = await db("api_token as t")
    .join("warehouse as w", "w.id", "t.warehouse_id")
    .orderBy("t.id", "desc")
    .select("t.*", "w.name as warehouse")
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    rights: parsed<TokenRight[]>(row.rights),
    warehouse: row.warehouse,
    createdBy: row.created_by,
    expiresAt: row.expires_at,
    revokedAt: row.revoked_at,
    usedAt: row.used_at,
  }))
}

export const newTokenForm = z.object({
  name: z.string().trim().min(1, { error: "token.no-name" }).max(60),
  rights: z
    .union([z.string(), z.array(z.string())])
    .transform((value) => [value].flat())
    .pipe(z.array(z.enum(tokenRights)).min(1, { error: "token.no-right" })),
  warehouse: z.coerce.number().int().positive(),
  /** The token that this one takes over from, with its orders; 0 for none. */
  follows: z.coerce.number().int().min(0).optional(),
  days: z.coerce.number().int().min(1, { error: "token.days" }).max(730, { error: "token.days" }),
})

/**
 * Makes a token; its text is answered this once and only its hash is kept. Each token is a source of its own, so that
 * nobody's numbers are taken for another's; a token that follows an earlier one of the same warehouse goes on with its
 * source, and its orders are found under the same numbers.
 */
export async function addToken(
  context: Context,
  form: z.infer<typeof newTokenForm>,
): Promise<Outcome<{ id: number; token: string }>> {
  const { db, actor, now } = context
  authorise(actor, "tokens.manage")
  return inTransaction(db, async (trx) => {
    if (!(await trx("warehouse").where({ id: form.warehouse }).first("id")))
      return refused(reason("token.no-warehouse"))
    const before = form.follows
      ? await trx("api_token").where({ id: form.follows, warehouse_id: form.warehouse }).first("source_id")
      : null
    if (form.follows && !before) return refused(reason("token.no-earlier"))
    const token = `vk_${randomBytes(32).toString("base64url")}`
    const id = newId(
      await trx("api_token").insert({
        name: form.name,
        token_hash: tokenHash(token),
        rights: JSON.stringify(form.rights),
        warehouse_id: form.warehouse,
        source_id: before?.source_id ?? (await newSource(trx, form.name)),
        created_at: new Date(),
        created_by: actor.name,
        expires_at: new Date(Date.now() + form.days * 86_400_000),
      }),
    )
    await record(trx, actor, now, {
      action: "token.added",
      detail: { name: form.name, rights: form.rights.join(", "), days: form.days },
    })
    return accepted({ id, token })
  })
}

/** Ends a token at once. Safe to repeat. */
export async function revokeToken(context: Context, id: number): Promise<void> {
  const { db, actor, now } = context
  authorise(actor, "tokens.manage")
  await inTransaction(db, async (trx) => {
    const changed = await trx("api_token").where({ id }).whereNull("revoked_at").update({ revoked_at: new Date() })
    if (changed === 0) return
    const { name } = there(await trx("api_token").where({ id }).first("name"))
    await record(trx, actor, now, { action: "token.revoked", detail: { name } })
  })
}

/** A source of a token's own. Its code is not a word that people choose: theirs have no dot. */
async function newSource(trx: Knex, name: string): Promise<number> {
  return newId(await trx("order_source").insert({ code: `api.${randomBytes(9).toString("hex")}`, name, kind: "api" }))
}

export interface Caller {
  readonly tokenId: TokenId
  readonly actor: Actor
  readonly sourceId: SourceId
  readonly rights: readonly TokenRight[]
}

/** Who calls with a token, or null when it is unknown, revoked or past its day. */
export async function callerOf(db: Knex, token: string): Promise<Caller | null> {
  const row = await db("api_token")
    .where({ token_hash: tokenHash(token) })
    .whereNull("revoked_at")
    .where("expires_at", ">", new Date())
    .first()
  if (!row) return null
  await noteUsed(db, row.id)
  return {
    tokenId: row.id,
    // a program acts as a clerk who may do only what its rights name; the rights are checked before any use case
    actor: { userId: null, name: `API: ${row.name}`.slice(0, 60), role: "clerk", warehouseId: row.warehouse_id },
    sourceId: row.source_id,
    rights: parsed<TokenRight[]>(row.rights),
  }
}

/** Notes that a token is used, at most once a minute: another system sends many orders in one. */
const noteUsed = (db: Knex, id: TokenId): Promise<void> =>
  inTransaction(db, async (trx) => {
    const now = new Date()
    await trx("api_token")
      .where({ id })
      .where((due) => due.whereNull("used_at").orWhere("used_at", "<", new Date(now.getTime() - 60_000)))
      .update({ used_at: now })
  })
