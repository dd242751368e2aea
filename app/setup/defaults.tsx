import { Button } from "@chakra-ui/react"
import { keptTogether } from "core/packing/index.ts"
import { noPreferences } from "core/preferences/index.ts"
import { Link, useNavigation } from "react-router"
import { may } from "server/actors/index.ts"
import { benchesOf } from "server/documents/setUp.ts"
import { workContext } from "server/http/context.ts"
import { preferencesAt, preferencesOfPlaces, savePreferences } from "server/setup/preferences.ts"
import { saveWays, waysForm } from "server/setup/ways.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { ActForm } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"
import { PreferenceFields } from "../parts/PreferenceFields.tsx"
import { beyondOf, preferenceChoices, preferencesFrom } from "../parts/preferences.server.ts"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/defaults"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "printers.manage")
  const { db, warehouse } = work
  const benches = await benchesOf(db, warehouse.id)
  const wanted = Number(new URL(request.url).searchParams.get("bench")) || 0
  const bench = benches.find((one) => one.id === wanted)?.id ?? 0
  const own = await preferencesOfPlaces(db, warehouse.id)
  return {
    rights: setUpRights(work.actor),
    places: [{ id: 0, name: warehouse.name }, ...benches],
    bench,
    own: own.get(bench) ?? noPreferences,
    beyond: beyondOf(bench === 0 ? [] : await preferencesAt(db, { warehouseId: warehouse.id })),
    choices: await preferenceChoices(db),
    ways: may(work.actor, "warehouse.manage")
      ? {
          pack: warehouse.packInRuns,
          weigh: warehouse.weighAll,
          together: warehouse.keepTogether,
          heavy: warehouse.heavyFirst,
          cold: warehouse.coldLast,
          fill: String(Number((warehouse.fillShare * 100).toFixed(1))),
        }
      : null,
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    save: act(
      z.looseObject({ bench: field.id }),
      (work, { bench }, { form }) => savePreferences(work, { bench }, preferencesFrom(form)),
      () => say("preference.saved"),
    ),
    ways: act(waysForm, saveWays, () => say("preference.saved")),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.defaults")} · ${say("app.name")}` }]

export default function Defaults({ loaderData: at, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  const place = at.places.find((one) => one.id === at.bench)
  return (
    <Screen
      ribbon={{}}
      name="customers"
      sill={{
        plate: {
          verb: say("preference.save"),
          detail: place?.name ?? "",
          ready: true,
          form: "defaults-form",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.defaults" rights={at.rights} />
      <div className="two wide-left">
        <section className="scrolls defaults-of">
          <h2>{place?.name}</h2>
          <ActForm
            intent="save"
            id="defaults-form"
            sends={{ bench: at.bench }}
            key={`${at.bench} ${JSON.stringify(at.own)}`}
          >
            <PreferenceFields own={at.own} choices={at.choices} beyond={at.beyond} />
            <Button type="submit" disabled={busy}>
              {say("preference.save")}
            </Button>
          </ActForm>
        </section>
        <section className="item-edit">
          <h2>{say("preference.place")}</h2>
          <ul className="plain-list">
            {at.places.map((one) => (
              <li key={one.id}>
                <Link
                  to={one.id === 0 ? "?" : `?bench=${one.id}`}
                  aria-current={one.id === at.bench ? "true" : undefined}
                >
                  {one.name}
                </Link>
              </li>
            ))}
          </ul>
          <p className="note aside">{say("preference.note")}</p>
          {at.ways ? (
            <ActForm intent="ways" key={JSON.stringify(at.ways)} className="defaults-ways">
              <h2>{say("ways.title")}</h2>
              <Check name="pack" label="ways.pack" on={at.ways.pack} />
              <Check name="weigh" label="ways.weigh" on={at.ways.weigh} />
              <Check name="heavy" label="ways.heavy" on={at.ways.heavy} />
              <Check name="cold" label="ways.cold" on={at.ways.cold} />
              <Choice
                name="together"
                label="ways.together"
                value={at.ways.together}
                options={keptTogether.map((one) => ({ value: one, text: say(`ways.together.${one}`) }))}
              />
              <TextField name="fill" label="ways.fill" value={at.ways.fill} mode="decimal" most={4} />
              <Button type="submit" disabled={busy}>
                {say("ways.save")}
              </Button>
            </ActForm>
          ) : null}
        </section>
      </div>
    </Screen>
  )
}
