import { Button } from "@chakra-ui/react"
import { settingNames } from "core/rules/index.ts"
import { useState } from "react"
import { Form, useNavigation } from "react-router"
import { dropPattern, savePattern } from "server/decisions/rules.ts"
import { workContext } from "server/http/context.ts"
import { patternRows } from "server/rules/book.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { TextField } from "../parts/Fields.tsx"
import { SettingsFields } from "../parts/SettingsFields.tsx"
import { settingChoices } from "../parts/settingChoices.server.ts"
import { settingsFrom, settingWords } from "../parts/settingsForm.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow, withRights } from "../shell/work.ts"
import type { Route } from "./+types/patterns"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "rules.manage")
  return {
    rights: setUpRights(work.actor),
    patterns: await patternRows(work.db),
    choices: await settingChoices(work.db),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const form = await request.formData()
  const id = Number(form.get("id")) || null
  return withRights(async () => {
    switch (form.get("intent")) {
      case "save": {
        const outcome = await savePattern(work, {
          id,
          version: Number(form.get("version")) || 0,
          name: String(form.get("name") ?? ""),
          settings: settingsFrom(form),
        })
        return outcome.ok ? done(say("pattern.saved")) : refusal(sayReasons(outcome.reasons))
      }
      case "drop": {
        const outcome = await dropPattern(work, id ?? 0)
        return outcome.ok ? done(say("pattern.dropped")) : refusal(sayReasons(outcome.reasons))
      }
      default:
        return followScan(work, String(form.get("text") ?? "").slice(0, 120))
    }
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.patterns")} · ${say("app.name")}` }]

export default function Patterns({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  const { patterns, choices, rights } = loaderData
  const [chosen, setChosen] = useState<number | null>(null)
  const blank = { id: 0, name: "", version: 0, settings: {} }
  const open = patterns.find((one) => one.id === chosen) ?? (chosen === 0 ? blank : patterns[0]) ?? blank
  return (
    <Screen
      ribbon={{}}
      name="rules"
      sill={{
        plate: {
          verb: say(open.id === 0 ? "pattern.plate-new" : "pattern.plate"),
          detail: say("pattern.plate-detail"),
          ready: true,
          form: "pattern-form",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.patterns" rights={rights} />
      <div className="two wide-left">
        <section className="scrolls">
          <p className="note">{say("pattern.note")}</p>
          {patterns.length === 0 ? <p>{say("pattern.none")}</p> : null}
          <table className="rows">
            <caption className="sr-only">{say("setup.patterns")}</caption>
            <tbody>
              {patterns.map((one) => (
                <tr key={one.id} className={one.id === open.id ? "next" : undefined}>
                  <th scope="row">
                    <button type="button" className="as-link" onClick={() => setChosen(one.id)}>
                      {one.name}
                    </button>
                  </th>
                  <td>
                    {settingNames
                      .filter((name) => one.settings[name] !== undefined)
                      .map((name) => `${say(`setting.${name}`)} ${settingWords(name, one.settings[name], choices)}`)
                      .join(", ")}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <Button type="button" onClick={() => setChosen(0)}>
            {say("pattern.new")}
          </Button>
        </section>
        <section className="item-edit" key={`${open.id} ${open.version}`}>
          <Form method="post" id="pattern-form">
            <input type="hidden" name="intent" value="save" />
            <input type="hidden" name="id" value={open.id} />
            <input type="hidden" name="version" value={open.version} />
            <TextField name="name" label="pattern.name" value={open.name} most={40} needed />
            <SettingsFields settings={open.settings} choices={choices} />
            <Button type="submit" disabled={busy}>
              {say("shifts.save")}
            </Button>
          </Form>
          {open.id > 0 ? (
            <Form method="post">
              <input type="hidden" name="intent" value="drop" />
              <input type="hidden" name="id" value={open.id} />
              <button type="submit" className="as-link">
                {say("pattern.drop")}
              </button>
            </Form>
          ) : null}
        </section>
      </div>
    </Screen>
  )
}
