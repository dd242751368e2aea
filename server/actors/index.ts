import { createHash } from "node:crypto"
import type { UserId, WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"

export const roles = ["clerk", "lead", "sales", "administrator"] as const
export type Role = (typeof roles)[number]

/** Who acts. `userId` is null for the program itself (worker, demo loader). */
export interface Actor {
  readonly userId: UserId | null
  readonly name: string
  readonly role: Role
  readonly warehouseId: WarehouseId
}

/** What every use case is given. `now` is the business clock's. */
export interface Context {
  readonly db: Knex
  readonly actor: Actor
  readonly now: Date
  /** The bench that the person works at, as his browser remembers it: what is printed there. */
  readonly benchId?: number | null
  /**
   * What had changed in the warehouse when the request came (`server/live/kept.ts`): only of a request that changes
   * nothing, so that it is asked once for all that the page shows.
   */
  readonly changes?: string
}

/** A use case asked for by somebody who may not. The server answers 403. */
export class NotAllowed extends Error {
  constructor(readonly right: string) {
    super(`not allowed: ${right}`)
  }
}

export const floorRoles = ["clerk", "lead", "administrator"] as const
const rights = {
  /** Floor, bench, dock and papers, with what shipments cost. */
  "packing.see": floorRoles,
  "orders.see": roles,
  "orders.work": floorRoles,
  "orders.hold": floorRoles,
  "orders.release-hold": ["lead", "administrator"],
  /** Let a credit stop or a screening hit pass. */
  "orders.release-stop": ["lead", "administrator"],
  "orders.cancel": ["lead", "administrator"],
  /** Do with short pieces what the customer's instruction does not allow; pack what a check refuses, with a reason. */
  "orders.override": ["lead", "administrator"],
  /** Receive goods and move them between bins. */
  "stock.move": floorRoles,
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
  "goods.complete": floorRoles,
  "shipping.buy": floorRoles,
  "shipping.void": floorRoles,
  "dock.work": floorRoles,
  /** Reopen a closed door, discard a form, settle with a carrier what he refused. */
  "dock.reopen": ["lead", "administrator"],
  /** Say how many people are at work today. */
  "hands.set": floorRoles,
  "warehouse.manage": ["administrator"],
  /** Printers, benches, and which prints what. */
  "printers.manage": ["lead", "administrator"],
  "users.manage": ["administrator"],
  "tokens.manage": ["administrator"],
  "audit.see": ["lead", "administrator"],
} as const satisfies Record<string, readonly Role[]>

export type Right = keyof typeof rights

export const may = (actor: Actor, right: Right): boolean => (rights[right] as readonly Role[]).includes(actor.role)

/** Every use case that changes something begins with this. */
export function authorise(actor: Actor, right: Right): void {
  if (!may(actor, right)) throw new NotAllowed(right)
}

/** What is kept of a token: never the token itself. */
export const tokenHash = (token: string) => createHash("sha256").update(token).digest("hex")
