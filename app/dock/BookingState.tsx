import type { Reason } from "core/refusal/index.ts"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import type { BookingBrief } from "./bookView.server.ts"

/** How a booking stands. */
export function BookingState({ one }: { one: Pick<BookingBrief, "state" | "changing" | "trouble"> }) {
  return (
    <span className={one.state === "refused" || one.trouble ? "ember" : undefined}>
      {say(one.changing ? "collect.change-asked" : `collect.state.${one.state}`)}
      {one.trouble ? `. ${sayReason(one.trouble as Reason)}` : ""}
    </span>
  )
}
