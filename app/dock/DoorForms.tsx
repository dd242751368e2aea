import { Button } from "@chakra-ui/react"
import type { Reason } from "core/refusal/index.ts"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { useShell } from "../shell/useNow.ts"
import type { DoorForm, OpenDoorData } from "./dockView.server.ts"

/** The forms that a truck leaves with: by which way of its carrier, those that are made, and what can be done with them. */
export function DoorForms({ one, sendKey, lead }: { one: OpenDoorData; sendKey: string; lead: boolean }) {
  return (
    <section className="door-forms" aria-label={say("form.title")}>
      <h2>{say("form.title")}</h2>
      <p>{wayWords(one)}</p>
      {one.forms.length > 0 ? (
        <ul>
          {one.forms.map((form) => (
            <FormRow key={form.id} form={form} open={one.closedAt === null} sendKey={sendKey} lead={lead} />
          ))}
        </ul>
      ) : null}
      <ClosedDoor one={one} lead={lead} />
    </section>
  )
}

function wayWords(one: OpenDoorData): string {
  if (one.cancelled) return ""
  if (one.closedAt) return one.forms.length === 0 ? say("form.none-made") : ""
  return say(`form.says.${one.way}`, { carrier: one.carrier, by: one.byService ? "service" : "account" })
}

function FormRow({ form, open, sendKey, lead }: { form: DoorForm; open: boolean; sendKey: string; lead: boolean }) {
  return (
    <li>
      {form.document ? (
        <a href={`/papers/${form.document}.pdf`} className="code">
          {form.number}
        </a>
      ) : (
        <span className="code">{form.number}</span>
      )}
      <span>
        {say("form.row", { way: say(`form.way.${form.way}`), n: form.packages })}
        {form.service ? `, ${form.service}` : ""}
        {form.supplement ? `, ${say("form.supplement")}` : ""}
      </span>
      <span className={form.state === "refused" ? "ember" : undefined}>
        {form.trouble ? sayReason(form.trouble as Reason) : say(`form.state.${form.state}`)}
        {form.carrierNumber ? ` (${form.carrierNumber})` : ""}
      </span>
      <FormActs form={form} open={open} sendKey={sendKey} lead={lead} />
    </li>
  )
}

/** What can be done with a form; the list of all forms has the same. */
export function FormActs({
  form,
  open,
  sendKey,
  lead,
}: {
  form: DoorForm
  open: boolean
  sendKey: string
  lead: boolean
}) {
  const named = (words: string) => `${words} ${form.number}`
  const sends = { formId: form.id }
  return (
    <span className="form-acts">
      {form.document ? (
        <Act intent="form-print" sends={{ document: form.document, name: form.number, key: sendKey }}>
          <Button type="submit" variant="ghost" aria-label={named(say("form.print"))}>
            {say("form.print")}
          </Button>
        </Act>
      ) : null}
      {open && form.state === "made" ? (
        <Act intent="form-send" sends={sends}>
          <Button type="submit" variant="ghost" aria-label={named(say("form.send"))}>
            {say("form.send")}
          </Button>
        </Act>
      ) : null}
      {open && form.state === "made" && lead ? (
        <Act intent="form-discard" sends={sends}>
          <Button type="submit" variant="ghost" aria-label={named(say("form.discard"))}>
            {say("form.discard")}
          </Button>
        </Act>
      ) : null}
      {form.state === "refused" ? (
        <Act intent="form-again" sends={sends}>
          <Button type="submit" variant="ghost" aria-label={named(say("form.again"))}>
            {say("form.again")}
          </Button>
        </Act>
      ) : null}
      {form.state === "refused" && lead ? (
        <ActForm intent="form-settle" sends={sends} className="form-settle">
          <TextField name="note" label="form.settle-note" id={`settle-${form.id}`} most={120} needed />
          <Button type="submit">{say("form.settle")}</Button>
        </ActForm>
      ) : null}
    </span>
  )
}

/** What can be done with a closed door: sent, reopened, or opened for what came after. */
function ClosedDoor({ one, lead }: { one: OpenDoorData; lead: boolean }) {
  const { today, zone } = useShell()
  const sends = { collection: one.id }
  if (one.closedAt === null)
    return one.final ? (
      <div className="form-closed">
        <span>{say("dock.supplement-open", { n: one.gone })}</span>
        {one.onTruck === 0 ? (
          <Act intent="supplement-end" sends={sends}>
            <Button type="submit">{say("dock.supplement-end")}</Button>
          </Act>
        ) : null}
      </div>
    ) : null
  if (!one.final)
    return (
      <div className="form-closed">
        <span>{one.sendsAt ? say("dock.sends-at", { time: clock(one.sendsAt, zone) }) : ""}</span>
        <Act intent="send-now" sends={sends}>
          <Button type="submit">{say("dock.send-now")}</Button>
        </Act>
        {lead ? (
          <Act intent="reopen" sends={sends}>
            <Button type="submit">{say("dock.reopen")}</Button>
          </Act>
        ) : null}
      </div>
    )
  return one.onDate === today && !one.cancelled ? (
    <div className="form-closed">
      <span>{say("dock.supplement-note")}</span>
      <Act intent="supplement" sends={sends}>
        <Button type="submit">{say("dock.supplement")}</Button>
      </Act>
    </div>
  ) : null
}
