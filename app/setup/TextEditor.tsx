import { useEffect, useRef } from "react"
import type { Mark } from "./tariffLint.ts"

/**
 * A text editor with line numbers, search, undo and marks in the margin; where scripts do not run, a plain text field.
 * A new `text` that is not what was last typed replaces what is in it.
 */
export function TextEditor({
  text,
  json,
  readOnly,
  marks,
  label,
  goTo,
  onChange,
}: {
  text: string
  json: boolean
  readOnly: boolean
  marks: readonly Mark[]
  label: string
  /** Position to go to; `key` changes with every wish. */
  goTo: { at: number; key: number } | null
  onChange: (text: string) => void
}) {
  const place = useRef<HTMLDivElement>(null)
  const held = useRef<import("./codeEditor.ts").CodeEditor | null>(null)
  const change = useRef(onChange)
  change.current = onChange
  const first = useRef({ text, marks })
  first.current = { text, marks }
  useEffect(() => {
    let gone = false
    void import("./codeEditor.ts").then(({ openEditor }) => {
      if (gone || !place.current) return
      held.current = openEditor(place.current, { text: first.current.text, json, readOnly, label }, (typed) =>
        change.current(typed),
      )
      held.current.mark(first.current.marks)
    })
    return () => {
      gone = true
      held.current?.close()
      held.current = null
    }
  }, [json, readOnly, label])
  useEffect(() => held.current?.replace(text), [text])
  useEffect(() => held.current?.mark(marks), [marks])
  useEffect(() => {
    if (goTo) held.current?.goTo(goTo.at)
  }, [goTo])
  return <div className="text-editor" ref={place} />
}
