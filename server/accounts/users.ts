import type { UserId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context, floorRoles, type Role, roles } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId } from "../db/there.ts"
import { hashPassword, weakness } from "./passwords.ts"

export interface UserRow {
  readonly id: number
  readonly username: string
  readonly name: string
  readonly role: Role
  readonly active: boolean
  readonly warehouses: readonly number[]
  readonly lastSeen: Date | null
}

/** Everybody who has an account, by name. */
export async function users(context: Context): Promise<UserRow[]> {
  const { db, actor } = context
  authorise(actor, "users.manage")
  const rows = await db("user as u")
    .leftJoin("session as s", "s.user_id", "u.id")
    .groupBy("u.id", "u.username", "u.name", "u.role", "u.active")
    .orderBy("u.name")
    .select("u.id", "u.username", "u.name", "u.role", "u.active", db.raw("MAX(s.seen_at) AS seen"))
  const places = await db("user_warehouse").orderBy("warehouse_id").select("user_id", "warehouse_id")
  return rows.map((row) => ({
    id: row.id,
    username: row.username,
    name: row.name,
    role: row.role,
    active: !!row.active,
    warehouses: places.filter((one) => one.user_id === row.id).map((one) => one.warehouse_id),
    lastSeen: row.seen,
  }))
}

const ids = z
  .union([z.string(), z.array(z.string())])
  .transform((value) => [value].flat().map(Number))
  .pipe(z.array(z.number().int().positive()).min(1, { error: "user.no-warehouse" }))
// how good it is, is looked at with the account's own words
const password = z.string().max(800, { error: "sign-in.too-long" })

export const newUserForm = z.object({
  username: z
    .string()
    .trim()
    .toLowerCase()
    .regex(/^[a-z][a-z0-9._-]{1,38}$/, { error: "user.username-shape" }),
  name: z.string().trim().min(1, { error: "user.no-name" }).max(60),
  role: z.enum(roles),
  warehouse: ids,
  password,
})

/** Adds an account. Refused when the user name is taken. */
export async function addUser(context: Context, form: z.infer<typeof newUserForm>): Promise<Outcome<{ id: number }>> {
  const { db, actor, now } = context
  authorise(actor, "users.manage")
  const weak = weakness(form.password, [form.username, ...form.name.split(/\s+/)])
  if (weak) return refused(weak)
  const hash = await hashPassword(form.password)
  return inTransaction(db, async (trx) => {
    if (await trx("user").where({ username: form.username }).first("id"))
      return refused(reason("user.username-taken", { username: form.username }))
    const id = newId(
      await trx("user").insert({
        username: form.username,
        name: form.name,
        role: form.role,
        password_hash: hash,
        warehouse_id: form.warehouse[0] as number,
      }),
    )
    await trx("user_warehouse").insert(form.warehouse.map((warehouse_id) => ({ user_id: id, warehouse_id })))
    await record(trx, actor, now, { action: "user.added", detail: { username: form.username, role: form.role } })
    return accepted({ id })
  })
}

export const changeUserForm = z.object({
  id: z.coerce.number().int().positive(),
  role: z.enum(roles),
  active: z.enum(["yes", "no"]),
  warehouse: ids,
  password: z.union([z.literal(""), password]),
})

/**
 * Changes an account's role, places, password, or whether it works; what it was signed in with ends when it no longer
 * works or its password is new. Refused for the last administrator who works, who would lock everybody out.
 */
export async function changeUser(context: Context, form: z.infer<typeof changeUserForm>): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "users.manage")
  const known = await db("user").where({ id: form.id }).first("username", "name")
  if (!known) return refused(reason("user.unknown"))
  const weak = form.password ? weakness(form.password, [known.username, ...String(known.name).split(/\s+/)]) : null
  if (weak) return refused(weak)
  const hash = form.password ? await hashPassword(form.password) : null
  return inTransaction(db, async (trx) => {
    const user = await trx("user").where({ id: form.id }).forUpdate().first("id", "username", "role", "active")
    if (!user) return refused(reason("user.unknown"))
    const active = form.active === "yes"
    if (user.role === "administrator" && user.active && !(active && form.role === "administrator")) {
      const others = await trx("user")
        .where({ role: "administrator", active: true })
        .whereNot({ id: form.id })
        .first("id")
      if (!others) return refused(reason("user.last-administrator"))
    }
    const before = (await trx("user_warehouse").where({ user_id: form.id }).select("warehouse_id")).map(
      (one) => one.warehouse_id,
    )
    await trx("user")
      .where({ id: form.id })
      .update({
        role: form.role,
        active,
        warehouse_id: form.warehouse[0] as number,
        ...(hash ? { password_hash: hash } : {}),
      })
    await trx("user_warehouse").where({ user_id: form.id }).delete()
    await trx("user_warehouse").insert(form.warehouse.map((warehouse_id) => ({ user_id: form.id, warehouse_id })))
    if (!active || hash) {
      await trx("session").where({ user_id: form.id }).delete()
      await trx("known_device").where({ user_id: form.id }).delete()
    }
    const changes = [
      { field: "role", from: user.role, to: form.role },
      { field: "active", from: user.active ? "yes" : "no", to: form.active },
      { field: "warehouses", from: before.sort().join(" "), to: [...form.warehouse].sort().join(" ") },
      { field: "password", from: "", to: hash ? "new" : "" },
    ].filter((one) => one.from !== one.to)
    if (changes.length > 0)
      await record(trx, actor, now, { action: "user.changed", detail: { username: user.username, changes } })
    return accepted(null)
  })
}

/** The names of people by their ids. */
export async function namesOf(db: Knex, ids: readonly number[]): Promise<Map<number, string>> {
  if (ids.length === 0) return new Map()
  const rows = await db("user").whereIn("id", ids).select("id", "name")
  return new Map(rows.map((one) => [one.id, one.name]))
}

/** Somebody's own account. */
export const accountOf = (db: Knex, userId: UserId): Promise<{ username: string; name: string }> =>
  db("user").where({ id: userId }).first("username", "name")

/** Accounts in use of these usernames, in the order in which they were made. */
export const accountsNamed = (
  db: Knex,
  usernames: readonly string[],
): Promise<{ username: string; name: string; role: string }[]> =>
  db("user").whereIn("username", usernames).where({ active: true }).orderBy("id").select("username", "name", "role")

/** Those who may work on the floor of a warehouse, by name. */
export const peopleOnFloor = (db: Knex, warehouseId: WarehouseId): Promise<{ id: number; name: string }[]> =>
  db("user as u")
    .join("user_warehouse as w", "w.user_id", "u.id")
    .where({ "w.warehouse_id": warehouseId, "u.active": true })
    .whereIn("u.role", floorRoles)
    .orderBy("u.name")
    .select("u.id", "u.name")
