import type { PackBox, PackLoad, PlacedPiece, Suggestion, UsableBox } from "core/packing/index.ts"
import type { Outcome } from "core/refusal/index.ts"
import { useEffect, useState } from "react"
import type { PackingAsked } from "../workers/packing.worker.ts"

type Asked =
  | { readonly ask: "suggest"; readonly loads: readonly PackLoad[]; readonly boxes: readonly UsableBox[] }
  | { readonly ask: "into"; readonly box: PackBox; readonly loads: readonly PackLoad[] }

/**
 * Asks the worker of the browser; the answer, or null while it works. What was asked before and is not wanted any more is
 * stopped with its worker. Without workers nothing is answered, and the screen does without.
 */
function useWorker<T>(asked: Asked | null): T | null {
  const key = asked ? JSON.stringify(asked) : ""
  const [found, setFound] = useState<{ key: string; answer: T } | null>(null)
  useEffect(() => {
    if (!key || typeof Worker === "undefined") return
    const worker = new Worker(new URL("../workers/packing.worker.ts", import.meta.url), { type: "module" })
    worker.addEventListener("message", ({ data }: MessageEvent<{ id: number; answer: T }>) => {
      setFound({ key, answer: data.answer })
      worker.terminate()
    })
    worker.postMessage({ id: 1, ...(JSON.parse(key) as Asked) } as PackingAsked)
    return () => worker.terminate()
  }, [key])
  return found && found.key === key ? found.answer : null
}

/** How long a screen waits for a suggestion before it goes on without, in milliseconds. */
const patience = 2_500

export interface Suggesting {
  readonly outcome: Outcome<Suggestion> | null
  /** It is being worked out, and worth waiting for. */
  readonly working: boolean
}

/** Suggested cartons for goods, worked out beside the screen. */
export function useSuggestion(
  input: { readonly loads: readonly PackLoad[]; readonly boxes: readonly UsableBox[] } | null,
): Suggesting {
  const wanted = input !== null && input.loads.length > 0
  const outcome = useWorker<Outcome<Suggestion>>(wanted ? { ask: "suggest", ...input } : null)
  const [late, setLate] = useState(false)
  const waits = wanted && outcome === null
  useEffect(() => {
    if (!waits) return setLate(false)
    const timer = setTimeout(() => setLate(true), patience)
    return () => clearTimeout(timer)
  }, [waits])
  return { outcome, working: waits && !late }
}

/** Where the contents of a carton can lie; null while it is worked out; "none": no way was found. */
export const useInside = (
  input: { readonly box: PackBox; readonly loads: readonly PackLoad[] } | null,
): readonly PlacedPiece[] | "none" | null =>
  useWorker<readonly PlacedPiece[] | "none">(input ? { ask: "into", ...input } : null)
