import { Button } from "@chakra-ui/react"
import { Form } from "react-router"
import { say } from "words/index.ts"
import { TextField } from "./Fields.tsx"

export interface ShownMarks {
  readonly tags: readonly string[]
  readonly notes: readonly { readonly id: number; readonly text: string; readonly actor: string }[]
}

/** Tags as tied-on slips. */
export function Tags({ tags }: { tags: readonly string[] }) {
  if (tags.length === 0) return null
  return (
    <span className="tags">
      {tags.map((tag) => (
        <span key={tag} className="tag">
          {tag}
        </span>
      ))}
    </span>
  )
}

/** What people marked an order with, where it is picked and packed: to be read, not changed. */
export function MarksShown({ marks, notes }: { marks: ShownMarks; notes: string }) {
  return (
    <>
      {marks.tags.length > 0 ? (
        <p>
          <Tags tags={marks.tags} />
        </p>
      ) : null}
      {notes ? <p className="notes">{notes}</p> : null}
      {marks.notes.map((one) => (
        <p key={one.id} className="notes">
          {one.text} <small>{one.actor}</small>
        </p>
      ))}
    </>
  )
}

/** The same on the order's own page, where they are set and taken off. */
export function Marks({ marks, notes, mayChange }: { marks: ShownMarks; notes: string; mayChange: boolean }) {
  if (!mayChange) return <MarksShown marks={marks} notes={notes} />
  return (
    <div className="marks">
      {notes ? <p className="notes">{notes}</p> : null}
      {marks.notes.map((one) => (
        <Form key={one.id} method="post" className="notes">
          <input type="hidden" name="intent" value="drop-note" />
          <input type="hidden" name="note" value={one.id} />
          {one.text} <small>{one.actor}</small>{" "}
          <button type="submit" className="as-link" aria-label={say("marks.drop-note", { text: one.text })}>
            {say("marks.drop")}
          </button>
        </Form>
      ))}
      <div className="tags">
        {marks.tags.map((tag) => (
          <Form key={tag} method="post" className="tag">
            <input type="hidden" name="intent" value="untag" />
            <input type="hidden" name="tag" value={tag} />
            {tag}
            <button type="submit" aria-label={say("marks.untag", { tag })}>
              ×
            </button>
          </Form>
        ))}
      </div>
      {/* a form for each: Enter in a field sends its own, and what is typed in the other stays */}
      <div className="marks-new">
        <Form method="post" key={`tag ${marks.tags.join()}`}>
          <input type="hidden" name="intent" value="tag" />
          <TextField name="tag" label="marks.tag" most={24} needed />
          <Button type="submit">{say("marks.add")}</Button>
        </Form>
        <Form method="post" key={`note ${marks.notes.map((one) => one.id).join()}`}>
          <input type="hidden" name="intent" value="note" />
          <TextField name="note" label="marks.note" most={300} needed />
          <Button type="submit">{say("marks.add")}</Button>
        </Form>
      </div>
    </div>
  )
}
