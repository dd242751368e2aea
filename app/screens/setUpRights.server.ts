import { type Actor, may } from "server/accounts/index.ts"
import type { SetUpRights } from "./SetUp.tsx"

export const setUpRights = (actor: Actor): SetUpRights => ({
  users: may(actor, "users.manage"),
  tokens: may(actor, "tokens.manage"),
  audit: may(actor, "audit.see"),
})
