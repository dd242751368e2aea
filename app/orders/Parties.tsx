import { Button } from "@chakra-ui/react"
import { useNavigation } from "react-router"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { nameFields } from "../parts/shipToFields.ts"

export interface ShownParty {
  readonly role: string
  readonly by: string
  readonly email: string
  readonly lines: readonly string[]
  readonly fields: Readonly<Record<string, string>>
}

/** Who is shown as sender, where packages return to, and who is told, each apart from the ship-to. */
export function Parties({
  parties,
  home,
  mayChange,
}: {
  parties: readonly ShownParty[]
  home: string
  mayChange: boolean
}) {
  const busy = useNavigation().state !== "idle"
  return (
    <div className="parties">
      {(["sender", "return-to", "notify"] as const).map((role) => {
        const party = parties.find((one) => one.role === role)
        return (
          <details key={`${role} ${party?.lines.join() ?? ""} ${party?.email ?? ""}`} name="party">
            <summary>
              {say(`party.${role}`)}:{" "}
              <b>
                {party
                  ? [party.lines[0], party.email].filter(Boolean).join(", ")
                  : role === "notify"
                    ? "–"
                    : say("party.by-us")}
              </b>
              {party?.by === "customer" ? ` (${say("party.by-customer")})` : ""}
            </summary>
            {party ? <p>{party.lines.slice(1).join(", ")}</p> : null}
            {mayChange ? (
              <ActForm intent="party" sends={{ role }} className="typed-address">
                {nameFields.map((name) => (
                  <TextField
                    key={name}
                    id={`${role}-${name}`}
                    name={name}
                    label={`order.${name}`}
                    value={party?.fields[name] ?? (name === "country" ? home : "")}
                    most={60}
                  />
                ))}
                <TextField
                  id={`${role}-email`}
                  name="email"
                  label="party.email-field"
                  value={party?.email}
                  most={120}
                />
                <Button type="submit" disabled={busy}>
                  {say("party.save")}
                </Button>
                <small className="field-note">{say("party.away")}</small>
              </ActForm>
            ) : null}
          </details>
        )
      })}
    </div>
  )
}
