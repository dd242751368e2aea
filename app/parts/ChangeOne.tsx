import { Button } from "@chakra-ui/react"
import { type ReactNode, useEffect, useRef, useState } from "react"
import { useFetcher } from "react-router"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import type { Answered } from "../shell/acts.server.ts"
import type { Answer, Understood } from "../shell/Sill.tsx"
import { type ChangeChoices, ChangeFields } from "./ChangeFields.tsx"
import { type ChangeWhat, changeWhats, findFields } from "./changeWords.ts"

interface Fields {
  readonly choices: ChangeChoices
  readonly whats: readonly ChangeWhat[]
  readonly last: { readonly id: string; readonly what: string; readonly changed: number } | null
  readonly key: string
}

const ofOne = changeWhats.filter((one) => one !== "ship" && one !== "remove")

export interface ChangeOne {
  /** What a typed word would change, before Enter; null where it is none. */
  readonly understand: (text: string) => Understood | null
  /** Opens the field that a word names; false where it names none. */
  readonly does: (text: string) => boolean
  readonly answer: Answer | null
  readonly bar: ReactNode
}

/**
 * Any field of an order or shipment, found by typing its word on the scan line: "date", "signature". The field opens
 * above the scan line, is saved as a change of many with one order in it, and can be undone.
 */
export function useChangeOne(orderId: number, mayWork: boolean): ChangeOne {
  const [what, setWhat] = useState<ChangeWhat | null>(null)
  const fields = useFetcher<Fields>({ key: "change-fields" })
  const sent = useFetcher<Answered>({ key: "change-one" })
  const { load } = fields
  const find = (text: string) => (mayWork && /^\p{L}{3}/u.test(text.trim()) ? findFields(text, ofOne) : [])
  const answer = sent.data?.answer ?? null
  const done = useRef("")
  // what was changed can be undone: the bar stays, with that
  useEffect(() => {
    if (!answer || done.current === answer.key) return
    done.current = answer.key
    if (!answer.refused) void load("/change-fields")
  }, [answer, load])
  return {
    understand: (text) => {
      const [found] = find(text)
      return found ? { fits: true, words: say("change.open", { what: say(`group.what.${found}`) }) } : null
    },
    does: (text) => {
      const [found] = find(text)
      if (!found) return false
      setWhat(found)
      void load("/change-fields")
      return true
    },
    answer,
    bar: what ? (
      <ChangeBar
        key={what}
        orderId={orderId}
        what={what}
        fields={fields.data ?? null}
        sent={sent}
        onClose={() => setWhat(null)}
      />
    ) : null,
  }
}

function ChangeBar({
  orderId,
  what,
  fields,
  sent,
  onClose,
}: {
  orderId: number
  what: ChangeWhat
  fields: Fields | null
  sent: ReturnType<typeof useFetcher<Answered>>
  onClose: () => void
}) {
  const bar = useRef<HTMLElement>(null)
  const ready = fields !== null
  useEffect(() => {
    if (ready)
      bar.current?.querySelector<HTMLElement>(".change-field :is(input, select)")?.focus({ preventScroll: true })
  }, [ready])
  if (!fields) return null
  const mayDo = fields.whats.includes(what)
  return (
    <section
      ref={bar}
      className="change-one"
      aria-label={say(`group.what.${what}`)}
      onKeyDown={(event) => {
        if (event.key === "Escape") onClose()
      }}
    >
      <sent.Form method="post" action="/orders" className="change-one-form">
        <input type="hidden" name="intent" value="group" />
        <input type="hidden" name="what" value={what} />
        <input type="hidden" name="order" value={orderId} />
        <input type="hidden" name="key" value={fields.key} />
        <b>{say(`group.what.${what}`)}</b>
        <ChangeFields what={what} choices={fields.choices} />
        {mayDo ? <Button type="submit">{say("change.save")}</Button> : null}
      </sent.Form>
      {fields.last ? (
        <sent.Form method="post" action="/orders" className="change-one-form">
          <input type="hidden" name="intent" value="undo" />
          <input type="hidden" name="group" value={fields.last.id} />
          <Button type="submit" variant="ghost">
            {say("change.undo", { what: wordFor("group.what", fields.last.what), n: fields.last.changed })}
          </Button>
        </sent.Form>
      ) : null}
      <button type="button" className="as-link" onClick={onClose}>
        {say("change.close")}
      </button>
    </section>
  )
}
