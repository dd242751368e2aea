import { workContext } from "server/http/context.ts"
import { changeChoices, lastOf, whatsFor } from "../parts/group.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/change-fields"

/** What can be changed of one order by its word, with what can be chosen; and the last change, which can be undone. */
export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  const choices = await changeChoices(work)
  return {
    choices,
    whats: whatsFor(work, choices, ["remove", "ship"]),
    last: await lastOf(work),
    key: crypto.randomUUID(),
  }
}
