import type { ClaimSummary } from "server/claims/list.ts"
import { say } from "words/index.ts"

/** What a claim is called. */
export const claimName = (number: number): string => `CL-${number}`

/** What is due next of a claim, in words. */
export function nextWords(next: NonNullable<ClaimSummary["next"]>, day: (text: string) => string): string {
  if (next.what === "file") return say(next.over ? "claim.file-by-over" : "claim.file-by", { day: day(next.day) })
  return say(next.what === "acknowledge" ? "claim.acknowledge-by" : "claim.answer-by", { day: day(next.day) })
}
