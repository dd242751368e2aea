import { Button } from "@chakra-ui/react"
import { serviceModes } from "core/tariff/index.ts"
import { useState } from "react"
import { Form, redirect, useSearchParams } from "react-router"
import { workContext } from "server/http/context.ts"
import { type ChargingRow, changeCharging, chargingRows, saveCharging } from "server/rating/charging.ts"
import { say } from "words/index.ts"
import { sayReason, sayReasons } from "words/reasons.ts"
import { Choice, TextField } from "../parts/Fields.tsx"
import { Screen } from "../shell/Screen.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow, withRights } from "../shell/work.ts"
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
  const form = await request.formData()
  const text = (name: string) =>
    String(form.get(name) ?? "")
      .trim()
      .slice(0, 2_000)
  const list = (name: string) =>
    text(name)
      .toUpperCase()
      .split(/[\s,;]+/)
      .filter(Boolean)
  return withRights(async () => {
    const intent = text("intent")
    switch (intent) {
      case "save": {
        const outcome = await saveCharging(work, {
          id: Number(text("id")) || null,
          version: Number(text("version")),
          name: text("name"),
          on: form.get("on") === "on",
          body: {
            customers: list("customers"),
            countries: list("countries"),
            modes: form.getAll("mode").map(String),
            from: text("from"),
            ...Object.fromEntries(
              (["flat", "percent", "amount", "perPackage", "least"] as const).map((name) => [
                name,
                text(name).replace(",", ".") || "0",
              ]),
            ),
            freeFrom: text("freeFrom").replace(",", ".") || null,
            freePer: text("freePer") || "order",
          },
        })
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        throw redirect(`/set-up/charging?rule=${outcome.value.id}`)
      }
      case "up":
      case "down":
      case "drop": {
        const outcome = await changeCharging(work, Number(text("id")), intent)
        return outcome.ok ? done(say("charging.moved")) : refusal(sayReasons(outcome.reasons))
      }
      default:
        return followScan(work, text("text").slice(0, 120))
    }
  })
}

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
const inWords = ({ from, flat, percent, amount, perPackage, freeFrom, freePer }: ChargingRow["body"]): string =>
  [
    from === "flat" ? sayReason({ code: "charged.flat", values: { figure: flat } }) : say(`charging.from.${from}`),
    Number(percent) === 0 ? "" : `${percent}%`,
    Number(amount) === 0 ? "" : amount,
    Number(perPackage) === 0 ? "" : `${say("charging.per-package")} ${perPackage}`,
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
                <Form method="post" className="rule-acts">
                  <input type="hidden" name="id" value={rule.id} />
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
                </Form>
              </li>
            ))}
          </ol>
          <Button type="button" onClick={() => setClicked({ asked, id: 0 })}>
            {say("charging.new")}
          </Button>
        </section>
        <section>
          <Form id="charging-form" method="post" className="stack charging-form" key={`${open.id} ${open.version}`}>
            <input type="hidden" name="intent" value="save" />
            <input type="hidden" name="id" value={open.id} />
            <input type="hidden" name="version" value={open.version} />
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
          </Form>
        </section>
      </div>
    </Screen>
  )
}
