import type { Knex } from "knex"
import { RateLimiterMySQL, type RateLimiterRes } from "rate-limiter-flexible"

/** Tries within the time for one user name from one address, and for one address alone. */
const perUser = { points: 8, duration: 300 }
const perAddress = { points: 60, duration: 300 }

let limiters: { user: RateLimiterMySQL; address: RateLimiterMySQL } | undefined

function make(db: Knex) {
  const shared = {
    storeClient: db,
    storeType: "knex",
    dbName: db.client.connectionSettings.database as string,
    tableName: "rate_limit",
    tableCreated: true,
  }
  return {
    user: new RateLimiterMySQL({ ...shared, keyPrefix: "user", ...perUser }),
    address: new RateLimiterMySQL({ ...shared, keyPrefix: "address", ...perAddress }),
  }
}

/** Counts a try to sign in; answers the seconds to wait when there were too many, else null. */
export async function countSignIn(db: Knex, username: string, address: string): Promise<number | null> {
  limiters ??= make(db)
  try {
    await limiters.user.consume(`${address} ${username.toLowerCase().slice(0, 40)}`)
    await limiters.address.consume(address)
    return null
  } catch (error) {
    const wait = (error as RateLimiterRes).msBeforeNext
    if (wait === undefined) throw error
    return Math.ceil(wait / 1000)
  }
}

/** Forgets the tries of a user who has signed in. */
export async function forgetSignIns(db: Knex, username: string, address: string): Promise<void> {
  limiters ??= make(db)
  await limiters.user.delete(`${address} ${username.toLowerCase().slice(0, 40)}`)
}
