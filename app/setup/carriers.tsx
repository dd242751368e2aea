import { Button } from "@chakra-ui/react"
import { localDate } from "core/calendar/index.ts"
import { data, Form, Link, redirect, useSearchParams } from "react-router"
import { FileRefused } from "server/formats/orderRow.ts"
import { wholeText } from "server/formats/text.ts"
import { workContext } from "server/http/context.ts"
import { importDeliveries } from "server/rating/onTime.ts"
import { importTariff, versionRows } from "server/rating/versions.ts"
import { carrierForm, carrierRows, saveCarrier } from "server/setup/carriers.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayIssues, sayReason, sayReasons } from "words/reasons.ts"
import { TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { Screen } from "../shell/Screen.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { readUpload } from "../shell/upload.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow, withRights } from "../shell/work.ts"
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
  return withRights(async () => {
    if ((request.headers.get("content-type") ?? "").startsWith("multipart/form-data")) {
      try {
        const outcome = await readUpload(request, async (file, _name, values) => {
          const text = await wholeText(file, largest)
          if (values.kind === "deliveries") return importDeliveries(work, text)
          const code = String(values.carrier ?? "")
          const imported = await importTariff(work, code, text)
          return imported.ok ? { ...imported, code } : imported
        })
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        if (!("code" in outcome))
          return done(say("delivery.taken", { n: (outcome.value as { packages: number }).packages }))
        throw redirect(`/set-up/carriers/${outcome.code}/${outcome.value.number}`)
      } catch (error) {
        if (error instanceof FileRefused) return refusal(sayReason(error.reason))
        throw error
      }
    }
    const form = await request.formData()
    if (form.get("intent") !== "carrier") return followScan(work, String(form.get("text") ?? "").slice(0, 120))
    const fields = carrierForm.safeParse(Object.fromEntries(form))
    if (!fields.success) return refusal(sayIssues(fields.error.issues))
    const outcome = await saveCarrier(work, fields.data)
    return outcome.ok ? done(say("carrier.saved")) : refusal(sayReasons(outcome.reasons))
  })
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
          <table className="rows">
            <thead>
              <tr>
                <th scope="col">{say("carrier.name")}</th>
                <th scope="col" className="figure">
                  {say("carrier.services")}
                </th>
                <th scope="col">{say("carrier.in-force")}</th>
                <th scope="col" className="figure">
                  {say("carrier.balance")}
                </th>
              </tr>
            </thead>
            <tbody>
              {at.carriers.map((one) => (
                <tr key={one.code} className={one.code === open.code ? "next" : undefined}>
                  <th scope="row">
                    <Link to={`?carrier=${one.code}`} replace={search.has("carrier")} preventScrollReset>
                      {one.name}
                    </Link>{" "}
                    <span className="code">{one.code}</span>
                  </th>
                  <td className="figure">{one.services}</td>
                  <td className={one.version ? undefined : "ember"}>
                    {one.version
                      ? say("carrier.version", { n: one.version.number, from: shortDay(one.version.from) })
                      : say("carrier.no-version")}
                    {one.drafts > 0 ? `, ${say("carrier.drafts", { n: one.drafts })}` : ""}
                  </td>
                  <td className="figure">{one.balance ?? ""}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section className="item-edit" key={open.code}>
          <h2>{open.name}</h2>
          <Form id="carrier-form" method="post">
            <input type="hidden" name="intent" value="carrier" />
            <input type="hidden" name="code" value={open.code} />
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
          </Form>
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
