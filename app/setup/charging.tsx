import { Button } from "@chakra-ui/react"
import { payerTerms } from "core/rules/settings.ts"
import { serviceModes } from "core/tariff/index.ts"
import { useState } from "react"
import { redirect, useSearchParams } from "react-router"
import { workContext } from "server/http/context.ts"
import { type ChargingRow, changeCharging, chargingRows, saveCharging } from "server/rating/charging.ts"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/charging"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "charging.manage")
  return { rules: await chargingRows(work.db), rights: setUpRights(work.actor) }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const move = (how: "up" | "down" | "drop") =>
    act(
      z.object({ id: field.id }),
      (_, { id }) => changeCharging(work, id, how),
      () => say("charging.moved"),
    )
  return answerTo(request, work, {
    save: act(
      chargingFields,
      (_, rule) => saveCharging(work, rule),
      ({ id }) => {
        throw redirect(`/set-up/charging?rule=${id}`)
      },
    ),
    up: move("up"),
    down: move("down"),
    drop: move("drop"),
  })
}

const list = field.text(2_000).transform((text) =>
  text
    .toUpperCase()
    .split(/[\s,;]+/)
    .filter(Boolean),
)
const amount = field.text(40).transform((text) => text.replace(",", ".") || "0")
const chargingFields = z
  .object({
    id: field.id,
    version: field.version,
    name: field.text(),
    on: field.tick,
    customers: list,
    countries: list,
    mode: field.many(z.string().max(20)),
    terms: field.many(z.string().max(20)),
    allowance: amount,
    allowancePercent: amount,
    from: field.text(40),
    flat: amount,
    percent: amount,
    amount,
    perPackage: amount,
    least: amount,
    freeFrom: field.text(40).transform((text) => text.replace(",", ".") || null),
    freePer: field.text(20).transform((text) => text || "order"),
  })
  .transform(({ id, version, name, on, mode, ...body }) => ({
    id: id || null,
    version,
    name,
    on,
    body: { ...body, modes: mode },
  }))

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.charging")} · ${say("app.name")}` }]

const blank: ChargingRow = {
  id: 0,
  name: "",
  on: true,
  version: 0,
  body: {
    customers: [],
    modes: [],
    countries: [],
    terms: [],
    allowance: "0",
    allowancePercent: "0",
    from: "contract",
    flat: "0",
    percent: "0",
    amount: "0",
    perPackage: "0",
    freeFrom: null,
    freePer: "order",
    least: "0",
  },
}

/** A rule in the words that explain a charge. */
const inWords = ({
  terms,
  from,
  flat,
  percent,
  amount,
  perPackage,
  allowance,
  allowancePercent,
  freeFrom,
  freePer,
}: ChargingRow["body"]): string =>
  [
    terms.map((one) => say(`payer.${one}`)).join(", "),
    from === "flat" ? sayReason({ code: "charged.flat", values: { figure: flat } }) : say(`charging.from.${from}`),
    Number(percent) === 0 ? "" : `${percent}%`,
    Number(amount) === 0 ? "" : amount,
    Number(perPackage) === 0 ? "" : `${say("charging.per-package")} ${perPackage}`,
    Number(allowance) === 0 ? "" : `${say("charging.allowance")} ${allowance}`,
    Number(allowancePercent) === 0 ? "" : `${say("charging.allowance-percent")} ${allowancePercent}`,
    freeFrom === null ? "" : `${say("charging.free-from")} ${freeFrom} ${say(`charging.free-per.${freePer}`)}`,
  ]
    .filter(Boolean)
    .join(", ")

export default function Charging({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const asked = useSearchParams()[0].get("rule")
  const [clicked, setClicked] = useState<{ asked: string | null; id: number } | null>(null)
  const chosen = clicked?.asked === asked ? clicked.id : Number(asked ?? loaderData.rules[0]?.id ?? 0)
  const open = loaderData.rules.find((one) => one.id === chosen) ?? blank
  const { body } = open
  return (
    <Screen
      ribbon={{}}
      name="charging"
      sill={{
        plate: {
          verb: say("charging.plate"),
          detail: say("charging.plate-detail"),
          ready: true,
          form: "charging-form",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.charging" rights={loaderData.rights} />
      <div className="charging-body">
        <section>
          <h2>{say("charging.order")}</h2>
          {loaderData.rules.length === 0 ? <p>{say("charging.none")}</p> : null}
          <ol className="rule-list">
            {loaderData.rules.map((rule, index) => (
              <li key={rule.id} className={rule.id === open.id ? "next" : undefined}>
                <span className="rule-name">
                  <b>{index + 1}</b>
                  <button type="button" className="as-link" onClick={() => setClicked({ asked, id: rule.id })}>
                    {rule.name}
                  </button>
                  <span>{say(rule.on ? "charging.on" : "charging.off")}</span>
                </span>
                <small>{inWords(rule.body)}</small>
                <Act sends={{ id: rule.id }} className="rule-acts">
                  {(["up", "down", "drop"] as const).map((one) => (
                    <button
                      key={one}
                      type="submit"
                      name="intent"
                      value={one}
                      disabled={
                        (one === "up" && index === 0) || (one === "down" && index === loaderData.rules.length - 1)
                      }
                      aria-label={`${say(`charging.${one}`)}: ${rule.name}`}
                    >
                      {say(`charging.${one}`)}
                    </button>
                  ))}
                </Act>
              </li>
            ))}
          </ol>
          <Button type="button" onClick={() => setClicked({ asked, id: 0 })}>
            {say("charging.new")}
          </Button>
        </section>
        <section>
          <ActForm
            id="charging-form"
            intent="save"
            sends={{ id: open.id, version: open.version }}
            className="stack charging-form"
            key={`${open.id} ${open.version}`}
          >
            <TextField name="name" label="charging.name" value={open.name} most={60} needed />
            <label className="check">
              <input type="checkbox" name="on" defaultChecked={open.on} /> {say("charging.on")}
            </label>
            <TextField name="customers" label="charging.customers" value={body.customers.join(" ")} most={400} />
            <TextField name="countries" label="charging.countries" value={body.countries.join(" ")} most={200} />
            <fieldset className="field quote-options">
              <legend>{say("charging.modes")}</legend>
              {serviceModes.map((mode) => (
                <label key={mode} className="check">
                  <input type="checkbox" name="mode" value={mode} defaultChecked={body.modes.includes(mode)} />{" "}
                  {say(`mode.${mode}`)}
                </label>
              ))}
            </fieldset>
            <fieldset className="field quote-options">
              <legend>{say("charging.terms")}</legend>
              {payerTerms.map((terms) => (
                <label key={terms} className="check">
                  <input type="checkbox" name="terms" value={terms} defaultChecked={body.terms.includes(terms)} />{" "}
                  {say(`payer.${terms}`)}
                </label>
              ))}
            </fieldset>
            <Choice
              name="from"
              label="charging.from"
              value={body.from}
              options={(["contract", "list", "flat", "free"] as const).map((from) => ({
                value: from,
                text: say(`charging.from.${from}`),
              }))}
            />
            <div className="quote-pair">
              <TextField name="flat" label="charging.flat" value={body.flat} mode="decimal" />
              <TextField name="percent" label="charging.percent" value={body.percent} />
              <TextField name="amount" label="charging.amount" value={body.amount} />
              <TextField name="perPackage" label="charging.per-package" value={body.perPackage} mode="decimal" />
              <TextField name="allowance" label="charging.allowance" value={body.allowance} mode="decimal" />
              <TextField
                name="allowancePercent"
                label="charging.allowance-percent"
                value={body.allowancePercent}
                mode="decimal"
              />
              <TextField name="freeFrom" label="charging.free-from" value={body.freeFrom ?? ""} mode="decimal" />
              <Choice
                name="freePer"
                label="charging.free-per"
                value={body.freePer}
                options={(["order", "shipment"] as const).map((per) => ({
                  value: per,
                  text: say(`charging.free-per.${per}`),
                }))}
              />
              <TextField name="least" label="charging.least" value={body.least} mode="decimal" />
            </div>
          </ActForm>
        </section>
      </div>
    </Screen>
  )
}
