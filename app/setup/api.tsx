import { Button, Input, NativeSelect } from "@chakra-ui/react"
import { useNavigation } from "react-router"
import { addToken, newTokenForm, revokeToken, tokenRights, tokens } from "server/accounts/tokens.ts"
import { openApi } from "server/api/openapi.ts"
import { workContext } from "server/http/context.ts"
import { warehouses } from "server/setup/warehouse.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { act, always, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
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
  return answerTo(request, context.get(workContext), {
    add: act(
      newTokenForm.extend({ rights: newTokenForm.shape.rights.prefault([]) }),
      addToken,
      ({ token }, { name }) => ({
        ...done(say("api.added", { name })),
        token,
      }),
    ),
    revoke: act(
      z.object({ id: field.id }),
      (work, { id }) => always(revokeToken(work, id)),
      () => say("api.revoked"),
    ),
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
          <ActForm intent="add" id="new-token">
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
          </ActForm>
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
                  <Act intent="revoke" sends={{ id: one.id }}>
                    <Button type="submit" aria-label={`${say("api.revoke")} ${one.name}`}>
                      {say("api.revoke")}
                    </Button>
                  </Act>
                )}
              </li>
            ))}
          </ul>
        </section>
      </div>
    </Screen>
  )
}
