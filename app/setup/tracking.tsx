import { Button } from "@chakra-ui/react"
import { eventKindNames } from "core/tracking/index.ts"
import { allTerms, setClaimTerms, termsForm } from "server/claims/claims.ts"
import { workContext } from "server/http/context.ts"
import { setCode, trackingCodes } from "server/tracking/codes.ts"
import { endPushes, feeds, makePushSecret } from "server/tracking/push.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayTrouble } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/tracking"
import { ClaimTermsForm } from "./ClaimTermsForm.tsx"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "tariffs.manage")
  return {
    rights: setUpRights(work.actor),
    codes: await trackingCodes(work.db),
    feeds: await feeds(work.db),
    terms: await allTerms(work.db),
    hooks: `${new URL(request.url).origin}/hooks/carriers/`,
  }
}

const ofCarrier = z.object({ carrier: field.id, name: field.text(60) })

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    code: act(
      z.object({ carrier: field.id, code: field.text(40), kind: field.text(20) }),
      (work, { carrier, code, kind }) => setCode(work, carrier, code, kind),
      ({ code }) => say("tracking.code-saved", { code }),
    ),
    secret: act(
      ofCarrier,
      (work, { carrier }) => makePushSecret(work, carrier),
      ({ secret, carrier }) => say("tracking.secret-is", { carrier, secret }),
    ),
    terms: act(termsForm, setClaimTerms, ({ carrier }) => say("claim.terms-saved", { carrier })),
    "end-pushes": act(
      ofCarrier,
      (work, { carrier }) => endPushes(work, carrier),
      ({ carrier }) => say("tracking.pushes-ended", { carrier }),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.tracking")} · ${say("app.name")}` }]

export default function Tracking({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const { codes, feeds: carriers, hooks, rights } = loaderData
  return (
    <Screen
      ribbon={{}}
      name="tracking"
      sill={{
        plate: { verb: say("order.plate.day"), detail: "", ready: true, to: "/" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.tracking" rights={rights} />
      <div className="two wide-left">
        <section className="scrolls">
          <h2>{say("tracking.codes")}</h2>
          <p className="note">{say("tracking.codes-what")}</p>
          {codes.length === 0 ? <p>{say("tracking.no-codes")}</p> : null}
          {codes.length > 0 ? (
            <Table
              caption={say("tracking.codes")}
              rows={codes}
              rowKey={(row) => `${row.carrierId} ${row.code}`}
              sorts={false}
              columns={[
                { name: "carrier", head: say("tracking.carrier"), cell: (row) => row.carrier },
                { name: "code", head: say("tracking.code"), className: "code", heads: true, cell: (row) => row.code },
                { name: "text", head: say("tracking.code-text"), cell: (row) => row.text },
                {
                  name: "kind",
                  head: say("tracking.meaning"),
                  cell: (row) => (
                    <ActForm
                      intent="code"
                      sends={{ carrier: row.carrierId, code: row.code }}
                      id={`code-${row.carrierId}-${row.code}`}
                      className="code-form"
                      key={row.kind}
                    >
                      <select
                        name="kind"
                        defaultValue={row.kind ?? ""}
                        aria-label={`${say("tracking.meaning")} ${row.code}`}
                        className={row.kind === null ? "ember" : undefined}
                      >
                        {row.kind === null ? <option value="">{say("tracking.no-meaning")}</option> : null}
                        {eventKindNames.map((kind) => (
                          <option key={kind} value={kind}>
                            {say(`tracking.kind.${kind}`)}
                          </option>
                        ))}
                      </select>
                      <Button type="submit" size="sm" variant="ghost">
                        {say("tracking.save-code")}
                      </Button>
                    </ActForm>
                  ),
                },
              ]}
            />
          ) : null}
        </section>
        <section className="scrolls">
          <h2>{say("tracking.feeds")}</h2>
          <Table
            caption={say("tracking.feeds")}
            rows={carriers}
            rowKey={(row) => row.id}
            sorts={false}
            columns={[
              { name: "name", head: say("tracking.carrier"), heads: true, cell: (row) => row.name },
              {
                name: "pulled",
                head: say("tracking.pull"),
                cell: (row) =>
                  row.trouble ? (
                    <span className="ember">{sayTrouble(row.trouble)}</span>
                  ) : row.askedAt ? (
                    say("tracking.pulled-at", { time: dayAndClock(row.askedAt, zone) })
                  ) : (
                    say("tracking.pulled-never")
                  ),
              },
              {
                name: "push",
                head: say("tracking.push"),
                cell: (row) => (
                  <>
                    {row.pushes ? (
                      <>
                        {say("tracking.push-on")} <span className="code">{`${hooks}${row.code}`}</span>
                      </>
                    ) : (
                      say("tracking.push-off")
                    )}
                    <Act sends={{ carrier: row.id, name: row.name }}>
                      <button type="submit" name="intent" value="secret" className="as-link">
                        {say(row.pushes ? "tracking.new-secret" : "tracking.make-secret")}
                      </button>{" "}
                      {row.pushes ? (
                        <button type="submit" name="intent" value="end-pushes" className="as-link">
                          {say("tracking.end-pushes")}
                        </button>
                      ) : null}
                    </Act>
                  </>
                ),
              },
            ]}
          />
          <h2>{say("claim.terms")}</h2>
          <p className="note">{say("claim.terms-what")}</p>
          {loaderData.terms.map((one) => (
            <ClaimTermsForm key={one.id} one={one} />
          ))}
        </section>
      </div>
    </Screen>
  )
}
