import { Button, Input } from "@chakra-ui/react"
import { useState } from "react"
import { Form, useNavigation } from "react-router"
import { may } from "server/actors/index.ts"
import {
  type BookAddress,
  bookForm,
  dropAddress,
  findAddresses,
  recentAddresses,
  saveAddress,
} from "server/addresses/book.ts"
import { importAddresses } from "server/addresses/importCsv.ts"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { nameFields } from "../parts/shipToFields.ts"
import { Table } from "../parts/Table.tsx"
import { act, always, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import type { Route } from "./+types/addresses"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  const find = (new URL(request.url).searchParams.get("find") ?? "").slice(0, 80)
  return {
    find,
    addresses: find.trim() ? await findAddresses(work, find, 100) : await recentAddresses(work),
    mayWork: may(work.actor, "orders.work"),
    home: work.warehouse.country,
    rights: setUpRights(work.actor),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  return answerTo(
    request,
    work,
    {
      save: act(
        bookForm.extend({ id: field.id, version: field.version }),
        (_, { id, version, ...address }) => saveAddress(work, address, id ? { id, version } : null),
        () => say("book.saved"),
      ),
      drop: act(
        z.object({ id: field.id }),
        (_, { id }) => always(dropAddress(work, id)),
        () => say("book.dropped"),
      ),
    },
    {
      upload: async (file) => {
        const outcome = await importAddresses(work, file)
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        const { saved, reasons } = outcome.value
        const words = say("book.imported", { n: saved })
        return reasons.length === 0 ? done(words) : refusal(`${words} ${sayReasons(reasons.slice(0, 5))}`)
      },
    },
  )
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.addresses")} · ${say("app.name")}` }]

export default function Addresses({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  const { addresses, find, rights, mayWork, home } = loaderData
  const [chosen, setChosen] = useState<number | "new" | null>(null)
  const open = chosen === "new" ? null : (addresses.find((one) => one.id === chosen) ?? addresses[0] ?? null)
  return (
    <Screen
      ribbon={{}}
      name="addresses"
      sill={{
        plate: mayWork
          ? {
              verb: say(open ? "book.plate" : "book.plate-new"),
              detail: open ? `${open.company} ${open.city}` : say("book.plate-detail"),
              ready: true,
              form: "book-form",
            }
          : { verb: say("plate.nothing"), detail: say("book.read-only"), ready: false },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.addresses" rights={rights}>
        <Form method="get" className="find" role="search">
          <label htmlFor="find">{say("book.find-label")}</label>
          <Input id="find" name="find" defaultValue={find} key={find} maxLength={80} />
          <Button type="submit">{say("orders.find")}</Button>
        </Form>
      </SetUpHead>
      <div className="two wide-left">
        <section className="scrolls">
          {addresses.length === 0 ? <p className="nothing">{say(find ? "book.none" : "book.empty")}</p> : null}
          {addresses.length > 0 ? (
            <Table
              caption={say("setup.addresses")}
              rows={addresses}
              rowKey={(one) => one.id}
              rowClass={(one) => (one === open ? "next" : undefined)}
              columns={[
                {
                  name: "code",
                  head: say("book.head.code"),
                  className: "code",
                  heads: true,
                  cell: (one) => (
                    <button type="button" className="as-link" onClick={() => setChosen(one.id)}>
                      {one.code || `#${one.id}`}
                    </button>
                  ),
                },
                { name: "company", head: say("book.head.company"), cell: (one) => one.company || one.attention },
                { name: "street", head: say("book.head.street"), cell: (one) => one.street },
                {
                  name: "place",
                  head: say("book.head.place"),
                  cell: (one) => (
                    <>
                      {one.city} {one.state || one.country} {one.postalCode}
                    </>
                  ),
                },
                {
                  name: "kind",
                  head: say("book.head.kind"),
                  cell: (one) => (
                    <>
                      {say(`kind.${one.kind}`)}
                      {one.kindConfirmed ? `, ${say("book.sure")}` : ""}
                    </>
                  ),
                },
              ]}
            />
          ) : null}
          {mayWork ? (
            <Form method="post" encType="multipart/form-data" className="upload">
              <label htmlFor="file">{say("book.file")}</label>
              <FileInput id="file" accept=".csv,text/csv" />
              <Button type="submit" disabled={busy}>
                {say("book.import")}
              </Button>
              <a href="/set-up/addresses.csv" download>
                {say("book.export")}
              </a>
            </Form>
          ) : null}
        </section>
        <section className="item-edit">
          <div className="edit-head">
            <h2>{open ? open.company || open.street : say("book.new")}</h2>
            {open && mayWork ? (
              <Button type="button" onClick={() => setChosen("new")}>
                {say("book.new")}
              </Button>
            ) : null}
          </div>
          <Edit
            key={open ? `${open.id} ${open.version}` : "new"}
            address={open}
            home={home}
            busy={busy}
            mayWork={mayWork}
          />
        </section>
      </div>
    </Screen>
  )
}

function Edit({
  address,
  home,
  busy,
  mayWork,
}: {
  address: BookAddress | null
  home: string
  busy: boolean
  mayWork: boolean
}) {
  const value = (name: (typeof nameFields)[number]): string =>
    address ? (name === "postal_code" ? address.postalCode : address[name]) : name === "country" ? home : ""
  return (
    <>
      <ActForm intent="save" sends={{ id: address?.id ?? 0, version: address?.version ?? 0 }} id="book-form">
        <TextField name="code" label="ship-to.code" value={address?.code} most={24} />
        <TextField name="customer" label="field.customer" value={address?.customer} most={60} />
        {nameFields.map((name) => (
          <TextField key={name} name={name} label={`order.${name}`} value={value(name)} most={60} />
        ))}
        <Choice
          name="address_kind"
          label="order.address_kind"
          value={address?.kind ?? "unknown"}
          options={(["unknown", "business", "residential"] as const).map((one) => ({
            value: one,
            text: say(`kind.${one}`),
          }))}
        />
        <TextField name="building" label="order.building" value={address?.building} most={60} />
        <TextField name="instructions" label="order.instructions" value={address?.instructions} most={200} />
        <TextField name="opening_hours" label="order.opening_hours" value={address?.openingHours} most={120} />
        {(["dock", "forklift"] as const).map((name) => (
          <Choice
            key={name}
            name={name}
            label={`order.${name}`}
            value={address?.[name] ?? "unknown"}
            options={(["unknown", "yes", "no"] as const).map((one) => ({ value: one, text: say(`known.${one}`) }))}
          />
        ))}
        <Button type="submit" disabled={busy || !mayWork}>
          {say("book.save")}
        </Button>
      </ActForm>
      {address && mayWork ? (
        <Act intent="drop" sends={{ id: address.id }}>
          <Button type="submit" variant="ghost" disabled={busy}>
            {say("book.drop")}
          </Button>
        </Act>
      ) : null}
    </>
  )
}
