import { Button } from "@chakra-ui/react"
import type { CustomerMessage } from "server/telling/list.ts"
import type { OrderTelling } from "server/telling/manage.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Check, TextField } from "../parts/Fields.tsx"
import { useShell } from "../shell/useNow.ts"

export interface TellingShown extends OrderTelling {
  readonly goesTo: readonly string[]
  readonly messages: readonly CustomerMessage[]
  readonly page: string
  readonly attachable: readonly string[]
}

/** What is said to the customer of an order, to whom, and what was sent. */
export function TellCustomer({ telling, mayWork, ready }: { telling: TellingShown; mayWork: boolean; ready: boolean }) {
  const { zone } = useShell()
  return (
    <section className="tell-customer">
      <h2>{say("tell.own")}</h2>
      <p>
        {telling.off
          ? say("tell.off")
          : telling.goesTo.length > 0
            ? say("tell.goes-to", { to: telling.goesTo.join(", ") })
            : say("tell.nobody")}{" "}
        {telling.page ? <a href={telling.page}>{say("tell.receiver-page")}</a> : null}
      </p>
      {mayWork ? (
        <details>
          <summary>{say("tell.choose")}</summary>
          <ActForm intent="telling" id="telling-form">
            <div className="field">
              <label htmlFor="telling-note">{say("tell.note")}</label>
              <textarea id="telling-note" name="note" rows={3} maxLength={500} defaultValue={telling.note} />
            </div>
            <Check name="thanks" label="tell.thanks" on={telling.thanks} />
            <TextField
              name="more"
              label="tell.more"
              value={telling.more.map((one) => one.address).join(", ")}
              most={600}
            />
            <fieldset>
              <legend>{say("tell.attach")}</legend>
              {telling.attachable.map((kind) => (
                <label key={kind} className="tick-line">
                  <input type="checkbox" name="attach" value={kind} defaultChecked={telling.attach.includes(kind)} />{" "}
                  {wordFor("papers.kind", kind)}
                </label>
              ))}
            </fieldset>
            <Check name="off" label="tell.off" on={telling.off} />
            <Button type="submit">{say("tell.save")}</Button>
          </ActForm>
        </details>
      ) : null}
      {mayWork && ready ? (
        <Act intent="tell-ready">
          <Button type="submit" variant="ghost">
            {say("tell.ready")}
          </Button>
        </Act>
      ) : null}
      <ul>
        {telling.messages.map((one) => (
          <li key={one.id}>
            <b>{say(`tell.topic.${one.topic}`)}</b> {one.address}{" "}
            <span className={one.state === "refused" || one.state === "bounced" ? "ember" : undefined}>
              {one.waitsUntil
                ? say("tell.until", { time: dayAndClock(one.waitsUntil, zone) })
                : say(`tell.state.${one.state}`)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}
