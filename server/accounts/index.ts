import { createHash, randomBytes } from "node:crypto"
import { hash, verify } from "@node-rs/argon2"
import type { Knex } from "knex"

export const roles = ["clerk", "lead", "sales", "administrator"] as const
export type Role = (typeof roles)[number]

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

const bench = ["clerk", "lead", "administrator"] as const
const rights = {
  /** Floor, bench, dock and papers, with what shipments cost. */
  "bench.see": bench,
  "orders.see": roles,
  "orders.work": bench,
  "orders.hold": bench,
  "orders.release-hold": ["lead", "administrator"],
  /** Let a credit stop or a screening hit pass. */
  "orders.release-stop": ["lead", "administrator"],
  "orders.cancel": ["lead", "administrator"],
  /** Do with short pieces what the customer's instruction does not allow; pack what a check refuses, with a reason. */
  "orders.override": ["lead", "administrator"],
  /** Receive goods and move them between bins. */
  "stock.move": bench,
  /** Change what is known to lie in a bin, block bins, release lots. */
  "stock.adjust": ["lead", "administrator"],
  "screening.manage": ["administrator"],
  "sources.manage": ["administrator"],
  "customers.manage": ["lead", "administrator"],
  /** Rules, shipping patterns, and customers' routing instructions. */
  "rules.manage": ["administrator"],
  /** Carriers with their accounts and tariffs. */
  "tariffs.manage": ["administrator"],
  /** Rules of what customers are charged for freight. */
  "charging.manage": ["administrator"],
  /** Set by hand what a customer is charged, with a reason. */
  "charging.override": ["lead", "administrator"],
  /** Make quotes; what they cost us is seen by those who see the bench. */
  "quotes.make": roles,
  /** Complete an item's weight, class and customs facts. */
  "goods.complete": bench,
  "shipping.buy": bench,
  "shipping.void": bench,
  "dock.work": bench,
  /** Say how many people are at work today. */
  "hands.set": bench,
  "warehouse.manage": ["administrator"],
  "users.manage": ["administrator"],
  "tokens.manage": ["administrator"],
  "audit.see": ["lead", "administrator"],
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
    .first("user.id", "user.name", "user.role", "user.warehouse_id", "session.warehouse_id as chosen")
  if (!row) return null
  const mayBeAt = await db("user_warehouse").where({ user_id: row.id }).orderBy("warehouse_id").select("warehouse_id")
  const ids = mayBeAt.map((one) => one.warehouse_id as number)
  const warehouseId = [row.chosen, row.warehouse_id, ids[0]].find((id) => ids.includes(id))
  return warehouseId ? { userId: row.id, name: row.name, role: row.role, warehouseId } : null
}

/** Goes on in another warehouse, for this session only. Throws NotAllowed where the user may not be. */
export async function switchWarehouse(db: Knex, token: string, actor: Actor, warehouseId: number): Promise<void> {
  const may = await db("user_warehouse").where({ user_id: actor.userId, warehouse_id: warehouseId }).first("user_id")
  if (!may) throw new NotAllowed("warehouse")
  await db("session")
    .where({ token_hash: tokenHash(token) })
    .update({ warehouse_id: warehouseId })
}

/** What is kept of a token: never the token itself. */
export const tokenHash = (token: string) => createHash("sha256").update(token).digest("hex")
