import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"

/** What a run was put together by, in words: `zone:COLD` is zone COLD. */
export function runLabel(label: string): string {
  const [by = "all", ...value] = label.split(":")
  return wordFor("runs.label", by, { value: value.join(":") || say("runs.no-zone") })
}
