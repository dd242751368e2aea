import { useEffect, useState } from "react"
import type { Answered } from "../shell/acts.server.ts"
import type { TypedGoods } from "./ClaimGoods.tsx"

/**
 * What is typed and not saved: it stays whatever others do meanwhile. The version that it goes by is the one that was
 * seen when the first letter was typed, until a refusal has said that somebody else was faster.
 */
export function useUnsaved(version: number, answered: Answered | undefined) {
  const [typed, setTyped] = useState<TypedGoods | null>(null)
  const [seen, setSeen] = useState(version)
  const [form, setForm] = useState("")
  const unsaved = typed !== null
  const { answer } = answered ?? {}
  const saved = answered && "saved" in answered ? (answer?.key ?? "") : ""
  const refused = answer?.refused ? answer.key : ""
  useEffect(() => {
    if (!saved) return
    setTyped(null)
    setForm(saved)
  }, [saved])
  useEffect(() => {
    if (!unsaved) setSeen(version)
  }, [version, unsaved])
  // biome-ignore lint/correctness/useExhaustiveDependencies: seen once, with the refusal; what comes after is not
  useEffect(() => {
    if (refused) setSeen(version)
  }, [refused])
  return { typed, unsaved, seen, form, type: setTyped }
}
