import { Button } from "@chakra-ui/react"
import { settingNames } from "core/rules/index.ts"
import { useState } from "react"
import { useNavigation } from "react-router"
import { dropPattern, savePattern } from "server/decisions/rules.ts"
import { workContext } from "server/http/context.ts"
import { patternRows } from "server/rules/book.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { SettingsFields } from "../parts/SettingsFields.tsx"
import { settingChoices } from "../parts/settingChoices.server.ts"
import { settingsFrom, settingWords } from "../parts/settingsForm.ts"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
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
  return answerTo(request, context.get(workContext), {
    save: act(
      z.object({ id: field.id, version: field.version, name: field.text() }),
      (work, { id, version, name }, { form }) =>
        savePattern(work, { id: id || null, version, name, settings: settingsFrom(form) }),
      () => say("pattern.saved"),
    ),
    drop: act(
      z.object({ id: field.id }),
      (work, { id }) => dropPattern(work, id),
      () => say("pattern.dropped"),
    ),
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
          <Table
            caption={say("setup.patterns")}
            headless
            rows={patterns}
            rowKey={(one) => one.id}
            rowClass={(one) => (one.id === open.id ? "next" : undefined)}
            columns={[
              {
                name: "name",
                head: "",
                heads: true,
                cell: (one) => (
                  <button type="button" className="as-link" onClick={() => setChosen(one.id)}>
                    {one.name}
                  </button>
                ),
              },
              {
                name: "sets",
                head: "",
                cell: (one) =>
                  settingNames
                    .filter((name) => one.settings[name] !== undefined)
                    .map((name) => `${say(`setting.${name}`)} ${settingWords(name, one.settings[name], choices)}`)
                    .join(", "),
              },
            ]}
          />
          <Button type="button" onClick={() => setChosen(0)}>
            {say("pattern.new")}
          </Button>
        </section>
        <section className="item-edit" key={`${open.id} ${open.version}`}>
          <ActForm intent="save" sends={{ id: open.id, version: open.version }} id="pattern-form">
            <TextField name="name" label="pattern.name" value={open.name} most={40} needed />
            <SettingsFields settings={open.settings} choices={choices} />
            <Button type="submit" disabled={busy}>
              {say("shifts.save")}
            </Button>
          </ActForm>
          {open.id > 0 ? (
            <Act intent="drop" sends={{ id: open.id }}>
              <button type="submit" className="as-link">
                {say("pattern.drop")}
              </button>
            </Act>
          ) : null}
        </section>
      </div>
    </Screen>
  )
}
