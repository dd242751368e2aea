import { useEffect, useState } from "react"
import { useRouteLoaderData } from "react-router"
import type { ShellData } from "./layout.tsx"

export function useShell(): ShellData {
  const data = useRouteLoaderData("shell")
  if (!data) throw new Error("a screen stands inside the shell")
  return data as ShellData
}

/** The business clock: what the server said, moved on by the time since; the first paint shows the server's own. */
export function useNow(): Date {
  const { now } = useShell()
  const [shown, setShown] = useState<Date>(now)
  useEffect(() => {
    const offset = now.getTime() - Date.now()
    setShown(now)
    const timer = setInterval(() => setShown(new Date(Date.now() + offset)), 1_000)
    return () => clearInterval(timer)
  }, [now])
  return shown
}
