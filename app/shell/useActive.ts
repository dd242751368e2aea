import { useEffect } from "react"

/** Least time between two signs of life, in milliseconds. */
const pauseMs = 60_000

/**
 * Tells the server now and then that somebody is at the keyboard or the pointer, so that a session of somebody who only
 * reads does not run out. A page that reads itself again because others change something is no such sign.
 */
export function useActive(): void {
  useEffect(() => {
    let last = Date.now()
    const act = () => {
      if (Date.now() - last < pauseMs) return
      last = Date.now()
      void fetch("/active", { method: "POST" }).catch(() => undefined)
    }
    for (const name of ["keydown", "pointerdown"]) window.addEventListener(name, act, { passive: true })
    return () => {
      for (const name of ["keydown", "pointerdown"]) window.removeEventListener(name, act)
    }
  }, [])
}
