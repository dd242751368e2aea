import { Button, Input } from "@chakra-ui/react"
import { comparisons, type RuleField, ruleFields, settingNames } from "core/rules/index.ts"
import { useState } from "react"
import { redirect, useNavigation, useSearchParams } from "react-router"
import { changeRule, type RuleForm, ruleRows, saveRule } from "server/decisions/rules.ts"
import { effectOf, tryRules } from "server/decisions/tryRules.ts"
import { workContext } from "server/http/context.ts"
import { patternRows } from "server/rules/book.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"
import { RuleEffect, RuleTried } from "../parts/RuleAnswers.tsx"
import { SettingsFields } from "../parts/SettingsFields.tsx"
import { settingChoices } from "../parts/settingChoices.server.ts"
import { settingsFrom, settingWords } from "../parts/settingsForm.ts"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/rules"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "rules.manage")
  return {
    rights: setUpRights(work.actor),
    rules: await ruleRows(work.db),
    patterns: (await patternRows(work.db)).map((one) => one.name),
    choices: await settingChoices(work.db),
  }
}

/** A rule as the form says it; whether it makes sense is the use case's to say. */
function ruleFrom(form: FormData): RuleForm {
  const column = (name: string) => form.getAll(`when_${name}`).map(String)
  const [fields, is, values] = (["field", "is", "value"] as const).map(column) as [string[], string[], string[]]
  const text = (name: string) => String(form.get(name) ?? "").trim()
  return {
    id: Number(form.get("id")) || null,
    version: Number(form.get("version")) || 0,
    name: text("name"),
    body: {
      when: fields.map((field, at) => ({ field, is: is[at], value: values[at] ?? "" })),
      does: {
        ...settingsFrom(form),
        ...(text("pattern") ? { pattern: text("pattern") } : {}),
        ...(text("tag") ? { tag: text("tag") } : {}),
        ...(form.get("hold") === "on" ? { hold: true } : {}),
      },
    } as RuleForm["body"],
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const one = z.object({ id: field.id })
  const change = (how: "on" | "off" | "up" | "down" | "drop") =>
    act(
      one,
      (work, { id }) => changeRule(work, id, how),
      () => say(`rule.done.${how}`),
    )
  return answerTo(request, context.get(workContext), {
    save: act(
      one,
      (work, _, { form }) => saveRule(work, ruleFrom(form)),
      ({ id }) => {
        throw redirect(`/set-up/rules?rule=${id}`)
      },
    ),
    try: act(
      one.extend({ orderNumber: field.text() }),
      (work, { id, orderNumber }, { form }) => {
        const { name, body } = ruleFrom(form)
        return tryRules(work, orderNumber, { id: id || null, name, body })
      },
      (tried) => ({ ...done(""), tried }),
    ),
    effect: act(
      one,
      (work, { id }, { form }) => {
        const { name, body } = ruleFrom(form)
        return effectOf(work, { id: id || null, name, body })
      },
      (effect) => ({ ...done(""), effect }),
    ),
    on: change("on"),
    off: change("off"),
    up: change("up"),
    down: change("down"),
    drop: change("drop"),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.rules")} · ${say("app.name")}` }]

type RuleRow = Awaited<ReturnType<typeof loader>>["rules"][number]
const blank: RuleRow = { id: 0, name: "", on: false, version: 0, body: { when: [], does: {} } }

export default function Rules({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  const { rules, patterns, choices, rights } = loaderData
  const asked = useSearchParams()[0].get("rule")
  const [clicked, setChosen] = useState<{ asked: string | null; id: number } | null>(null)
  const chosen = clicked && clicked.asked === asked ? clicked.id : asked === null ? null : Number(asked)
  const open =
    rules.find((one) => one.id === chosen) ?? (chosen === 0 || rules.length === 0 ? blank : rules[0]) ?? blank
  const tried = actionData && "tried" in actionData ? actionData.tried : null
  const effect = actionData && "effect" in actionData ? actionData.effect : null
  return (
    <Screen
      ribbon={{}}
      name="rules"
      sill={{
        plate: {
          verb: open.id === 0 ? say("rule.plate-new") : say("rule.plate"),
          detail: open.on ? say("rule.plate-on") : say("rule.plate-off"),
          ready: true,
          form: "rule-form",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.rules" rights={rights} />
      <div className="rules-body">
        <section>
          <h2>{say("rule.order")}</h2>
          <p className="note">{say("rule.order-note")}</p>
          {rules.length === 0 ? <p>{say("rule.none")}</p> : null}
          <ol className="rule-list">
            {rules.map((rule, index) => (
              <li key={rule.id} className={rule.id === open.id ? "next" : undefined}>
                <span className="rule-name">
                  <b>{index + 1}</b>
                  <button type="button" className="as-link" onClick={() => setChosen({ asked, id: rule.id })}>
                    {rule.name}
                  </button>
                  <span>{say(rule.on ? "rule.is-on" : "rule.is-off")}</span>
                </span>
                <small>{ruleWords(rule.body, choices)}</small>
                <Act sends={{ id: rule.id }} className="rule-acts">
                  {[rule.on ? "off" : "on", "up", "down", "drop"].map((one) => (
                    <button
                      key={one}
                      type="submit"
                      name="intent"
                      value={one}
                      disabled={(one === "up" && index === 0) || (one === "down" && index === rules.length - 1)}
                      aria-label={`${wordFor("rule.do", one)}: ${rule.name}`}
                    >
                      {wordFor("rule.do", one)}
                    </button>
                  ))}
                </Act>
              </li>
            ))}
          </ol>
          <Button type="button" onClick={() => setChosen({ asked, id: 0 })}>
            {say("rule.new")}
          </Button>
        </section>
        <Edit rule={open} patterns={patterns} choices={choices} key={`${open.id} ${open.version}`} />
        <section className="rule-answers" aria-live="polite">
          <div className="rule-try">
            <Button type="submit" form="rule-form" name="intent" value="effect" formNoValidate disabled={busy}>
              {say("rule.effect")}
            </Button>
            <div className="field">
              <label htmlFor="orderNumber">{say("rule.order-number")}</label>
              <Input
                id="orderNumber"
                name="orderNumber"
                form="rule-form"
                maxLength={8}
                inputMode="numeric"
                autoComplete="off"
              />
            </div>
            <Button type="submit" form="rule-form" name="intent" value="try" formNoValidate disabled={busy}>
              {say("rule.try")}
            </Button>
          </div>
          {effect ? <RuleEffect effect={effect} choices={choices} /> : null}
          {tried ? <RuleTried tried={tried} choices={choices} /> : null}
          {!effect && !tried ? <p className="note">{say("rule.try-note")}</p> : null}
        </section>
      </div>
    </Screen>
  )
}

type Choices = Awaited<ReturnType<typeof loader>>["choices"]

/** A rule in one line: when … then …. */
function ruleWords({ when, does }: RuleRow["body"], choices: Choices): string {
  const conditions = when.map((one) =>
    `${say(`rule.field.${one.field}`)} ${say(`rule.is.${one.is}`)} ${one.value}`.trim(),
  )
  const acts = [
    ...settingNames
      .filter((name) => does[name] !== undefined)
      .map((name) => `${say(`setting.${name}`)} ${settingWords(name, does[name], choices)}`),
    does.pattern ? say("rule.pattern-of", { name: does.pattern }) : "",
    does.tag ? say("rule.tag-of", { tag: does.tag }) : "",
    does.hold ? say("rule.hold") : "",
  ].filter(Boolean)
  return say("rule.in-words", {
    when: conditions.length > 0 ? conditions.join(", ") : say("rule.always"),
    does: acts.join(", "),
  })
}

function Edit({ rule, patterns, choices }: { rule: RuleRow; patterns: readonly string[]; choices: Choices }) {
  const [rows, setRows] = useState(() => rule.body.when.map((one, key) => ({ ...one, key })))
  const [next, setNext] = useState(rows.length)
  const change = (key: number, more: Partial<(typeof rows)[number]>) =>
    setRows(rows.map((row) => (row.key === key ? { ...row, ...more } : row)))
  return (
    <ActForm intent="save" sends={{ id: rule.id, version: rule.version }} id="rule-form" className="rule-edit">
      {/* Enter in a field saves, whatever button stands first */}
      <button type="submit" name="intent" value="save" className="sr-only" tabIndex={-1} aria-hidden="true">
        {say("rule.save")}
      </button>

      <TextField name="name" label="rule.name" value={rule.name} most={60} needed />
      <fieldset>
        <legend>{say("rule.when")}</legend>
        {rows.length === 0 ? <p className="note">{say("rule.always-note")}</p> : null}
        {rows.map((row, index) => {
          const kind = ruleFields[row.field]
          return (
            <div key={row.key} className="rule-when">
              <select
                name="when_field"
                value={row.field}
                aria-label={say("rule.row", { what: say("rule.field"), row: index + 1 })}
                onChange={(event) => {
                  const field = event.target.value as RuleField
                  change(row.key, { field, is: comparisons[ruleFields[field]][0], value: "" })
                }}
              >
                {Object.keys(ruleFields).map((field) => (
                  <option key={field} value={field}>
                    {wordFor("rule.field", field)}
                  </option>
                ))}
              </select>
              <select
                name="when_is"
                value={row.is}
                aria-label={say("rule.row", { what: say("rule.comparison-label"), row: index + 1 })}
                onChange={(event) => change(row.key, { is: event.target.value as typeof row.is })}
              >
                {comparisons[kind].map((one) => (
                  <option key={one} value={one}>
                    {say(`rule.is.${one}`)}
                  </option>
                ))}
              </select>
              <input
                name="when_value"
                type={kind === "yes-no" ? "hidden" : "text"}
                value={row.value}
                maxLength={200}
                placeholder={say(`rule.hint.${kind}`)}
                aria-label={say("rule.row", { what: say("rule.value-label"), row: index + 1 })}
                onChange={(event) => change(row.key, { value: event.target.value })}
              />
              <button
                type="button"
                aria-label={say("rule.drop-row", { row: index + 1 })}
                onClick={() => setRows(rows.filter((other) => other !== row))}
              >
                ×
              </button>
            </div>
          )
        })}
        <button
          type="button"
          className="rule-add"
          onClick={() => {
            setRows([...rows, { field: "customer", is: "is", value: "", key: next }])
            setNext(next + 1)
          }}
        >
          {say("rule.add-row")}
        </button>
      </fieldset>
      <fieldset>
        <legend>{say("rule.does")}</legend>
        <div className="rule-does">
          <SettingsFields settings={rule.body.does} choices={choices} />
          <Choice
            name="pattern"
            label="rule.pattern"
            value={rule.body.does.pattern ?? ""}
            options={[
              { value: "", text: say("setting.open") },
              ...patterns.map((name) => ({ value: name, text: name })),
            ]}
          />
          <TextField name="tag" label="rule.tag" value={rule.body.does.tag ?? ""} most={24} />
        </div>
        <Check name="hold" label="rule.hold" on={rule.body.does.hold === true} />
      </fieldset>
    </ActForm>
  )
}
