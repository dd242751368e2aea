import { Button, Input } from "@chakra-ui/react"
import { type ReactNode, type RefObject, useCallback, useEffect, useRef, useState } from "react"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import type { Plate } from "../shell/Sill.tsx"
import { Act, ActForm } from "./ActForm.tsx"
import { type ChangeChoices, ChangeFields } from "./ChangeFields.tsx"
import { type ChangeWhat, findFields } from "./changeWords.ts"
import { Choice } from "./Fields.tsx"

export interface Chosen {
  readonly ids: ReadonlySet<number>
  /** All that are found are chosen, on this page or not. */
  readonly every: boolean
  readonly any: boolean
  readonly toggle: (id: number, range: boolean) => void
  readonly toggleAll: () => void
  readonly setEvery: (every: boolean) => void
  /** Chooses these and no others. */
  readonly choose: (ids: readonly number[]) => void
  /** To the table of the rows: what a quick hand ticked before the page's scripts ran is taken up. */
  readonly table: RefObject<HTMLTableElement | null>
}

/** Which rows of a list are chosen; with Shift all from the last one on. Forgotten when the list is another. */
export function useChosen(shown: readonly number[], list: string): Chosen {
  const [ids, setIds] = useState<ReadonlySet<number>>(new Set())
  const [every, setEvery] = useState(false)
  const last = useRef<number | null>(null)
  const table = useRef<HTMLTableElement>(null)
  // biome-ignore lint/correctness/useExhaustiveDependencies: forgotten exactly when the list is another
  useEffect(() => {
    setIds(new Set())
    setEvery(false)
  }, [list])
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the page comes to life
  useEffect(() => {
    const ticked = [...(table.current?.querySelectorAll<HTMLInputElement>("input:checked") ?? [])]
    if (ticked.some((box) => box.closest("thead"))) setIds(new Set(shown))
    else if (ticked.length > 0) setIds(new Set(ticked.map((box) => Number(box.value))))
  }, [])
  const choose = useCallback((wanted: readonly number[]) => {
    setEvery(false)
    setIds(new Set(wanted))
  }, [])
  const here = new Set(shown.filter((id) => ids.has(id)))
  return {
    ids: here,
    every,
    any: every || here.size > 0,
    setEvery,
    choose,
    table,
    toggleAll: () => setIds(here.size === shown.length ? new Set() : new Set(shown)),
    toggle: (id, range) => {
      // as they stand now: whoever looks may have sorted them
      const standing = rowBoxes(table.current).map((box) => Number(box.value))
      const [from, to] = [standing.indexOf(last.current ?? id), standing.indexOf(id)].sort((a, b) => a - b) as [
        number,
        number,
      ]
      const touched = range && from >= 0 ? standing.slice(from, to + 1) : [id]
      const on = !here.has(id)
      const next = new Set(here)
      for (const one of touched) on ? next.add(one) : next.delete(one)
      last.current = id
      setIds(next)
    },
  }
}

const rowBoxes = (table: HTMLTableElement | null): readonly HTMLInputElement[] => [
  ...(table?.querySelectorAll<HTMLInputElement>("tbody .tick input") ?? []),
]

export function groupPlate(chosen: Pick<Chosen, "every" | "ids">, what: string): Plate {
  return {
    verb: chosen.every ? say("group.plate-every") : say("group.plate", { n: chosen.ids.size }),
    detail: say("group.plate-detail", { what: wordFor("group.what", what) }),
    ready: true,
    form: "group-form",
  }
}

/** What is to be done with the orders that are chosen; the Enter plate sends it. */
export function GroupBar({
  chosen,
  what,
  onWhat,
  sends,
  more,
  whats,
  choices,
  extra,
}: {
  chosen: Pick<Chosen, "any" | "every" | "setEvery">
  what: string
  onWhat: (what: string) => void
  /** What goes with it; its `key` makes sending it twice the same as once. */
  sends: Readonly<Record<string, string | number>>
  /** There are more orders than are shown. */
  more: boolean
  /** What may be done here, of what there is. */
  whats: readonly ChangeWhat[]
  choices: ChangeChoices
  /** Fields of what is done elsewhere than with the orders themselves. */
  extra?: ReactNode
}) {
  return (
    <ActForm intent="group" sends={sends} id="group-form" className={chosen.any ? "group-bar open" : "group-bar"}>
      <FieldFinder whats={whats} onFound={onWhat} />
      <Choice
        name="what"
        label="group.what"
        value={what}
        onChange={onWhat}
        options={whats.map((one) => ({ value: one, text: say(`group.what.${one}`) }))}
      />
      <ChangeFields what={what} choices={choices} />
      {extra}
      {more ? (
        <label className="check">
          <input
            type="checkbox"
            name="every"
            checked={chosen.every}
            onChange={(event) => chosen.setEvery(event.target.checked)}
          />{" "}
          {say("group.every")}
        </label>
      ) : null}
    </ActForm>
  )
}

/** The last change of many, which can be taken back. */
export function LastGroup({
  last,
}: {
  last: { readonly id: string; readonly what: string; readonly changed: number } | null
}) {
  return last ? (
    <Act intent="undo" sends={{ group: last.id }} className="group-last">
      {say("group.last", { what: wordFor("group.what", last.what), n: last.changed })}{" "}
      <Button type="submit">{say("group.undo")}</Button>
    </Act>
  ) : null
}

/** Finds what can be changed by its word; Enter goes to its field. */
function FieldFinder({ whats, onFound }: { whats: readonly ChangeWhat[]; onFound: (what: string) => void }) {
  const [text, setText] = useState("")
  const found = findFields(text, whats)
  return (
    <div className="field finder">
      <label htmlFor="group-find">{say("group.find")}</label>
      <Input
        id="group-find"
        value={text}
        autoComplete="off"
        maxLength={30}
        onChange={(event) => {
          setText(event.target.value)
          const [best] = findFields(event.target.value, whats)
          if (best) onFound(best)
        }}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return
          event.preventDefault()
          const fields = event.currentTarget.form?.querySelectorAll<HTMLElement>(".change-field :is(input, select)")
          if (found.length > 0) fields?.[0]?.focus()
        }}
        aria-describedby="group-found"
      />
      <small id="group-found" className="field-note" aria-live="polite">
        {text.trim() === "" ? "" : say("group.found", { n: found.length })}
      </small>
    </div>
  )
}
