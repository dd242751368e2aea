import { Button } from "@chakra-ui/react"
import { addAddress, addressesFor, closingWait, removeAddress, setClosingWait } from "server/dock/handover.ts"
import { workContext } from "server/http/context.ts"
import { carrierNames } from "server/setup/carriers.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { Table } from "../parts/Table.tsx"
import { act, always, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/handover"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

const purposes = ["forms", "collections"] as const

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "warehouse.manage")
  const [wait, forms, collections, carriers] = await Promise.all([
    closingWait(work.db, work.warehouse.id),
    addressesFor(work.db, work.warehouse.id, "forms"),
    addressesFor(work.db, work.warehouse.id, "collections"),
    carrierNames(work.db),
  ])
  return { name: work.warehouse.name, wait, told: { forms, collections }, carriers, rights: setUpRights(work.actor) }
}

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    wait: act(
      z.object({ minutes: field.count }),
      (work, { minutes }) => setClosingWait(work, minutes),
      () => say("handover.saved"),
    ),
    add: act(
      z.object({ email: field.text(120), carrier: field.text(8), purpose: z.enum(purposes) }),
      (work, { email, carrier, purpose }) => addAddress(work, { email, carrier: carrier || null, purpose }),
      ({ email }) => say("handover.added", { email }),
    ),
    remove: act(z.object({ address: field.id }), (work, { address }) => always(removeAddress(work, address))),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.handover")} · ${say("app.name")}` }]

export default function HandoverSetUp({ loaderData: at, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  return (
    <Screen
      ribbon={{}}
      name="handover"
      sill={{
        plate: {
          verb: say("handover.plate", { name: at.name }),
          detail: say("handover.plate-detail"),
          ready: true,
          form: "wait-form",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.handover" rights={at.rights} />
      <section className="handover-part">
        <h2>{say("handover.wait-title")}</h2>
        <p className="note">{say("handover.wait-note")}</p>
        <ActForm intent="wait" id="wait-form" className="in-row">
          <TextField name="minutes" label="handover.minutes" value={String(at.wait)} mode="numeric" most={3} needed />
          <Button type="submit">{say("handover.save")}</Button>
        </ActForm>
      </section>
      {purposes.map((purpose) => (
        <Told key={purpose} purpose={purpose} addresses={at.told[purpose]} carriers={at.carriers} />
      ))}
    </Screen>
  )
}

type At = Route.ComponentProps["loaderData"]

const wordsOf = {
  forms: { title: "handover.addresses", note: "handover.addresses-note", none: "handover.none" },
  collections: { title: "handover.collections", note: "handover.collections-note", none: "handover.none-collections" },
} as const

/** Who is written to for one purpose. */
function Told({
  purpose,
  addresses,
  carriers,
}: {
  purpose: (typeof purposes)[number]
  addresses: At["told"]["forms"]
  carriers: At["carriers"]
}) {
  const words = wordsOf[purpose]
  return (
    <section className="handover-part">
      <h2>{say(words.title)}</h2>
      <p className="note">{say(words.note)}</p>
      <ActForm
        intent="add"
        id={`add-${purpose}`}
        sends={{ purpose }}
        className="in-row"
        key={addresses.map((one) => one.id).join()}
      >
        <TextField name="email" id={`email-${purpose}`} label="handover.email" type="email" most={120} needed />
        <Choice
          name="carrier"
          id={`carrier-${purpose}`}
          label="handover.carrier"
          value=""
          options={[
            { value: "", text: say("handover.all-carriers") },
            ...carriers.map((one) => ({ value: one.code, text: one.name })),
          ]}
        />
        <Button type="submit">{say("handover.add")}</Button>
      </ActForm>
      {addresses.length === 0 ? (
        <p className="nothing">{say(words.none)}</p>
      ) : (
        <Table
          caption={say(words.title)}
          rows={addresses}
          rowKey={(one) => one.id}
          columns={[
            { name: "email", head: say("handover.email"), heads: true, cell: (one) => one.email },
            {
              name: "carrier",
              head: say("handover.carrier"),
              cell: (one) => one.carrier ?? say("handover.all-carriers"),
            },
            {
              name: "remove",
              head: "",
              className: "acts",
              cell: (one) => (
                <Act intent="remove" sends={{ address: one.id }}>
                  <button
                    type="submit"
                    className="as-link"
                    aria-label={`${say("handover.remove")} ${one.email} ${one.carrier ?? ""}`.trim()}
                  >
                    {say("handover.remove")}
                  </button>
                </Act>
              ),
            },
          ]}
        />
      )}
    </section>
  )
}
