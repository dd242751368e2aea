import { Button, Input, NativeSelect } from "@chakra-ui/react"
import { Form, useNavigation } from "react-router"
import { addToken, newTokenForm, revokeToken, tokenRights, tokens } from "server/accounts/tokens.ts"
import { openApi } from "server/api/openapi.ts"
import { workContext } from "server/http/context.ts"
import { warehouses } from "server/setup/warehouse.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayIssues, sayReasons } from "words/reasons.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow, withRights } from "../shell/work.ts"
import type { Route } from "./+types/api"
import { type OpenApiDocument, Reference } from "./Reference.tsx"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "tokens.manage")
  return {
    tokens: (await tokens(work)).map((one) => ({ ...one, over: one.expiresAt.getTime() < Date.now() })),
    places: await warehouses(work.db),
    allRights: [...tokenRights],
    reference: openApi() as unknown as OpenApiDocument,
    rights: setUpRights(work.actor),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const form = await request.formData()
  return withRights(async () => {
    switch (form.get("intent")) {
      case "add": {
        const read = newTokenForm.safeParse({
          ...Object.fromEntries(form),
          rights: form.getAll("rights").map(String),
        })
        if (!read.success) return refusal(sayIssues(read.error.issues))
        const outcome = await addToken(work, read.data)
        if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
        return { ...done(say("api.added", { name: read.data.name })), token: outcome.value.token }
      }
      case "revoke":
        await revokeToken(work, Number(form.get("id")))
        return done(say("api.revoked"))
      default:
        return followScan(work, String(form.get("text") ?? "").slice(0, 120))
    }
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.api")} · ${say("app.name")}` }]

const day = (at: Date) => shortDay(at.toISOString().slice(0, 10))

export default function Api({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  const made = actionData && "token" in actionData ? String(actionData.token) : null
  return (
    <Screen
      ribbon={{}}
      name="api"
      sill={{
        plate: { verb: say("api.plate"), detail: say("api.plate-detail"), ready: true, form: "new-token" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.api" rights={loaderData.rights}>
        <a href="/api/v1/openapi.json" target="_blank" rel="noreferrer">
          {say("api.openapi")}
        </a>
      </SetUpHead>
      <div className="two">
        <section className="scrolls">
          <Reference of={loaderData.reference} />
        </section>
        <section className="item-edit">
          <h2>{say("api.new")}</h2>
          <Form method="post" id="new-token">
            <input type="hidden" name="intent" value="add" />
            <div className="field">
              <label htmlFor="token-name">{say("api.name")}</label>
              <Input id="token-name" name="name" maxLength={60} required />
            </div>
            <fieldset className="field">
              <legend>{say("api.rights")}</legend>
              {loaderData.allRights.map((right) => (
                <label key={right} className="check" htmlFor={right}>
                  <input id={right} type="checkbox" name="rights" value={right} defaultChecked />{" "}
                  {say(`api.right.${right}`)}
                </label>
              ))}
            </fieldset>
            <div className="field">
              <label htmlFor="token-warehouse">{say("api.warehouse")}</label>
              <NativeSelect.Root>
                <NativeSelect.Field id="token-warehouse" name="warehouse">
                  {loaderData.places.map((place) => (
                    <option key={place.id} value={place.id}>
                      {place.name}
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </div>
            <div className="field">
              <label htmlFor="token-follows">{say("api.follows")}</label>
              <NativeSelect.Root>
                <NativeSelect.Field id="token-follows" name="follows">
                  <option value="0">{say("api.follows-none")}</option>
                  {loaderData.tokens.map((one) => (
                    <option key={one.id} value={one.id}>
                      {one.name}, {one.warehouse}
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </div>
            <div className="field">
              <label htmlFor="token-days">{say("api.days")}</label>
              <Input id="token-days" name="days" type="number" min={1} max={730} defaultValue={90} />
            </div>
            <Button type="submit" disabled={busy}>
              {say("api.add")}
            </Button>
          </Form>
          {made ? (
            <p className="made-token" role="status">
              {say("api.once")}
              <code>{made}</code>
            </p>
          ) : null}
          <h2>{say("api.tokens")}</h2>
          {loaderData.tokens.length === 0 ? <p>{say("api.none")}</p> : null}
          <ul className="jobs">
            {loaderData.tokens.map((one) => (
              <li key={one.id} className={one.revokedAt || one.over ? "pale" : undefined}>
                <b>{one.name}</b>
                <span>
                  {one.rights.map((right) => say(`api.right.${right}`)).join(", ")}, {one.warehouse}
                </span>
                <span>
                  {one.revokedAt
                    ? say("api.is-revoked", { day: day(one.revokedAt) })
                    : say(one.over ? "api.is-over" : "api.until", { day: day(one.expiresAt) })}
                  , {one.usedAt ? say("api.used", { day: day(one.usedAt) }) : say("api.unused")}
                </span>
                {one.revokedAt || one.over ? null : (
                  <Form method="post">
                    <input type="hidden" name="intent" value="revoke" />
                    <input type="hidden" name="id" value={one.id} />
                    <Button type="submit" aria-label={`${say("api.revoke")} ${one.name}`}>
                      {say("api.revoke")}
                    </Button>
                  </Form>
                )}
              </li>
            ))}
          </ul>
        </section>
      </div>
    </Screen>
  )
}
