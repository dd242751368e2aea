import { type RefObject, useEffect, useRef } from "react"
import type { Answer } from "./Sill.tsx"
import { takesKeys } from "./useScanner.ts"

/**
 * The focus rests in the scan line and comes back after every completed action, but never out of a field that somebody
 * went to meanwhile.
 *
 * @param done nothing is under way
 */
export function useScanFocus(
  line: RefObject<HTMLInputElement | null>,
  done: boolean,
  answer: Answer | null | undefined,
): void {
  const before = useRef<Element | null>(null)
  useEffect(() => {
    if (!done) before.current = document.activeElement
  }, [done])
  // biome-ignore lint/correctness/useExhaustiveDependencies: an outcome is told by its key
  useEffect(() => {
    const here = document.activeElement
    // a form whose fields are wrong takes the focus to the first of them
    if (answer?.refused && document.querySelector('form [aria-invalid="true"]')) return
    if (!done || !answer || (here !== before.current && takesKeys(here))) return
    line.current?.focus({ preventScroll: true })
  }, [done, answer?.key])
  useEffect(() => {
    if (document.activeElement === document.body) line.current?.focus({ preventScroll: true })
  }, [line])
}
