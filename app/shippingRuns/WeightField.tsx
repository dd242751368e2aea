import { useEffect, useRef } from "react"
import { useFetcher } from "react-router"
import { say } from "words/index.ts"
import type { Answered } from "../shell/acts.server.ts"
import type { Answer } from "../shell/Sill.tsx"

/**
 * The weight of a package: Enter saves what is typed and goes to the next one down the list. A field that was left as it
 * is asks for nothing.
 */
export function WeightField({
  orderId,
  name,
  number,
  calculated,
  measured,
  onAnswer,
}: {
  orderId: number
  name: string
  number: number
  calculated: string
  measured: string | null
  onAnswer: (answer: Answer) => void
}) {
  const fetcher = useFetcher<Answered>({ key: `weigh-${orderId}-${number}` })
  const field = useRef<HTMLInputElement>(null)
  const { answer } = fetcher.data ?? {}
  const told = useRef("")
  useEffect(() => {
    if (!answer || told.current === answer.key) return
    told.current = answer.key
    if (!answer.refused) return
    onAnswer(answer)
    field.current?.focus()
    field.current?.select()
  }, [answer, onAnswer])
  // what the scale or somebody else said stands in it, unless one is typing
  useEffect(() => {
    const own = field.current
    if (own && document.activeElement !== own) own.value = measured ?? ""
  }, [measured])
  const save = (own: HTMLInputElement) => {
    if (own.value.trim() === (measured ?? "")) return
    void fetcher.submit({ intent: "weigh", order: orderId, package: number, weight: own.value }, { method: "post" })
  }
  return (
    <input
      ref={field}
      className="weight-field"
      defaultValue={measured ?? ""}
      placeholder={calculated}
      inputMode="decimal"
      maxLength={10}
      autoComplete="off"
      aria-label={say("shipping-run.weight-of", { name })}
      aria-invalid={answer?.refused ? true : undefined}
      data-busy={fetcher.state !== "idle"}
      onBlur={(event) => save(event.currentTarget)}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== "ArrowDown" && event.key !== "ArrowUp") return
        event.preventDefault()
        const all = [...document.querySelectorAll<HTMLInputElement>(".weight-field")]
        const next = all[all.indexOf(event.currentTarget) + (event.key === "ArrowUp" ? -1 : 1)]
        if (next) {
          next.focus()
          next.select()
        } else event.currentTarget.blur()
      }}
    />
  )
}
