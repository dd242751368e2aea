import { type Actor, may } from "server/actors/index.ts"
import type { SetUpRights } from "./SetUp.tsx"

export const setUpRights = (actor: Actor): SetUpRights => ({
  stock: may(actor, "packing.see"),
  sources: may(actor, "sources.manage"),
  customers: may(actor, "customers.manage"),
  screening: may(actor, "screening.manage"),
  rules: may(actor, "rules.manage"),
  tariffs: may(actor, "tariffs.manage"),
  charging: may(actor, "charging.manage"),
  printers: may(actor, "packing.see"),
  defaults: may(actor, "printers.manage"),
  warehouse: may(actor, "warehouse.manage"),
  users: may(actor, "users.manage"),
  tokens: may(actor, "tokens.manage"),
  audit: may(actor, "audit.see"),
})
