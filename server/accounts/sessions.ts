import { randomBytes } from "node:crypto"
import type { UserId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { asClock, asLanguage, clocks, languages, type Reader } from "words/language.ts"
import { z } from "zod"
import { type Actor, authorise, type Context, NotAllowed, tokenHash } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { hashPassword, passwordFits, weakness } from "./passwords.ts"

/** How long a session lasts: without a sign of its person, and at most. */
export interface SessionTimes {
  readonly idleMinutes: number
  readonly longestHours: number
}

export async function sessionTimes(db: Knex): Promise<SessionTimes> {
  const row = there(await db("sign_in_setting").where({ id: 1 }).first("idle_minutes", "longest_hours"))
  return { idleMinutes: row.idle_minutes, longestHours: row.longest_hours }
}

export const sessionTimesForm = z.object({
  idleMinutes: z.coerce.number().int().min(5, { error: "session.idle" }).max(1_440, { error: "session.idle" }),
  longestHours: z.coerce.number().int().min(1, { error: "session.longest" }).max(168, { error: "session.longest" }),
})

/** Sets how long sessions last, also those that are open. */
export async function setSessionTimes(context: Context, times: z.infer<typeof sessionTimesForm>): Promise<void> {
  const { db, actor, now } = context
  authorise(actor, "users.manage")
  await inTransaction(db, async (trx) => {
    const before = await sessionTimes(trx)
    if (before.idleMinutes === times.idleMinutes && before.longestHours === times.longestHours) return
    await trx("sign_in_setting")
      .where({ id: 1 })
      .update({ idle_minutes: times.idleMinutes, longest_hours: times.longestHours })
    await record(trx, actor, now, {
      action: "session.times",
      detail: {
        changes: [
          { field: "idle", from: before.idleMinutes, to: times.idleMinutes },
          { field: "longest", from: before.longestHours, to: times.longestHours },
        ].filter((one) => one.from !== one.to),
      },
    })
  })
}

/** A hash to compare with when there is no such user, so that the answer takes as long. */
let decoy: Promise<string> | undefined

export interface SignedIn {
  readonly token: string
  /** What the browser is known by from now on. */
  readonly device: string
  readonly userId: UserId
  /** Seconds for which the session can last. */
  readonly seconds: number
}

/**
 * A new session for a user and password, or null when they do not belong together.
 *
 * @param device what the browser was known by already, if it was
 */
export async function signIn(
  db: Knex,
  username: string,
  password: string,
  device: string | null = null,
): Promise<SignedIn | null> {
  const user = await db("user").where({ username, active: true }).first("id", "password_hash")
  decoy ??= hashPassword(randomBytes(16).toString("hex"))
  const right = await passwordFits(user?.password_hash ?? (await decoy), password)
  if (!user || !right) return null
  const { longestHours } = await sessionTimes(db)
  const token = randomBytes(32).toString("base64url")
  const known = device ?? randomBytes(32).toString("base64url")
  const now = new Date()
  await db("session").insert({
    token_hash: tokenHash(token),
    user_id: user.id,
    created_at: now,
    seen_at: now,
    expires_at: new Date(now.getTime() + longestHours * 3_600_000),
  })
  await db("known_device")
    .insert({ token_hash: tokenHash(known), user_id: user.id, seen_at: now })
    .onConflict()
    .merge(["seen_at"])
  return { token, device: known, userId: user.id, seconds: longestHours * 3_600 }
}

export async function signOut(db: Knex, token: string): Promise<void> {
  await db("session")
    .where({ token_hash: tokenHash(token) })
    .delete()
}

/** Whether this user has signed in with this browser before. */
export async function knowsDevice(db: Knex, username: string, device: string): Promise<boolean> {
  const row = await db("known_device as d")
    .join("user as u", "u.id", "d.user_id")
    .where({ "d.token_hash": tokenHash(device), "u.username": username })
    .first("d.user_id")
  return row !== undefined
}

/** A session that has not run out, neither by its longest time nor by nobody having been there. */
const lasting = (db: Knex, token: string) =>
  db("session")
    .join("user", "user.id", "session.user_id")
    .join("sign_in_setting as t", (on) => on.onVal("t.id", 1))
    .where({ token_hash: tokenHash(token), "user.active": true })
    .where("session.expires_at", ">", new Date())
    .whereRaw("session.created_at > ? - INTERVAL t.longest_hours HOUR", [new Date()])
    .whereRaw("session.seen_at > ? - INTERVAL t.idle_minutes MINUTE", [new Date()])

/** Somebody who signed in, and how things are told to them. */
export interface PresentActor extends Actor {
  readonly reader: Reader
  /** Warehouses where this person may work. */
  readonly places: readonly WarehouseId[]
  readonly seenAt: Date
}

/** The actor of a session token, or null when it is unknown, has run out, or its user no longer works here. */
export async function actorOf(db: Knex, token: string): Promise<PresentActor | null> {
  const row = await lasting(db, token).first(
    "user.id",
    "user.name",
    "user.role",
    "user.warehouse_id",
    "user.language",
    "user.clock",
    "session.warehouse_id as chosen",
    "session.seen_at",
    // every request asks this: one statement for all of it
    db.raw(
      "(SELECT GROUP_CONCAT(p.warehouse_id ORDER BY p.warehouse_id) FROM user_warehouse p WHERE p.user_id = user.id) AS places",
    ),
  )
  if (!row) return null
  const places: WarehouseId[] = row.places ? String(row.places).split(",").map(Number) : []
  const warehouseId = [row.chosen, row.warehouse_id, places[0]].find((id) => places.includes(id))
  if (!warehouseId) return null
  const reader = { language: asLanguage(row.language), clock: asClock(row.clock) }
  return { userId: row.id, name: row.name, role: row.role, warehouseId, reader, places, seenAt: row.seen_at }
}

/** Whether a session still lasts; asked by what goes on beside the pages, such as a stream. */
export const sessionLasts = async (db: Knex, token: string): Promise<boolean> =>
  (await lasting(db, token).first("user.id")) !== undefined

/** Whether it is to be noted again that somebody is there. */
export const seenLongAgo = ({ seenAt }: PresentActor): boolean => Date.now() - seenAt.getTime() > 60_000

/** Somebody is there: the session's idle time begins again. Written at most once a minute. */
export async function noteSeen(db: Knex, token: string): Promise<void> {
  const now = new Date()
  await db("session")
    .where({ token_hash: tokenHash(token) })
    .where("seen_at", "<", new Date(now.getTime() - 60_000))
    .update({ seen_at: now })
}

/** Goes on in another warehouse, for this session only. Throws NotAllowed where the user may not be. */
export async function switchWarehouse(db: Knex, token: string, actor: Actor, warehouseId: WarehouseId): Promise<void> {
  const may = await db("user_warehouse")
    .where("user_id", actor.userId)
    .where({ warehouse_id: warehouseId })
    .first("user_id")
  if (!may) throw new NotAllowed("warehouse")
  await db("session")
    .where({ token_hash: tokenHash(token) })
    .update({ warehouse_id: warehouseId })
}

export const readerForm = z.object({ language: z.enum(languages), clock: z.enum(clocks) })

/** Says in which language, and by which clock, one is told things. */
export async function changeOwnReader({ db, actor }: Context, reader: Reader): Promise<void> {
  await db("user").where("id", actor.userId).update(reader)
}

export const ownPasswordForm = z.object({
  present: z.string().min(1, { error: "sign-in.missing" }).max(400, { error: "sign-in.too-long" }),
  password: z.string().max(800, { error: "sign-in.too-long" }),
  again: z.string().max(800, { error: "sign-in.too-long" }),
})

/**
 * Changes one's own password. Refused when the present one is wrong, when the new one is not written the same twice, or
 * is weak. All other sessions of the user end, and browsers that were known are strangers again; this session goes on.
 */
export async function changeOwnPassword(
  context: Context,
  token: string,
  form: z.infer<typeof ownPasswordForm>,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  const user = await db("user").where("id", actor.userId).first("id", "username", "name", "password_hash")
  if (!user || !(await passwordFits(user.password_hash, form.present))) return refused(reason("password.wrong"))
  if (form.password !== form.again) return refused(reason("password.differs"))
  const weak = weakness(form.password, [user.username, ...String(user.name).split(/\s+/)])
  if (weak) return refused(weak)
  const hash = await hashPassword(form.password)
  await inTransaction(db, async (trx) => {
    await trx("user").where({ id: user.id }).update({ password_hash: hash })
    await trx("session")
      .where({ user_id: user.id })
      .whereNot({ token_hash: tokenHash(token) })
      .delete()
    await trx("known_device").where({ user_id: user.id }).delete()
    await record(trx, actor, now, { action: "user.own-password", detail: { username: user.username } })
  })
  return accepted(null)
}
