import { Button } from "@chakra-ui/react"
import { incoterms } from "core/customs/index.ts"
import { isOnTheLine, type Stage } from "core/orders/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { useEffect, useState } from "react"
import { useNavigation } from "react-router"
import type { BookAddress } from "server/addresses/book.ts"
import type { Proposal } from "server/decisions/checkAddress.ts"
import { say } from "words/index.ts"
import { sayReason, wordFor } from "words/reasons.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { AddressLookUp, bookText } from "../parts/AddressLookUp.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"
import { deliveryFields, nameFields, termFields } from "../parts/shipToFields.ts"

export interface ShownShipTo {
  readonly address: Readonly<Record<string, string | number>>
  readonly kindConfirmed: boolean
  readonly abroad: boolean
  readonly stage: string
  readonly mayWork: boolean
  readonly flags: readonly Reason[]
  readonly zone: string | null
}

/** Where an order goes: found in the directory as one types, checked by the address service, changed by hand. */
export function ShipTo({
  order,
  answered,
  proposal,
}: {
  order: ShownShipTo
  answered: string | null
  proposal: Proposal | null
}) {
  const busy = useNavigation().state !== "idle"
  // what is being typed stays while others change the order; saving then says what they changed
  const version = Number(order.address.version)
  const [held, setHeld] = useState<number | null>(null)
  const [found, setFound] = useState<BookAddress | null>(null)
  // biome-ignore lint/correctness/useExhaustiveDependencies: an answer lets the form show what is now
  useEffect(() => {
    setHeld(null)
    setFound(null)
  }, [answered])
  const shown = held ?? version
  const done = !isOnTheLine(order.stage as Stage)
  const value = (name: string): string => {
    const here = String(order.address[name] ?? "")
    const there = found ? fromBook(found, name) : null
    // what the directory does not know of the same firm is no reason to forget it
    return there === "" && found?.company === order.address.company ? here : (there ?? here)
  }
  const kind = found ? found.kind : String(order.address.kind)
  const confirmed = found ? found.kindConfirmed : order.kindConfirmed
  return (
    <section className="order-address" id="ship-to">
      <h2>{say("order.address")}</h2>
      {order.flags.length > 0 || order.zone ? (
        <p className="ship-to-flags">
          {order.flags.map((flag) => (
            <b key={flag.code}>{sayReason(flag)}</b>
          ))}
          {order.zone ? <span>{order.zone.replaceAll("_", " ")}</span> : null}
        </p>
      ) : null}
      {order.mayWork && !done ? (
        <AddressLookUp
          onChoose={(one) => {
            setFound(one)
            setHeld((before) => before ?? version)
          }}
        />
      ) : null}
      <ActForm
        intent="address"
        sends={{ version: shown }}
        key={`${shown} ${found ? bookText(found) : ""}`}
        onInput={() => setHeld((before) => before ?? shown)}
      >
        {nameFields.map((name) => (
          <TextField key={name} name={name} label={`order.${name}`} value={value(name)} most={60} />
        ))}
        <Choice
          name="address_kind"
          label="order.address_kind"
          value={kind}
          options={(["unknown", "business", "residential"] as const).map((one) => ({
            value: one,
            text: say(`kind.${one}`),
          }))}
        />
        <Check name="kind_confirmed" label="ship-to.kind-confirmed" on={confirmed} />
        {deliveryFields.map((name) => (
          <TextField
            key={name}
            name={name}
            label={`order.${name}`}
            value={value(name)}
            most={name === "instructions" ? 200 : name === "opening_hours" ? 120 : 60}
          />
        ))}
        {(["dock", "forklift"] as const).map((name) => (
          <Choice
            key={name}
            name={name}
            label={`order.${name}`}
            value={value(name) || "unknown"}
            options={(["unknown", "yes", "no"] as const).map((one) => ({ value: one, text: say(`known.${one}`) }))}
          />
        ))}
        {termFields.map((name) =>
          !order.abroad ? (
            <input key={name} type="hidden" name={name} value={order.address[name]} />
          ) : name === "incoterm" ? (
            <Choice
              key={name}
              name={name}
              label={`order.${name}`}
              value={String(order.address[name])}
              options={[
                { value: "", text: "–" },
                ...Object.entries(incoterms).map(([code, rule]) => ({ value: code, text: `${code} ${rule.title}` })),
              ]}
            />
          ) : (
            <TextField key={name} name={name} label={`order.${name}`} value={String(order.address[name])} most={60} />
          ),
        )}
        <Button type="submit" disabled={busy || !order.mayWork || done}>
          {say("order.save")}
        </Button>
      </ActForm>
      {order.mayWork && !done ? (
        <>
          <Act sends={{ version }} className="buttons">
            <Button type="submit" name="intent" value="propose" disabled={busy || held !== null}>
              {say("ship-to.check")}
            </Button>
            {held !== null ? <small className="field-note">{say("ship-to.save-first")}</small> : null}
          </Act>
          {proposal ? <Proposed proposal={proposal} version={version} kind={kind} confirmed={confirmed} /> : null}
          <ActForm intent="to-book" className="buttons to-book">
            <TextField name="code" label="ship-to.code" most={24} id="book-code" />
            <Button type="submit" disabled={busy || held !== null}>
              {say("ship-to.to-book")}
            </Button>
          </ActForm>
        </>
      ) : null}
    </section>
  )
}

/** What the address service says, and the one step that takes it. */
function Proposed({
  proposal,
  version,
  kind,
  confirmed,
}: {
  proposal: Proposal
  version: number
  kind: string
  confirmed: boolean
}) {
  if (proposal.status === "unknown") return <p role="status">{say("ship-to.not-known")}</p>
  const otherKind = proposal.kind !== "unknown" && (proposal.kind !== kind || !confirmed)
  return (
    <div className="proposal" role="status">
      <p>{say(proposal.status === "confirmed" ? "ship-to.is-right" : "ship-to.is-otherwise")}</p>
      <ul>
        {proposal.changes.map((one) => (
          <li key={one.field}>
            {wordFor("order", one.field)}: {one.from || "–"} → <b>{one.to || "–"}</b>
          </li>
        ))}
        {otherKind ? <li>{say("ship-to.kind-is", { kind: say(`kind.${proposal.kind}`) })}</li> : null}
      </ul>
      {proposal.changes.length > 0 || otherKind ? (
        <Act sends={{ version }}>
          <Button type="submit" name="intent" value="confirm" variant="solid">
            {say("ship-to.take")}
          </Button>
        </Act>
      ) : null}
    </div>
  )
}

/** A column of the order as an address of the directory has it; null for what it does not say. */
function fromBook(book: BookAddress, name: string): string | null {
  // the address service knows places, not who is there
  if (book.id < 0 && !["street", "city", "state", "postal_code", "country"].includes(name)) return null
  const named: Readonly<Record<string, string>> = {
    company: book.company,
    attention: book.attention,
    street: book.street,
    street2: book.street2,
    city: book.city,
    state: book.state,
    postal_code: book.postalCode,
    country: book.country,
    phone: book.phone,
    building: book.building,
    instructions: book.instructions,
    opening_hours: book.openingHours,
    dock: book.dock,
    forklift: book.forklift,
  }
  return named[name] ?? null
}
