import ipaddr from "ipaddr.js"
import type { Knex } from "knex"
import { RateLimiterMySQL, type RateLimiterRes } from "rate-limiter-flexible"
import { knowsDevice } from "../accounts/sessions.ts"
import { tokenHash } from "../actors/index.ts"

/** Who tries to sign in: the account, from where, and what the browser is known by. */
export interface SignInTry {
  readonly username: string
  readonly address: string
  readonly device: string | null
}

/**
 * Tries within a time in seconds. A browser that the account has signed in with before is counted by itself, so that
 * neither somebody at the same site nor many from everywhere can lock out a person at the bench. All others are counted
 * by account and address, by account wherever they come from, and by address whatever the account.
 */
const limits = {
  device: { points: 10, duration: 300 },
  pair: { points: 8, duration: 300 },
  account: { points: 40, duration: 900 },
  address: { points: 100, duration: 300 },
} as const
type Limit = keyof typeof limits

const held = new WeakMap<Knex, Record<Limit, RateLimiterMySQL>>()

function limitersOf(db: Knex): Record<Limit, RateLimiterMySQL> {
  const known = held.get(db)
  if (known) return known
  const shared = {
    storeClient: db,
    storeType: "knex",
    dbName: db.client.connectionSettings.database as string,
    tableName: "rate_limit",
    tableCreated: true,
  }
  const made = Object.fromEntries(
    Object.entries(limits).map(([name, limit]) => [
      name,
      new RateLimiterMySQL({ ...shared, keyPrefix: name, ...limit }),
    ]),
  ) as Record<Limit, RateLimiterMySQL>
  held.set(db, made)
  return made
}

/**
 * Where a try comes from: an IPv4 address, also one that is written as IPv6, or the /64 network of an IPv6 address, which
 * is one site's and has more addresses than could be counted (RFC 6177, RFC 7421).
 */
export function siteOf(address: string): string {
  if (!ipaddr.isValid(address)) return address
  const at = ipaddr.process(address)
  if (at.kind() === "ipv4") return at.toString()
  return `${new ipaddr.IPv6([...(at as ipaddr.IPv6).parts.slice(0, 4), 0, 0, 0, 0])}/64`
}

/** The counters that a try falls under, with their keys. */
async function countersOf(db: Knex, { username, address, device }: SignInTry): Promise<[Limit, string][]> {
  const account = username.toLowerCase().slice(0, 40)
  const site = siteOf(address)
  if (device && (await knowsDevice(db, username, device))) return [["device", `${account} ${tokenHash(device)}`]]
  return [
    ["pair", `${site} ${account}`],
    ["account", account],
    ["address", site],
  ]
}

/** Counts a try to sign in before its password is looked at; answers the seconds to wait when there were too many. */
export async function countSignIn(db: Knex, tried: SignInTry): Promise<number | null> {
  const limiters = limitersOf(db)
  for (const [limit, key] of await countersOf(db, tried))
    try {
      await limiters[limit].consume(key)
    } catch (error) {
      const wait = (error as RateLimiterRes).msBeforeNext
      if (wait === undefined) throw error
      return Math.ceil(wait / 1000)
    }
  return null
}

/** A try that was right does not count: a shift that signs in at eight is no attack. */
export async function forgetSignIns(db: Knex, tried: SignInTry): Promise<void> {
  const limiters = limitersOf(db)
  for (const [limit, key] of await countersOf(db, tried))
    if (limit === "device" || limit === "pair") await limiters[limit].delete(key)
    else await limiters[limit].reward(key)
}
