import {
  badInput,
  type OtherSuggestion,
  otherStandings,
  otherSuggestions,
  type PackBox,
  type PackLoad,
  packInto,
  type Standing,
  Suggesting,
  type SuggestionInput,
} from "core/packing/index.ts"
import { accepted, refused } from "core/refusal/index.ts"

/** What the screen asks: a suggestion for goods, or how the contents of one carton can lie in it. */
export type PackingAsked =
  | { readonly id: number; readonly ask: "suggest"; readonly input: SuggestionInput }
  | { readonly id: number; readonly ask: "into"; readonly box: PackBox; readonly loads: readonly PackLoad[] }

/** An answer; more are to come as long as it is not done. */
export interface PackingAnswer<T> {
  readonly id: number
  readonly answer: T
  /** The same goods packed for other aims; once the answer itself is done. */
  readonly others?: readonly OtherSuggestion[]
  /** The same goods on pallets, or some of them; with these. */
  readonly standings?: readonly Standing[]
  readonly done: boolean
}

const post = (
  id: number,
  answer: unknown,
  done: boolean,
  beside: Pick<PackingAnswer<unknown>, "others" | "standings"> = {},
) => self.postMessage({ id, answer, done, ...beside } satisfies PackingAnswer<unknown>)

/** The first answer at once, then each better one; the thread is stopped when nobody wants it any more. */
function suggest(id: number, input: SuggestionInput): void {
  const bad = badInput(input)
  if (bad.length > 0) return post(id, refused(...bad), true)
  const suggesting = new Suggesting(input)
  post(id, accepted(suggesting.answer), false)
  const further = () => {
    if (suggesting.more()) post(id, accepted(suggesting.answer), false)
    if (!suggesting.done) return void setTimeout(further)
    const { answer } = suggesting
    const others = otherSuggestions(input, answer)
    const standings = otherStandings(input, [answer, ...others.map((one) => one.suggestion)])
    post(id, accepted(answer), true, { others, standings })
  }
  setTimeout(further)
}

self.addEventListener("message", ({ data }: MessageEvent<PackingAsked>) => {
  if (data.ask === "suggest") suggest(data.id, data.input)
  else post(data.id, packInto(data.box, data.loads) ?? "none", true)
})
