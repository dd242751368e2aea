import { Button } from "@chakra-ui/react"
import { say } from "words/index.ts"
import { Act, ActForm } from "./ActForm.tsx"
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
        <Act key={one.id} intent="drop-note" sends={{ note: one.id }} className="notes">
          {one.text} <small>{one.actor}</small>{" "}
          <button type="submit" className="as-link" aria-label={say("marks.drop-note", { text: one.text })}>
            {say("marks.drop")}
          </button>
        </Act>
      ))}
      <div className="tags">
        {marks.tags.map((tag) => (
          <Act key={tag} intent="untag" sends={{ tag }} className="tag">
            {tag}
            <button type="submit" aria-label={say("marks.untag", { tag })}>
              ×
            </button>
          </Act>
        ))}
      </div>
      {/* a form for each: Enter in a field sends its own, and what is typed in the other stays */}
      <div className="marks-new">
        <ActForm intent="tag" key={`tag ${marks.tags.join()}`}>
          <TextField name="tag" label="marks.tag" most={24} needed />
          <Button type="submit">{say("marks.add")}</Button>
        </ActForm>
        <ActForm intent="note" key={`note ${marks.notes.map((one) => one.id).join()}`}>
          <TextField name="note" label="marks.note" most={300} needed />
          <Button type="submit">{say("marks.add")}</Button>
        </ActForm>
      </div>
    </div>
  )
}
