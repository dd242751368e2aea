import { reason } from "core/refusal/index.ts"
import { translation } from "words/catalogue.ts"
import { say } from "words/index.ts"

/**
 * Never run: the type checker reads it, and `@ts-expect-error` is itself an error where the line below it is right. So
 * the check fails when a wrong key, or a placeholder too many or too few, would compile.
 */
export function wrongWords() {
  // @ts-expect-error an unknown key
  say("day.no-such-words")
  // @ts-expect-error a figure is missing
  say("day.packed", { labelled: 3 })
  // @ts-expect-error a figure too many
  say("day.packed", { labelled: 3, togo: 4, gone: 5 })
  // @ts-expect-error what is counted is a number
  say("day.hands-set", { n: "three" })
  // @ts-expect-error words that need nothing
  say("day.title", { n: 1 })
  // @ts-expect-error a reason without words
  reason("stop.no-such-reason")
  // @ts-expect-error a reason without what its words name
  reason("stop.size-missing")
  translation({
    // @ts-expect-error a placeholder that English does not have
    "day.packed": "{labelled} etikettiert, {offen} offen",
    // @ts-expect-error a key that English does not have
    "day.no-such-words": "nichts",
  })
}
