import { Button, Input } from "@chakra-ui/react"
import { useState } from "react"
import { Form, useNavigation, useSearchParams } from "react-router"
import {
  type CustomerRow,
  customerForm,
  findCustomers,
  mostCustomers,
  saveCustomer,
  saveRouting,
} from "server/decisions/customers.ts"
import { type OwnPaper, ownPapersOf } from "server/documents/ownPapers.ts"
import { workContext } from "server/http/context.ts"
import { saveSlip } from "server/setup/packaging.ts"
import { type Contact, contactForm, contactsOf, removeContact, saveContact } from "server/telling/manage.ts"
import { say } from "words/index.ts"
import { paperLanguages } from "words/papers.ts"
import { z } from "zod"
import { ActForm } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"
import { OwnPapers } from "../parts/OwnPapers.tsx"
import { ownPaperActs, takeOwnPaper } from "../parts/ownPapers.server.ts"
import { SettingsFields } from "../parts/SettingsFields.tsx"
import { settingChoices } from "../parts/settingChoices.server.ts"
import { type SettingChoices, settingsFrom } from "../parts/settingsForm.ts"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/customers"
import { Contacts } from "./Contacts.tsx"
import { MessageFields, messagesFrom } from "./MessageFields.tsx"
import { SetUpHead } from "./SetUp.tsx"
import { SlipFields, slipFrom } from "./SlipFields.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "customers.manage")
  const find = (new URL(request.url).searchParams.get("find") ?? "").slice(0, 100)
  const customers = await findCustomers(work, find)
  return {
    find,
    customers,
    papers: await ownPapersOf(
      work.db,
      "customer",
      customers.map((one) => one.id),
    ),
    whole: customers.length < mostCustomers,
    rights: setUpRights(work.actor),
    choices: await settingChoices(work.db),
    contacts: await contactsOf(
      work.db,
      customers.map((one) => one.id),
    ),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const acts = {
    ...ownPaperActs("customer"),
    contact: act(
      contactForm.extend({ id: field.id }),
      (work, { id, ...said }) => saveContact(work, id, said),
      () => say("tell.contact-saved"),
    ),
    "contact-remove": act(
      z.object({ id: field.id, contact: field.id }),
      (work, { id, contact }) => removeContact(work, id, contact),
      () => say("tell.contact-removed"),
    ),
    routing: act(
      routingFields,
      (work, { id, version, services, join, split, whenShort, minimumLife }, { form }) =>
        saveRouting(
          work,
          { id, version },
          { ...settingsFrom(form), services, join, split, whenShort, minimumLife, messages: messagesFrom(form) },
        ),
      () => say("routing.saved"),
    ),
    slip: act(
      z.object({ id: field.id }),
      (work, { id }, { form }) => saveSlip(work, id, slipFrom(form)),
      () => say("slip.saved"),
    ),
    save: act(customerForm, saveCustomer, ({ freed }) =>
      say(freed === 0 ? "customers.saved" : "customers.freed", { n: freed }),
    ),
  }
  return answerTo(request, work, acts, { upload: takeOwnPaper(work, "customer") })
}

const routingFields = z.object({
  id: field.id,
  version: field.version,
  services: field.many(z.string().max(20)),
  join: field.tick,
  split: field.tick,
  whenShort: field.text(20).transform((text) => text || "any"),
  minimumLife: field.text(8).transform((text) => Number(text || "0")),
})

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.customers")} · ${say("app.name")}` }]

export default function Customers({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { customers, whole, find, rights } = loaderData
  const [search] = useSearchParams()
  const [chosen, setChosen] = useState<string | null>(null)
  const open = customers.find((one) => one.code === (chosen ?? search.get("find"))) ?? customers[0] ?? null
  return (
    <Screen
      ribbon={{}}
      name="customers"
      sill={{
        plate: open
          ? {
              verb: say("customers.plate", { code: open.code }),
              detail: say("customers.plate-detail"),
              ready: true,
              form: "customer-form",
            }
          : { verb: say("plate.nothing"), detail: say("customers.none"), ready: false },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.customers" rights={rights}>
        <Form method="get" className="find" role="search">
          <label htmlFor="find">{say("customers.find-label")}</label>
          <Input id="find" name="find" defaultValue={find} key={find} maxLength={100} />
          <Button type="submit">{say("orders.find")}</Button>
        </Form>
      </SetUpHead>
      {customers.length === 0 ? (
        <p className="nothing">{say("customers.none")}</p>
      ) : (
        <div className="two wide-left">
          <section className="scrolls">
            <Table
              caption={say("setup.customers")}
              rows={customers}
              rowKey={(one) => one.id}
              sorts={whole}
              rowClass={(one) => (one === open ? "next" : undefined)}
              columns={[
                {
                  name: "code",
                  head: say("customers.head.code"),
                  className: "code",
                  heads: true,
                  cell: (one) => (
                    <button type="button" className="as-link" onClick={() => setChosen(one.code)}>
                      {one.code}
                    </button>
                  ),
                },
                { name: "name", head: say("customers.head.name"), cell: (one) => one.name },
                { name: "open", head: say("customers.head.open"), className: "figure", cell: (one) => one.open },
                {
                  name: "credit",
                  head: say("customers.head.credit"),
                  className: "ember",
                  cell: (one) => (one.creditStop ? one.creditNote : ""),
                },
              ]}
            />
          </section>
          {open ? (
            <Edit
              customer={open}
              papers={loaderData.papers.filter((one) => one.ownerId === open.id)}
              contacts={loaderData.contacts.filter((one) => one.customerId === open.id)}
              choices={loaderData.choices}
              mayRoute={rights.rules}
              key={`${open.code} ${open.version}`}
            />
          ) : null}
        </div>
      )}
    </Screen>
  )
}

interface EditProps {
  readonly customer: CustomerRow
  readonly papers: readonly OwnPaper[]
  readonly contacts: readonly Contact[]
  readonly choices: SettingChoices
  readonly mayRoute: boolean
}

function Edit({ customer, papers, contacts, choices, mayRoute }: EditProps) {
  const busy = useNavigation().state !== "idle"
  return (
    <section className="item-edit">
      <h2>{customer.name}</h2>
      <ActForm intent="save" sends={{ id: customer.id, version: customer.version }} id="customer-form">
        <Check name="credit_stop" label="customers.credit_stop" on={customer.creditStop} />
        <TextField name="credit_note" label="customers.credit_note" value={customer.creditNote} most={120} />
        <Check name="blind_ship" label="customers.blind_ship" on={customer.blindShip} />
        <Choice
          name="language"
          label="customers.language"
          value={customer.language}
          options={paperLanguages.map((value) => ({ value, text: say(`language.${value}`) }))}
        />
        <Button type="submit" disabled={busy}>
          {say("customers.save")}
        </Button>
      </ActForm>
      <p className="note">{say("customers.note")}</p>
      <Contacts customerId={customer.id} contacts={contacts} />
      <h2>{say("slip.title")}</h2>
      <ActForm intent="slip" sends={{ id: customer.id }}>
        <SlipFields slip={customer.slip} id="slip" />
        <Button type="submit" disabled={busy}>
          {say("slip.save")}
        </Button>
      </ActForm>
      <OwnPapers owner="customer" id={customer.id} papers={papers} mayChange />
      {mayRoute ? <RoutingForm customer={customer} choices={choices} /> : null}
    </section>
  )
}

/** What the customer's shipments must be sent with, and what is allowed for them. */
function RoutingForm({ customer, choices }: { customer: CustomerRow; choices: SettingChoices }) {
  const busy = useNavigation().state !== "idle"
  const { routing } = customer
  return (
    <ActForm intent="routing" sends={{ id: customer.id, version: customer.version }}>
      <h2>{say("routing.title")}</h2>
      <SettingsFields settings={routing} choices={choices} />
      <fieldset>
        <legend>
          {say("routing.services")} <small>{say("routing.services-note")}</small>
        </legend>
        <div className="routing-services">
          {choices.services.map((one) => (
            <label key={one.code} className="check">
              <input
                type="checkbox"
                name="services"
                value={one.code}
                defaultChecked={routing.services.includes(one.code)}
              />{" "}
              {one.carrier}, {one.name}
            </label>
          ))}
        </div>
      </fieldset>
      <Check name="join" label="routing.join" on={routing.join} />
      <Check name="split" label="routing.split" on={routing.split} />
      <Choice
        name="whenShort"
        label="routing.whenShort"
        value={routing.whenShort}
        options={(["any", "back-order", "wait", "cancel"] as const).map((value) => ({
          value,
          text: say(`routing.whenShort.${value}`),
        }))}
      />
      <TextField
        name="minimumLife"
        label="routing.minimumLife"
        value={String(routing.minimumLife)}
        mode="numeric"
        most={4}
      />
      <MessageFields messages={routing.messages} />
      <Button type="submit" disabled={busy}>
        {say("routing.save")}
      </Button>
    </ActForm>
  )
}
