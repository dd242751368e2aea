import { Button, Input } from "@chakra-ui/react"
import { noPreferences, type Preferences } from "core/preferences/index.ts"
import { reason, refused } from "core/refusal/index.ts"
import { redirect, redirectDocument, useNavigation } from "react-router"
import { passwordLength } from "server/accounts/passwords.ts"
import {
  changeOwnPassword,
  changeOwnReader,
  ownPasswordForm,
  readerForm,
  sessionTimes,
} from "server/accounts/sessions.ts"
import { accountOf } from "server/accounts/users.ts"
import { authorise, may } from "server/actors/index.ts"
import { benchesOf, printersOf, saveUses, usesOf } from "server/documents/setUp.ts"
import { frameContext, workContext } from "server/http/context.ts"
import { benchCookie, sessionToken } from "server/http/cookies.ts"
import { countSignIn, forgetSignIns } from "server/http/signInLimit.ts"
import { preferencesAt, savePreferences, worksAt } from "server/setup/preferences.ts"
import { type MessageKey, say } from "words/index.ts"
import { clocks, languages, reader } from "words/language.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice } from "../parts/Fields.tsx"
import { type PreferenceChoices, PreferenceFields } from "../parts/PreferenceFields.tsx"
import { beyondOf, preferenceChoices, preferencesFrom } from "../parts/preferences.server.ts"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import type { Route } from "./+types/account"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  const user = await accountOf(work.db, work.actor.userId as number)
  const prints = may(work.actor, "orders.work")
  const said = prints ? await preferencesAt(work.db, worksAt(work)) : []
  return {
    ...user,
    workplace: prints
      ? {
          benches: await benchesOf(work.db, work.warehouse.id),
          benchId: work.benchId ?? 0,
          printers: (await printersOf(work)).filter((one) => one.active).map(({ id, name }) => ({ id, name })),
          uses: await usesOf(work, "own"),
          own: said.find((one) => one.by.kind === "user")?.body ?? noPreferences,
          beyond: beyondOf(said.filter((one) => one.by.kind !== "user")),
          choices: await preferenceChoices(work.db),
        }
      : null,
    role: work.actor.role,
    reader: reader(),
    least: passwordLength.least,
    times: await sessionTimes(work.db),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  return answerTo(request, work, {
    reader: act(readerForm, async (_, reader) => {
      await changeOwnReader(work, reader)
      throw redirectDocument("/account")
    }),
    bench: act(z.object({ bench: field.id }), async (_, { bench }) => {
      authorise(work.actor, "orders.work")
      const own = (await benchesOf(work.db, work.warehouse.id)).find((one) => one.id === bench)
      if (bench !== 0 && !own) return refused(reason("printer.gone"))
      throw redirect("/account", {
        headers: { "set-cookie": await benchCookie(bench, context.get(frameContext).secure) },
      })
    }),
    "own-printers": act(
      z.object({ labels: field.id, papers: field.id }),
      (_, chosen) =>
        saveUses(
          work,
          "own",
          (["labels", "papers"] as const).flatMap((kind) =>
            chosen[kind] ? [{ kind, benchId: 0, printerId: chosen[kind] }] : [],
          ),
        ),
      () => say("printer.uses-saved"),
    ),
    preferences: act(
      z.looseObject({}),
      (_, __, { form }) => savePreferences(work, "own", preferencesFrom(form)),
      () => say("preference.saved"),
    ),
    password: act(
      ownPasswordForm,
      async (_, typed) => {
        // whoever sits down at a screen that was left open may not try passwords at will
        const tried = { username: `own ${work.actor.userId}`, address: "account", device: null }
        const wait = await countSignIn(work.db, tried)
        if (wait !== null) return refused(reason("sign-in.too-many", { seconds: wait }))
        const outcome = await changeOwnPassword(work, (await sessionToken(request)) ?? "", typed)
        if (outcome.ok) await forgetSignIns(work.db, tried)
        return outcome
      },
      () => say("account.changed"),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("account.title")} · ${say("app.name")}` }]

export default function Account({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  const key = actionData && !actionData.answer.refused ? actionData.answer.key : "first"
  return (
    <Screen
      ribbon={{}}
      name="account"
      sill={{
        plate: { verb: say("account.plate"), detail: say("account.plate-detail"), ready: true, form: "password-form" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{loaderData.name}</h1>
        <p>
          {loaderData.username}, {say(`role.${loaderData.role}`)}
        </p>
      </div>
      <div className="two">
        <section className="item-edit pad">
          <h2>{say("account.password")}</h2>
          <Act intent="password" id="password-form" key={key}>
            <input type="hidden" name="username" autoComplete="username" value={loaderData.username} />
            <Secret name="present" label="account.present" complete="current-password" />
            <Secret name="password" label="account.new" complete="new-password" />
            <Secret name="again" label="account.again" complete="new-password" />
            <Button type="submit" disabled={busy}>
              {say("account.save")}
            </Button>
          </Act>
          {loaderData.workplace ? <OwnDefaults {...loaderData.workplace} /> : null}
        </section>
        <section>
          <ActForm
            intent="reader"
            className="account-reader"
            key={`${loaderData.reader.language} ${loaderData.reader.clock}`}
          >
            <h2>{say("account.reader")}</h2>

            <Choice
              name="language"
              label="account.language"
              value={loaderData.reader.language}
              options={languages.map((one) => ({ value: one, text: say(`account.language.${one}`) }))}
            />
            <Choice
              name="clock"
              label="account.clock"
              value={loaderData.reader.clock}
              options={clocks.map((one) => ({ value: one, text: say(`account.clock.${one}`) }))}
            />
            <Button type="submit">{say("account.reader-save")}</Button>
          </ActForm>
          {loaderData.workplace ? <Workplace {...loaderData.workplace} /> : null}
          <h2>{say("account.rules")}</h2>
          <ul className="plain">
            <li>{say("account.rule-length", { least: loaderData.least })}</li>
            <li>{say("account.rule-common")}</li>
            <li>{say("account.rule-ends")}</li>
          </ul>
          <h2>{say("account.session")}</h2>
          <p>
            {say("account.session-times", {
              idle: loaderData.times.idleMinutes,
              longest: loaderData.times.longestHours,
            })}
          </p>
        </section>
      </div>
    </Screen>
  )
}

function Secret({ name, label, complete }: { name: string; label: MessageKey; complete: string }) {
  return (
    <div className="field">
      <label htmlFor={`own-${name}`}>{say(label)}</label>
      <Input id={`own-${name}`} name={name} type="password" autoComplete={complete} maxLength={400} required />
    </div>
  )
}

function OwnDefaults({
  own,
  beyond,
  choices,
}: {
  own: Preferences
  beyond: ReturnType<typeof beyondOf>
  choices: PreferenceChoices
}) {
  return (
    <ActForm intent="preferences" className="own-defaults" key={JSON.stringify(own)}>
      <h2>{say("preference.own")}</h2>
      <p className="field-note">{say("preference.note")}</p>
      <PreferenceFields own={own} choices={choices} beyond={beyond} />
      <Button type="submit">{say("preference.save")}</Button>
    </ActForm>
  )
}

interface Named {
  readonly id: number
  readonly name: string
}

/** Where this computer stands, and where this person's labels and papers come out whatever the bench says. */
function Workplace({
  benches,
  benchId,
  printers,
  uses,
}: {
  benches: readonly Named[]
  benchId: number
  printers: readonly Named[]
  uses: readonly { readonly kind: string; readonly printerId: number }[]
}) {
  const choices = (none: string, all: readonly Named[]) => [
    { value: "0", text: none },
    ...all.map((one) => ({ value: String(one.id), text: one.name })),
  ]
  const own = (kind: string) => String(uses.find((one) => one.kind === kind)?.printerId ?? 0)
  return (
    <>
      <ActForm intent="bench" className="account-reader" key={`bench ${benchId}`}>
        <h2>{say("bench.workplace")}</h2>
        <Choice
          name="bench"
          id="workplace-bench"
          label="bench.choose"
          value={String(benchId)}
          options={choices(say("bench.none"), benches)}
        />
        <Button type="submit">{say("bench.choose-save")}</Button>
      </ActForm>
      <ActForm intent="own-printers" className="account-reader" key={`${own("labels")} ${own("papers")}`}>
        <h2>{say("bench.own")}</h2>
        {(["labels", "papers"] as const).map((kind) => (
          <Choice
            key={kind}
            name={kind}
            label={`printer.use.${kind}`}
            value={own(kind)}
            options={choices(say("printer.as-warehouse"), printers)}
          />
        ))}
        <Button type="submit">{say("bench.own-save")}</Button>
      </ActForm>
    </>
  )
}
