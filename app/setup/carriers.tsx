import { Button } from "@chakra-ui/react"
import { localDate } from "core/calendar/index.ts"
import { labelForms } from "core/documents/index.ts"
import { data, Form, Link, redirect, useSearchParams } from "react-router"
import { wholeText } from "server/formats/text.ts"
import { workContext } from "server/http/context.ts"
import { importDeliveries } from "server/rating/onTime.ts"
import { importTariff, versionRows } from "server/rating/versions.ts"
import { carrierForm, carrierRows, saveCarrier } from "server/setup/carriers.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { Table } from "../parts/Table.tsx"
import { act, answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/carriers"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "tariffs.manage")
  const carriers = await carrierRows(work.db, localDate(work.now, work.warehouse.zone))
  const wanted = new URL(request.url).searchParams.get("carrier")
  const open = carriers.find((one) => one.code === wanted) ?? carriers[0] ?? null
  return {
    carriers,
    open,
    versions: open ? await versionRows(work.db, open.id) : [],
    currency: work.warehouse.currency,
    rights: setUpRights(work.actor),
  }
}

/** Most signs of a tariff's file. */
const largest = 4_000_000

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  return answerTo(
    request,
    work,
    { carrier: act(carrierForm, saveCarrier, () => say("carrier.saved")) },
    {
      upload: async (file, _, { kind, carrier = "" }) => {
        const text = await wholeText(file, largest)
        if (kind === "deliveries") {
          const outcome = await importDeliveries(work, text)
          return outcome.ok
            ? done(say("delivery.taken", { n: outcome.value.packages }))
            : refusal(sayReasons(outcome.reasons))
        }
        const outcome = await importTariff(work, carrier, text)
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        throw redirect(`/set-up/carriers/${carrier}/${outcome.value.number}`)
      },
    },
  )
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.carriers")} · ${say("app.name")}` }]

export default function Carriers({ loaderData: at, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const [search] = useSearchParams()
  const { open } = at
  if (!open) throw data(null, { status: 404 })
  return (
    <Screen
      ribbon={{}}
      name="carriers"
      sill={{
        plate: {
          verb: say("carrier.plate", { name: open.name }),
          detail: say("carrier.plate-detail"),
          ready: true,
          form: "carrier-form",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.carriers" rights={at.rights}>
        <a href="/set-up/carriers/schema.json">{say("tariff.schema")}</a>
      </SetUpHead>
      <div className="carriers-body">
        <section>
          <Form method="post" encType="multipart/form-data" className="deliveries">
            <input type="hidden" name="kind" value="deliveries" />
            <label htmlFor="deliveries-file">{say("delivery.file")}</label>
            <FileInput id="deliveries-file" accept=".csv,text/csv" />
            <Button type="submit">{say("delivery.take")}</Button>
          </Form>
          <Table
            rows={at.carriers}
            rowKey={(one) => one.code}
            rowClass={(one) => (one.code === open.code ? "next" : undefined)}
            columns={[
              {
                name: "name",
                head: say("carrier.name"),
                heads: true,
                cell: (one) => (
                  <>
                    <Link to={`?carrier=${one.code}`} replace={search.has("carrier")} preventScrollReset>
                      {one.name}
                    </Link>{" "}
                    <span className="code">{one.code}</span>
                  </>
                ),
              },
              { name: "services", head: say("carrier.services"), className: "figure", cell: (one) => one.services },
              {
                name: "in-force",
                head: say("carrier.in-force"),
                className: (one) => (one.version ? undefined : "ember"),
                cell: (one) => (
                  <>
                    {one.version
                      ? say("carrier.version", { n: one.version.number, from: shortDay(one.version.from) })
                      : say("carrier.no-version")}
                    {one.drafts > 0 ? `, ${say("carrier.drafts", { n: one.drafts })}` : ""}
                  </>
                ),
              },
              { name: "balance", head: say("carrier.balance"), className: "figure", cell: (one) => one.balance ?? "" },
            ]}
          />
        </section>
        <section className="item-edit" key={open.code}>
          <h2>{open.name}</h2>
          <ActForm id="carrier-form" intent="carrier" sends={{ code: open.code }}>
            <TextField name="account" label="carrier.account-label" value={open.account} most={40} needed />
            <TextField
              name="accountForm"
              label="carrier.account-form"
              value={open.accountForm}
              most={40}
              note="carrier.account-form-note"
            />
            <TextField
              name="balance"
              label="carrier.balance-label"
              value={open.balance ?? ""}
              mode="decimal"
              note="carrier.balance-note"
            />
            <TextField
              name="tolerance"
              label="carrier.tolerance"
              value={open.tolerance}
              mode="decimal"
              note="carrier.tolerance-note"
            />
            <TextField
              name="tradeCode"
              label="carrier.trade-code"
              value={open.tradeCode}
              most={4}
              note="carrier.trade-code-note"
            />
            <div className="typed-head">
              <TextField name="proFrom" label="carrier.pro-from" value={open.proFrom} mode="numeric" most={15} />
              <TextField name="proTo" label="carrier.pro-to" value={open.proTo} mode="numeric" most={15} />
            </div>
            {open.proNext ? <p className="field-note">{say("carrier.pro-next", { next: open.proNext })}</p> : null}
            <Choice
              name="labelForm"
              label="carrier.label-form"
              value={open.labelForm}
              options={[
                { value: "", text: say("carrier.label-form-any") },
                ...labelForms.map((one) => ({ value: one, text: say(`form.${one}`) })),
              ]}
            />
          </ActForm>
          <h3>{say("carrier.versions")}</h3>
          <ul className="version-list">
            {at.versions.map((one) => (
              <li key={one.id}>
                <Link to={`/set-up/carriers/${open.code}/${one.number}`}>
                  {say("tariff.version", { n: one.number })}
                </Link>{" "}
                {say(`tariff.state.${one.state}`)},{" "}
                {say(one.validTo ? "tariff.from-to" : "tariff.from", {
                  from: shortDay(one.validFrom),
                  to: one.validTo ? shortDay(one.validTo) : "",
                })}
                , {say("carrier.shipments", { n: one.shipments })}
              </li>
            ))}
          </ul>
          <Form method="post" encType="multipart/form-data">
            <input type="hidden" name="carrier" value={open.code} />
            <label htmlFor="tariff-file">{say("carrier.import")}</label>
            <FileInput id="tariff-file" accept=".json,application/json" />
            <Button type="submit">{say("carrier.import-do")}</Button>
          </Form>
        </section>
      </div>
    </Screen>
  )
}
