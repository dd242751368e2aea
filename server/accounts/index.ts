import { createHash, randomBytes } from "node:crypto"
import { hash, verify } from "@node-rs/argon2"
import type { Knex } from "knex"

export type Role = "clerk" | "lead"

/** Who acts. `userId` is null for the program itself (worker, demo loader). */
export interface Actor {
  readonly userId: number | null
  readonly name: string
  readonly role: Role
  readonly warehouseId: number
}

/** What every use case is given. `now` is the business clock's. */
export interface Context {
  readonly db: Knex
  readonly actor: Actor
  readonly now: Date
}

/** A use case asked for by somebody who may not. The server answers 403. */
export class NotAllowed extends Error {
  constructor(readonly right: string) {
    super(`not allowed: ${right}`)
  }
}

const rights = {
  "orders.work": ["clerk", "lead"],
  "orders.hold": ["clerk", "lead"],
  "orders.release-hold": ["lead"],
  "shipping.buy": ["clerk", "lead"],
  "dock.work": ["clerk", "lead"],
} as const satisfies Record<string, readonly Role[]>

export type Right = keyof typeof rights

export const may = (actor: Actor, right: Right): boolean => (rights[right] as readonly Role[]).includes(actor.role)

/** Every use case that changes something begins with this. */
export function require(actor: Actor, right: Right): void {
  if (!may(actor, right)) throw new NotAllowed(right)
}

export const hashPassword = (password: string): Promise<string> => hash(password)

/** A hash to compare with when there is no such user, so that the answer takes as long. */
let decoy: Promise<string> | undefined

export interface SignedIn {
  readonly token: string
  readonly userId: number
}

const sessionDays = 1

/** A new session for a user and password, or null when they do not belong together. */
export async function signIn(db: Knex, username: string, password: string): Promise<SignedIn | null> {
  const user = await db("user").where({ username, active: true }).first("id", "password_hash")
  decoy ??= hashPassword(randomBytes(16).toString("hex"))
  const right = await verify(user?.password_hash ?? (await decoy), password)
  if (!user || !right) return null
  const token = randomBytes(32).toString("base64url")
  const now = new Date()
  await db("session").insert({
    token_hash: tokenHash(token),
    user_id: user.id,
    created_at: now,
    seen_at: now,
    expires_at: new Date(now.getTime() + sessionDays * 86_400_000),
  })
  return { token, userId: user.id }
}

export async function signOut(db: Knex, token: string): Promise<void> {
  await db("session")
    .where({ token_hash: tokenHash(token) })
    .delete()
}

/** The actor of a session token, or null when it is unknown, expired, or its user no longer works here. */
export async function actorOf(db: Knex, token: string): Promise<Actor | null> {
  const row = await db("session")
    .join("user", "user.id", "session.user_id")
    .where({ token_hash: tokenHash(token), "user.active": true })
    .where("session.expires_at", ">", new Date())
    .first("user.id", "user.name", "user.role", "user.warehouse_id")
  return row ? { userId: row.id, name: row.name, role: row.role, warehouseId: row.warehouse_id } : null
}

const tokenHash = (token: string) => createHash("sha256").update(token).digest("hex")
