import type { OrderId } from "core/ids/index.ts"
import { useEffect, useRef, useState } from "react"
import { useRevalidator } from "react-router"

/** Least time between two readings of the page's data, in milliseconds: for the order shown, and for all others. */
const pause = { own: 400, other: 2_500 }
/** How often the page is read again when no stream tells what changed. */
const fallbackMs = 20_000

/**
 * Reads the page's data again when the server says that something changed, soon for the order that is shown; and tells
 * who else has it open. Without a stream (a proxy that cuts it, an old browser) the page is read now and then.
 *
 * @param orderId of the order that the screen shows, or null
 */
export function useLive(orderId: OrderId | null): readonly string[] {
  const revalidator = useRevalidator()
  const latest = useRef(revalidator)
  latest.current = revalidator
  const [people, setPeople] = useState<readonly string[]>([])
  useEffect(() => {
    let waiting: ReturnType<typeof setTimeout> | null = null
    let due = Number.POSITIVE_INFINITY
    let last = Date.now()
    const read = () => {
      waiting = null
      due = Number.POSITIVE_INFINITY
      if (document.visibilityState !== "visible") return
      if (latest.current.state !== "idle") return plan(150)
      last = Date.now()
      void latest.current.revalidate()
    }
    const plan = (ms: number) => {
      const at = Date.now() + ms
      if (at >= due) return
      if (waiting) clearTimeout(waiting)
      due = at
      waiting = setTimeout(read, ms)
    }
    // a browser keeps few connections to one server, so only tabs that are looked at hold a stream
    let stream: EventSource | null = null
    const open = () => {
      if (stream || document.visibilityState !== "visible") return
      stream = new EventSource(orderId === null ? "/live" : `/live?order=${orderId}`)
      stream.addEventListener("change", (event) => {
        const { order } = JSON.parse((event as MessageEvent<string>).data) as { order: number | null }
        const least = order !== null && order === orderId ? pause.own : pause.other
        plan(Math.max(60, least - (Date.now() - last)))
      })
      // whoever was signed out meanwhile is asked to sign in again, and comes back here
      stream.addEventListener("signed-out", () => {
        close()
        plan(0)
      })
      stream.addEventListener("people", (event) => {
        setPeople(JSON.parse((event as MessageEvent<string>).data) as string[])
      })
    }
    const close = () => {
      stream?.close()
      stream = null
    }
    const looked = () => {
      if (document.visibilityState !== "visible") return close()
      open()
      plan(0)
    }
    open()
    const slow = setInterval(() => plan(0), fallbackMs)
    document.addEventListener("visibilitychange", looked)
    return () => {
      close()
      clearInterval(slow)
      if (waiting) clearTimeout(waiting)
      document.removeEventListener("visibilitychange", looked)
    }
  }, [orderId])
  return people
}
