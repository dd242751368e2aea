import { startTransition, useCallback, useEffect, useRef, useState } from "react"
import { useNavigation } from "react-router"

/** So many scans may wait for an answer; more are left in the line. */
export const mostWaiting = 40

/**
 * Scans that were made while an answer was under way, first come first. They outlast a change of page: who scans an
 * order and then a bin means the bin for the page that the order leads to.
 */
const waiting: string[] = []

/** Whoever signs in does not go on with another's scans. */
export const forgetScans = (): void => void waiting.splice(0)

/**
 * Sends scans one after another: each goes with what the answer to the one before said is in hand, and no answer, such
 * as a refusal, is passed over. Answers how to add one (false where too many wait) and how many wait.
 *
 * @param send sends a scan; done when its answer is there
 */
export function useScanQueue(send: (text: string) => Promise<void>): {
  readonly add: (text: string) => boolean
  readonly left: number
} {
  const idle = useNavigation().state === "idle"
  const [left, setLeft] = useState(0)
  const [answered, setAnswered] = useState(0)
  const latest = useRef({ send, idle })
  latest.current = { send, idle }
  const under = useRef(false)
  const next = useCallback(() => {
    const text = under.current || !latest.current.idle ? undefined : waiting.shift()
    setLeft(waiting.length)
    if (text === undefined) return
    under.current = true
    // told after the page has its answer, so that the next one goes with what this one left in hand
    const done = () => startTransition(() => setAnswered((count) => count + 1))
    latest.current.send(text).then(done, done)
  }, [])
  // biome-ignore lint/correctness/useExhaustiveDependencies: an answer frees the way for the next scan
  useEffect(() => {
    under.current = false
    next()
  }, [answered, next])
  useEffect(() => {
    if (idle) next()
  }, [idle, next])
  const add = useCallback(
    (text: string) => {
      if (waiting.length >= mostWaiting) return false
      waiting.push(text)
      next()
      return true
    },
    [next],
  )
  return { add, left }
}
