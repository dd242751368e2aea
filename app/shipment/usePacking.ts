import type {
  OtherSuggestion,
  PackBox,
  PackLoad,
  PlacedPiece,
  Standing,
  Suggestion,
  SuggestionInput,
} from "core/packing/index.ts"
import type { Outcome } from "core/refusal/index.ts"
import { useEffect, useState } from "react"
import type { PackingAnswer, PackingAsked } from "../workers/packing.worker.ts"

type Asked =
  | { readonly ask: "suggest"; readonly input: SuggestionInput }
  | { readonly ask: "into"; readonly box: PackBox; readonly loads: readonly PackLoad[] }

type Found<T> = Omit<PackingAnswer<T>, "id">

/**
 * Asks the worker of the browser; the best answer so far, or null while there is none. What was asked before and is not
 * wanted any more is stopped with its worker. Without workers nothing is answered, and the screen does without.
 */
function useWorker<T>(asked: Asked | null): Found<T> | null {
  const key = asked ? JSON.stringify(asked) : ""
  const [found, setFound] = useState<({ readonly key: string } & Found<T>) | null>(null)
  useEffect(() => {
    if (!key || typeof Worker === "undefined") return
    const worker = new Worker(new URL("../workers/packing.worker.ts", import.meta.url), { type: "module" })
    worker.addEventListener("message", ({ data: { id: _, ...found } }: MessageEvent<PackingAnswer<T>>) => {
      setFound({ key, ...found })
      if (found.done) worker.terminate()
    })
    worker.postMessage({ id: 1, ...(JSON.parse(key) as Asked) } as PackingAsked)
    return () => worker.terminate()
  }, [key])
  return found && found.key === key ? found : null
}

/** How long a screen waits for a suggestion before it goes on without, in milliseconds. */
const patience = 2_500

export interface Suggesting {
  readonly outcome: Outcome<Suggestion> | null
  /** The same goods in fewest cartons and in least volume, where that is another packing. */
  readonly others: readonly OtherSuggestion[]
  /** The same goods on pallets, or some of them. */
  readonly standings: readonly Standing[]
  /** It is being worked out, and worth waiting for. */
  readonly working: boolean
  /** Nothing changes any more under the hand of somebody who is about to take it, until he lets go. */
  readonly hold: (held: boolean) => void
}

/** Suggested cartons for goods, worked out beside the screen: there at once, and better while one looks. */
export function useSuggestion(input: SuggestionInput | null): Suggesting {
  const wanted = input !== null && input.loads.length > 0
  const found = useWorker<Outcome<Suggestion>>(wanted ? { ask: "suggest", input } : null)
  const [held, setHeld] = useState<Outcome<Suggestion> | null>(null)
  const [late, setLate] = useState(false)
  const waits = wanted && found === null
  useEffect(() => {
    if (!waits) return setLate(false)
    // what was held was for other goods
    setHeld(null)
    const timer = setTimeout(() => setLate(true), patience)
    return () => clearTimeout(timer)
  }, [waits])
  const hold = (on: boolean) => setHeld(on && found && !found.done ? found.answer : null)
  const { others = [], standings = [] } = found ?? {}
  return { outcome: found && (held ?? found.answer), others, standings, working: waits && !late, hold }
}

/** Where the contents of a carton can lie; null while it is worked out; "none": no way was found. */
export const useInside = (
  input: { readonly box: PackBox; readonly loads: readonly PackLoad[] } | null,
): readonly PlacedPiece[] | "none" | null =>
  useWorker<readonly PlacedPiece[] | "none">(input ? { ask: "into", ...input } : null)?.answer ?? null
