import { data } from "react-router"
import { businessNow } from "server/clock/index.ts"
import { frameContext } from "server/http/context.ts"
import { type ReceiverPage, receiverPage } from "server/tracking/receiver.ts"
import { say, sayIn } from "words/index.ts"
import { localeOf } from "words/language.ts"
import type { Route } from "./+types/follow"

/** Where a receiver's packages are: reached by the link in his message, without sign-in. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const { db } = context.get(frameContext)
  const page = await receiverPage(db, params.token, await businessNow(db))
  if (!page) throw data(null, { status: 404 })
  return page
}

export const meta: Route.MetaFunction = ({ loaderData }) => {
  const page = loaderData as ReceiverPage | undefined
  return page
    ? [{ title: `${sayIn(page.language)("follow.title")} · ${page.sender}` }]
    : [{ title: say("follow.title") }]
}

export function ErrorBoundary() {
  return (
    <main className="receiver">
      <p>{say("follow.gone")}</p>
    </main>
  )
}

export default function Follow({ loaderData: page }: Route.ComponentProps) {
  const words = sayIn(page.language)
  const locale = localeOf[page.language]
  const day = (date: string) =>
    new Intl.DateTimeFormat(locale, { weekday: "long", month: "long", day: "numeric", timeZone: "UTC" }).format(
      new Date(`${date}T00:00:00Z`),
    )
  const time = (at: Date, timeZone: string) =>
    new Intl.DateTimeFormat(locale, {
      weekday: "short",
      month: "short",
      day: "numeric",
      hour: "numeric",
      minute: "2-digit",
      timeZone,
    })
      .format(at)
      .replace(/[\u202f\u00a0]/g, " ")
  const of = page.packages.length
  return (
    <main className="receiver" lang={page.language}>
      <header>
        <p className="receiver-sender">{page.sender}</p>
        <h1>{words("follow.title")}</h1>
        <p>
          {words("follow.order", { order: page.order })}
          <br />
          {words("follow.to", { place: page.place })}
          {page.promisedOn ? (
            <>
              <br />
              {words("follow.promised", { day: day(page.promisedOn) })}
            </>
          ) : null}
        </p>
      </header>
      {of === 0 ? <p>{words("follow.nothing")}</p> : null}
      <ol>
        {page.packages.map((one, index) => (
          <li key={one.tracking}>
            {of > 1 ? <p className="receiver-piece">{words("follow.package", { n: index + 1, of })}</p> : null}
            <p className={`receiver-state ${one.state}`}>{words(`follow.state.${one.state}`)}</p>
            <p>
              {one.deliveredAt ? (
                <>
                  {words("follow.delivered", { time: time(one.deliveredAt, one.zone) })}
                  {one.takenBy ? (
                    <>
                      <br />
                      {words("follow.taken-by", { name: one.takenBy })}
                    </>
                  ) : null}
                </>
              ) : (
                <>
                  {one.expectedOn ? words("follow.arrives", { day: day(one.expectedOn) }) : null}
                  {one.late ? (
                    <>
                      <br />
                      <b>{words("follow.late")}</b>
                    </>
                  ) : null}
                  {one.place ? (
                    <>
                      <br />
                      {words("follow.last", { place: one.place })}
                    </>
                  ) : null}
                </>
              )}
            </p>
            <p className="receiver-number">
              {one.carrier} <span className="code">{one.tracking}</span>
            </p>
            {one.steps.length > 0 ? (
              <details open={of === 1}>
                <summary>{words("follow.steps")}</summary>
                <ol className="receiver-steps">
                  {one.steps.map((step) => (
                    <li key={`${step.at.getTime()} ${step.kind}`}>
                      <span>{time(new Date(step.at.getTime() + step.offset * 60_000), "UTC")}</span>
                      <b>{words(`follow.step.${step.kind as Step}`)}</b> {step.place}
                    </li>
                  ))}
                </ol>
              </details>
            ) : null}
          </li>
        ))}
      </ol>
    </main>
  )
}

type Step = Exclude<ReceiverPage["packages"][number]["steps"][number]["kind"], "note" | "announced">
