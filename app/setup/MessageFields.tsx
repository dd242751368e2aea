import { Input, NativeSelect } from "@chakra-ui/react"
import { type MessageRoute, messageKinds, messageWays, mostRoutes } from "core/shipNotice/routing.ts"
import { say } from "words/index.ts"

/** Where a customer's systems want messages of the trade: those that are set, and one line for another. */
export function MessageFields({ messages }: { messages: readonly MessageRoute[] }) {
  const rows: (MessageRoute | null)[] = messages.length < mostRoutes ? [...messages, null] : [...messages]
  return (
    <fieldset className="message-routes">
      <legend>
        {say("routing.messages")} <small>{say("routing.messages-note")}</small>
      </legend>
      {rows.map((one, index) => (
        <div key={one ? `${one.kind} ${one.way} ${one.to}` : "new"} className="message-route">
          <Picked name="message_kind" label={say("routing.message-kind")} at={index} value={one?.kind ?? "desadv"}>
            {messageKinds.map((kind) => (
              <option key={kind} value={kind}>
                {say(`edi.kind.${kind}`)}
              </option>
            ))}
          </Picked>
          <Picked name="message_way" label={say("routing.message-way")} at={index} value={one?.way ?? "mail"}>
            {messageWays.map((way) => (
              <option key={way} value={way}>
                {say(`edi.way.${way}`)}
              </option>
            ))}
          </Picked>
          <Written name="message_to" label={say("routing.message-to")} at={index} value={one?.to ?? ""} most={200} />
          <Written
            name="message_receiver"
            label={say("routing.message-receiver-field")}
            at={index}
            value={one?.receiver ?? ""}
            most={35}
          />
        </div>
      ))}
    </fieldset>
  )
}

interface FieldProps {
  readonly name: string
  readonly label: string
  readonly at: number
  readonly value: string
}

function Picked({ name, label, at, value, children }: FieldProps & { children: React.ReactNode }) {
  const id = `${name}-${at}`
  return (
    <div className="field">
      <label htmlFor={id}>{label}</label>
      <NativeSelect.Root>
        <NativeSelect.Field id={id} name={name} defaultValue={value}>
          {children}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </div>
  )
}

function Written({ name, label, at, value, most }: FieldProps & { most: number }) {
  const id = `${name}-${at}`
  return (
    <div className="field">
      <label htmlFor={id}>{label}</label>
      <Input id={id} name={name} defaultValue={value} maxLength={most} />
    </div>
  )
}

/** The routes of a form; those without an address are none. */
export function messagesFrom(form: FormData): Record<string, string>[] {
  const all = (name: string) => form.getAll(name).map((value) => String(value).trim())
  const [kinds, ways, receivers] = [all("message_kind"), all("message_way"), all("message_receiver")]
  return all("message_to")
    .map((to, at) => ({ kind: kinds[at] ?? "", way: ways[at] ?? "", to, receiver: receivers[at] ?? "" }))
    .filter((one) => one.to !== "")
}
