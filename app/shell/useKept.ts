import { useRef } from "react"
import { useLocation } from "react-router"

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
