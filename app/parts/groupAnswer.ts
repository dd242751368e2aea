import type { GroupResult } from "server/decisions/group.ts"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"

/** What became of a change of many, in words; refused as soon as one order was. */
export function toldGroup(key: "group.done" | "group.undone" | "advice.moved", result: GroupResult) {
  const named = result.refused
    .slice(0, 4)
    .map((one) => `${one.orderNumber}: ${one.reasons.map((why) => sayReason(why)).join("; ")}`)
  if (result.refused.length > 4) named.push(say("group.more", { n: result.refused.length - 4 }))
  const words = [
    say(key, { n: result.changed }),
    result.same > 0 ? say("group.same", { n: result.same }) : "",
    named.length > 0 ? say("group.refused", { n: result.refused.length, list: named.join(" ") }) : "",
  ]
  return {
    answer: {
      key: crypto.randomUUID(),
      refused: result.refused.length > 0,
      words: words.filter(Boolean).join(" "),
    },
  }
}
