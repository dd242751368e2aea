import { type RefObject, useEffect, useRef, useState } from "react"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import type { Plate } from "../shell/Sill.tsx"

export interface Chosen {
  readonly ids: ReadonlySet<number>
  /** All that are found are chosen, on this page or not. */
  readonly every: boolean
  readonly any: boolean
  readonly toggle: (id: number, range: boolean) => void
  readonly toggleAll: () => void
  readonly setEvery: (every: boolean) => void
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
  const here = new Set(shown.filter((id) => ids.has(id)))
  return {
    ids: here,
    every,
    any: every || here.size > 0,
    setEvery,
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

const everyWhat = ["promise", "rate", "tag", "untag", "note", "leave", "pattern", "hold", "let-go"] as const

export function groupPlate(chosen: Chosen, what: string): Plate {
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
  sendKey,
  query,
  more,
  mayRelease,
  tags,
  patterns,
  collections,
}: {
  chosen: Chosen
  what: string
  onWhat: (what: string) => void
  /** Makes sending it twice the same as once. */
  sendKey: string
  query: string
  more: boolean
  mayRelease: boolean
  tags: readonly string[]
  patterns: readonly { readonly id: number; readonly name: string }[]
  /** Trucks to come, in words. */
  collections: readonly { readonly id: number; readonly name: string }[]
}) {
  return (
    <ActForm
      intent="group"
      sends={{ key: sendKey, query }}
      id="group-form"
      className={chosen.any ? "group-bar open" : "group-bar"}
    >
      <Choice
        name="what"
        label="group.what"
        value={what}
        onChange={onWhat}
        options={everyWhat
          .filter((one) => one !== "let-go" || mayRelease)
          .filter((one) => one !== "pattern" || patterns.length > 0)
          .map((one) => ({ value: one, text: say(`group.what.${one}`) }))}
      />
      {what === "promise" ? <TextField name="day" label="group.day" type="date" /> : null}
      {what === "tag" || what === "untag" ? (
        <>
          <TextField name="tag" id="group-tag" label="group.tag" most={24} list="known-tags" />
          <datalist id="known-tags">
            {tags.map((tag) => (
              <option key={tag} value={tag} />
            ))}
          </datalist>
        </>
      ) : null}
      {what === "leave" ? (
        <Choice
          name="collection"
          label="group.collection"
          value=""
          options={[
            { value: "", text: say("group.as-planned") },
            ...collections.map((one) => ({ value: String(one.id), text: one.name })),
          ]}
        />
      ) : null}
      {what === "pattern" ? (
        <Choice
          name="pattern"
          label="group.pattern"
          value=""
          options={[
            { value: "", text: say("order.pattern-none") },
            ...patterns.map((one) => ({ value: String(one.id), text: one.name })),
          ]}
        />
      ) : null}
      {what === "rate" ? (
        <Choice
          name="rule"
          label="run.rule"
          value="settled"
          options={(["settled", "cheapest", "fastest"] as const).map((rule) => ({
            value: rule,
            text: say(`run.rule.${rule}`),
          }))}
        />
      ) : null}
      {what === "note" ? <TextField name="text" label="group.text" most={300} /> : null}
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
