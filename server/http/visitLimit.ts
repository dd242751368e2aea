import type { NextFunction, Request, Response } from "express"
import type { Knex } from "knex"
import { RateLimiterMySQL, type RateLimiterRes } from "rate-limiter-flexible"
import { sayIn } from "words/index.ts"
import { siteOf } from "./signInLimit.ts"

/** Visits of a site within a minute to pages that need no sign-in: a receiver looks a few times, a guesser thousands. */
const visits = { points: 120, duration: 60 } as const

/**
 * Counts visits to pages that are reached by an unguessable link, by where they come from, before anything is looked up;
 * keeps those pages out of search engines, and their addresses out of other sites' logs.
 */
export function visitLimit(db: Knex) {
  const limiter = new RateLimiterMySQL({
    storeClient: db,
    storeType: "knex",
    dbName: db.client.connectionSettings.database as string,
    tableName: "rate_limit",
    tableCreated: true,
    keyPrefix: "visit",
    ...visits,
  })
  return (request: Request, response: Response, next: NextFunction): void => {
    response.setHeader("x-robots-tag", "noindex, nofollow")
    response.setHeader("referrer-policy", "no-referrer")
    limiter.consume(siteOf(request.ip ?? "")).then(
      () => next(),
      (refusal: RateLimiterRes | Error) => {
        if (refusal instanceof Error) return next(refusal)
        const seconds = Math.ceil(refusal.msBeforeNext / 1000)
        response.setHeader("retry-after", String(seconds))
        response.status(429).type("text/plain").send(sayIn("en")("follow.too-many", { seconds }))
      },
    )
  }
}
