import { Button } from "@chakra-ui/react"
import { askedTopics, noFacts, topics, ways } from "core/telling/index.ts"
import { useState } from "react"
import { workContext } from "server/http/context.ts"
import { allowAgain, eraseAddress } from "server/telling/blocks.ts"
import {
  type Preview,
  previewTemplate,
  quietOf,
  resetTemplate,
  sampleOrder,
  saveTelling,
  saveTemplate,
  tellingForm,
  templateForm,
  templates,
  testTemplate,
  toldTopics,
} from "server/telling/manage.ts"
import { say } from "words/index.ts"
import { paperLanguages } from "words/papers.ts"
import { z } from "zod"
import { ActForm } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"
import { type Answered, act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/templates"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "customers.manage")
  return {
    rights: setUpRights(work.actor),
    templates: await templates(work.db),
    told: await toldTopics(work.db),
    quiet: await quietOf(work.db, work.warehouse.id),
    sample: await sampleOrder(work.db, work.warehouse.id),
    key: crypto.randomUUID(),
  }
}

/** What was tried, so that it is still there. */
interface Tried extends Answered {
  readonly typed?: z.output<typeof tried>
  readonly preview?: Preview
}

const tried = templateForm.extend({ order: field.text(10), to: field.text(120) })

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    settings: act(tellingForm, saveTelling, () => say("tell.settings-saved")),
    save: act(tried, saveTemplate, () => say("tell.template-saved")),
    reset: act(tried, resetTemplate, () => say("tell.template-was-reset")),
    preview: act(
      tried,
      (work, said) => previewTemplate(work, said, said.order),
      (preview, said): Tried => ({ ...done(say("tell.preview-of", { order: said.order })), preview, typed: said }),
      { kept: (said) => ({ typed: said }) },
    ),
    test: act(
      tried,
      (work, said, { key }) => testTemplate(work, said, said.order, said.to, key),
      ({ to }, said): Tried => ({ ...done(say("tell.test-sent", { to })), typed: said }),
      { kept: (said) => ({ typed: said }) },
    ),
    allow: act(
      z.object({ address: field.text(120) }),
      (work, { address }) => allowAgain(work, address),
      () => say("tell.allowed"),
    ),
    erase: act(
      z.object({ address: field.text(120) }),
      (work, { address }) => eraseAddress(work, address),
      ({ messages }) => say("tell.erased-n", { n: messages }),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.messages")} · ${say("app.name")}` }]

type Data = Route.ComponentProps["loaderData"]
type Answer = Route.ComponentProps["actionData"]

export default function Messages({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { told, quiet, rights } = loaderData
  const { preview } = (actionData ?? {}) as Tried
  return (
    <Screen
      ribbon={{}}
      name="templates"
      sill={{
        plate: { verb: say("tell.template-save"), detail: say("tell.template"), ready: true, form: "template-form" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.messages" rights={rights} />
      <div className="two wide-left">
        <Templates data={loaderData} answered={actionData} />
        <section className="scrolls">
          {preview ? (
            <>
              <h2>{preview.subject || say("tell.preview")}</h2>
              <iframe title={say("tell.preview")} className="mail-preview" sandbox="" srcDoc={preview.html} />
            </>
          ) : null}
          <h2>{say("tell.settings")}</h2>
          <ActForm intent="settings" id="telling-form" className="telling-form" key={told.join()}>
            <fieldset>
              <legend>{say("tell.topics")}</legend>
              {topics
                .filter((topic) => !askedTopics.includes(topic))
                .map((topic) => (
                  <label key={topic} className="tick-line">
                    <input type="checkbox" name="topics" value={topic} defaultChecked={told.includes(topic)} />{" "}
                    {say(`tell.topic.${topic}`)}
                  </label>
                ))}
            </fieldset>
            <fieldset>
              <legend>{say("tell.quiet")}</legend>
              <TextField name="quiet_from" label="tell.quiet-from" value={quiet.from} most={5} />
              <TextField name="quiet_to" label="tell.quiet-to" value={quiet.to} most={5} />
              <Check name="quiet_mail" label="tell.quiet-mail" on={quiet.mail} />
            </fieldset>
            <Button type="submit">{say("tell.save")}</Button>
          </ActForm>
          <h2>{say("tell.privacy")}</h2>
          <ActForm id="privacy-form" className="telling-form">
            <TextField name="address" label="tell.privacy-address" value="" most={120} />
            <span>
              <Button type="submit" name="intent" value="allow">
                {say("tell.allow")}
              </Button>{" "}
              <Button type="submit" name="intent" value="erase" variant="ghost">
                {say("tell.erase")}
              </Button>
            </span>
          </ActForm>
        </section>
      </div>
    </Screen>
  )
}

/** A template of a topic, way and language, with what it says of an order. */
function Templates({ data, answered }: { data: Data; answered: Answer }) {
  const { typed } = (answered ?? {}) as Tried
  const [at, setAt] = useState({
    topic: typed?.topic ?? ("left" as (typeof topics)[number]),
    way: typed?.way ?? ("mail" as (typeof ways)[number]),
    language: typed?.language ?? ("en" as (typeof paperLanguages)[number]),
  })
  const kept = data.templates.find(
    (one) => one.topic === at.topic && one.way === at.way && one.language === at.language,
  )
  if (!kept) return null
  const same = typed && typed.topic === at.topic && typed.way === at.way && typed.language === at.language
  const shown = same ? typed : kept
  return (
    <section className="scrolls">
      <h2>
        {say("tell.template")} <small>{say(kept.version > 0 ? "tell.template-own" : "tell.template-original")}</small>
      </h2>
      <div className="template-choice">
        <Choice
          name="topic-shown"
          label="tell.topic"
          value={at.topic}
          onChange={(value) => setAt({ ...at, topic: topics.find((one) => one === value) ?? at.topic })}
          options={topics.map((value) => ({ value, text: say(`tell.topic.${value}`) }))}
        />
        <Choice
          name="way-shown"
          label="tell.way"
          value={at.way}
          onChange={(value) => setAt({ ...at, way: ways.find((one) => one === value) ?? at.way })}
          options={ways.map((value) => ({ value, text: say(`tell.way.${value}`) }))}
        />
        <Choice
          name="language-shown"
          label="tell.language"
          value={at.language}
          onChange={(value) => setAt({ ...at, language: paperLanguages.find((one) => one === value) ?? at.language })}
          options={paperLanguages.map((value) => ({ value, text: say(`language.${value}`) }))}
        />
      </div>
      <ActForm
        id="template-form"
        className="template-form"
        sends={{ ...at, version: kept.version, key: data.key }}
        key={`${at.topic} ${at.way} ${at.language} ${kept.version}`}
      >
        {at.way === "mail" ? <TextField name="subject" label="tell.subject" value={shown.subject} most={200} /> : null}
        <div className="field">
          <label htmlFor="template-body">{say("tell.body")}</label>
          <textarea id="template-body" name="body" rows={10} defaultValue={shown.body} maxLength={4000} />
        </div>
        <p className="note">{say("tell.help", { names: Object.keys(noFacts).join(", ") })}</p>
        <div className="template-acts">
          <TextField name="order" label="tell.preview-order" value={typed?.order ?? data.sample} most={10} />
          <Button type="submit" name="intent" value="preview">
            {say("tell.preview")}
          </Button>
          <TextField name="to" label="tell.test-to" value={typed?.to ?? ""} most={120} />
          <Button type="submit" name="intent" value="test" variant="ghost">
            {say("tell.test")}
          </Button>
          {kept.version > 0 ? (
            <Button type="submit" name="intent" value="reset" variant="ghost">
              {say("tell.template-reset")}
            </Button>
          ) : null}
          <Button type="submit" name="intent" value="save">
            {say("tell.template-save")}
          </Button>
        </div>
      </ActForm>
    </section>
  )
}
