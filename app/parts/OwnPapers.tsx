import { Button } from "@chakra-ui/react"
import { ownPaperLimits, type PaperOwner } from "core/documents/ownPaper.ts"
import { Form, useNavigation } from "react-router"
import type { OwnPaper } from "server/documents/ownPapers.ts"
import { say } from "words/index.ts"
import { Act } from "./ActForm.tsx"
import { FileInput } from "./FileInput.tsx"

/** The PDFs that go with every shipment of an order, a customer or an item; another can be attached, or one removed. */
export function OwnPapers({
  owner,
  id,
  papers,
  mayChange,
}: {
  owner: PaperOwner
  id: number
  papers: readonly OwnPaper[]
  mayChange: boolean
}) {
  const busy = useNavigation().state !== "idle"
  const { bytes, pages, papers: most } = ownPaperLimits
  if (!mayChange && papers.length === 0) return null
  return (
    <section className="own-papers" aria-label={say("own-paper.title")}>
      <h2>{say("own-paper.title")}</h2>
      <p className="field-note">{say(`own-paper.note.${owner}`)}</p>
      {papers.length > 0 ? (
        <ul>
          {papers.map((one) => (
            <li key={one.id}>
              <a href={`/papers/own/${one.id}.pdf`}>{one.name}</a>{" "}
              <span className="field-note">{say("own-paper.pages", { n: one.pages })}</span>
              {mayChange ? (
                <Act intent="drop-paper" sends={{ id, paper: one.id }}>
                  <Button
                    type="submit"
                    variant="ghost"
                    aria-label={say("own-paper.remove-label", { name: one.name })}
                    disabled={busy}
                  >
                    {say("own-paper.remove")}
                  </Button>
                </Act>
              ) : null}
            </li>
          ))}
        </ul>
      ) : null}
      {mayChange && papers.length < most ? (
        <Form
          key={papers.map((one) => one.id).join(" ")}
          method="post"
          encType="multipart/form-data"
          className="upload small"
        >
          <input type="hidden" name="id" value={id} />
          <div className="field">
            <label htmlFor={`own-paper-${owner}`}>{say("own-paper.file", { limit: bytes / 1024 / 1024, pages })}</label>
            <FileInput id={`own-paper-${owner}`} accept=".pdf,application/pdf" most={bytes} />
          </div>
          <Button type="submit" disabled={busy}>
            {say("own-paper.add")}
          </Button>
        </Form>
      ) : null}
    </section>
  )
}
