import { Button } from "@chakra-ui/react"
import { mostPhoto } from "core/claims/index.ts"
import { useState } from "react"
import { Form, useNavigation } from "react-router"
import type { ClaimWhole } from "server/claims/list.ts"
import { say } from "words/index.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"

/** Photos of what is claimed for; others can be added until it is filed. */
export function Photos({ claim, draft }: { claim: ClaimWhole; draft: boolean }) {
  const busy = useNavigation().state !== "idle"
  if (!draft && claim.photos.length === 0) return null
  return (
    <>
      <h2>{say("claim.photos")}</h2>
      <ul className="claim-photos">
        {claim.photos.map((one) => (
          <li key={one.id}>
            <a href={`/orders/claims/${claim.number}/photos/${one.id}`}>
              <img src={`/orders/claims/${claim.number}/photos/${one.id}`} alt={one.name} />
            </a>
            {draft ? (
              <Act intent="drop-photo" sends={{ photo: one.id }}>
                <button type="submit" className="as-link" aria-label={say("claim.photo-remove-of", { name: one.name })}>
                  {say("claim.photo-remove")}
                </button>
              </Act>
            ) : null}
          </li>
        ))}
      </ul>
      {draft ? (
        <Form
          key={claim.photos.map((one) => one.id).join(" ")}
          method="post"
          encType="multipart/form-data"
          className="upload small"
        >
          <div className="field">
            <label htmlFor="claim-photo">{say("claim.photo-file", { limit: mostPhoto.bytes / 1024 / 1024 })}</label>
            <FileInput id="claim-photo" accept="image/jpeg,image/png" most={mostPhoto.bytes} />
          </div>
          <Button type="submit" disabled={busy}>
            {say("claim.photo-add")}
          </Button>
        </Form>
      ) : null}
    </>
  )
}

/** A claim goes to the carrier: by e-mail, or by hand where it takes none. */
export function Filing({
  claim,
  mayOverrule,
  unsaved,
}: {
  claim: ClaimWhole
  mayOverrule: boolean
  /** What is typed and not saved would not go along. */
  unsaved: boolean
}) {
  const over = claim.next?.what === "file" && claim.next.over
  return (
    <ActForm intent="file" id="file-form">
      {unsaved ? <p className="note">{say("claim.save-first")}</p> : null}
      {over && mayOverrule ? (
        <label className="tick-line">
          <input type="checkbox" name="late" /> {say("claim.late")}
        </label>
      ) : null}
      {claim.email ? (
        <Button type="submit" name="way" value="mail" disabled={unsaved}>
          {say("claim.send", { to: claim.email })}
        </Button>
      ) : null}
      <TextField name="reference" label="claim.reference" most={60} />
      <Button type="submit" name="way" value="hand" variant="ghost" disabled={unsaved}>
        {say("claim.by-hand")}
      </Button>
    </ActForm>
  )
}

/** What the carrier answered, or that we let it go. */
export function WhatCame({ claim }: { claim: ClaimWhole }) {
  const [to, setTo] = useState<string>("acknowledged")
  const { state } = claim
  if (state === "paid" || state === "withdrawn") return null
  if (state === "draft")
    return (
      <details className="back-move">
        <summary>{say("claim.withdraw")}</summary>
        <ActForm intent="answer" id="withdraw-form" sends={{ to: "withdrawn" }}>
          <TextField name="note" id="withdraw-note" label="claim.note" most={300} />
          <Button type="submit">{say("claim.withdraw")}</Button>
        </ActForm>
      </details>
    )
  const choices = [
    ...(state === "filed" ? (["acknowledged"] as const) : []),
    "paid" as const,
    ...(state === "denied" ? [] : (["denied"] as const)),
    "withdrawn" as const,
  ]
  const chosen = choices.find((one) => one === to) ?? choices[0] ?? "paid"
  return (
    <>
      <h2>{say("claim.answer")}</h2>
      <ActForm intent="answer" id="answer-form" key={state}>
        <Choice
          name="to"
          id="answer-to"
          label="claim.answer-to"
          value={chosen}
          onChange={setTo}
          options={choices.map((value) => ({ value, text: say(`claim.to.${value}`) }))}
        />
        <TextField name="on" label="claim.on" type="date" />
        {chosen === "acknowledged" ? (
          <TextField name="reference" id="answer-reference" label="claim.reference" value={claim.reference} most={60} />
        ) : null}
        {chosen === "paid" ? (
          <TextField name="paid" label="claim.paid" value={claim.amounts.expected.amount} mode="decimal" most={14} />
        ) : null}
        <TextField name="note" id="answer-note" label="claim.note" most={300} />
        <Button type="submit">{say("claim.answer-save")}</Button>
      </ActForm>
    </>
  )
}
