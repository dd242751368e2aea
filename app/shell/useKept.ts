import { useEffect, useRef, useState } from "react"
import { useLocation } from "react-router"
import type { Answer } from "./Sill.tsx"

/**
 * The answer of the last action on this screen. The router forgets it when a page's data are read again, which live
 * changes make it do at any time; what is in hand and what was said must outlast that.
 */
export function useKept<T>(answer: T | null | undefined): T | undefined {
  const { pathname } = useLocation()
  const kept = useRef<{ pathname: string; answer: T } | null>(null)
  if (answer !== null && answer !== undefined) kept.current = { pathname, answer }
  return kept.current?.pathname === pathname ? kept.current.answer : undefined
}

/** The later of two answers: of the page's own forms, or of one that stands by itself. */
export function useLatest(page: Answer | null, other: Answer | null): Answer | null {
  const [latest, setLatest] = useState(page)
  const [pageKey, otherKey] = [page?.key, other?.key]
  // biome-ignore lint/correctness/useExhaustiveDependencies: an answer is told by its key
  useEffect(() => setLatest(page), [pageKey])
  // biome-ignore lint/correctness/useExhaustiveDependencies: an answer is told by its key
  useEffect(() => {
    if (other) setLatest(other)
  }, [otherKey])
  return latest
}
