import { Button } from "@chakra-ui/react"
import { Link } from "react-router"
import { printers, recentPapers, reprint } from "server/documents/index.ts"
import { workContext } from "server/http/context.ts"
import { failedJobs, retryJob } from "server/jobs/failed.ts"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayTrouble, wordFor } from "words/reasons.ts"
import { z } from "zod"
import { Act } from "../parts/ActForm.tsx"
import { Table } from "../parts/Table.tsx"
import { act, always, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/papers"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const [papers, jobs, devices] = await Promise.all([recentPapers(work), failedJobs(work), printers(work)])
  const trays = [...new Map(devices.filter((one) => one.tray_url).map((one) => [one.tray_url, one])).values()]
  return { papers, jobs, trays, key: crypto.randomUUID() }
}

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    reprint: act(
      z.object({ document: field.id, name: field.text() }),
      (work, { document }, { key }) => always(reprint(work, document, key)),
      (_, { name }) => say("papers.reprinted", { name }),
    ),
    retry: act(z.object({ job: field.id }), (work, { job }) => always(retryJob(work, job))),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("papers.title")} · ${say("app.name")}` }]

export default function Papers({
  loaderData: { papers, jobs, trays, key },
  actionData: answered,
}: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  useLive(null)
  return (
    <Screen
      ribbon={{}}
      name="papers"
      sill={{
        plate: { verb: say("papers.plate"), detail: "", ready: true, to: "/" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("papers.title")}</h1>
        {trays.map((one) => (
          <a key={one.tray_url} href={one.tray_url ?? ""} target="_blank" rel="noreferrer">
            {say("papers.tray", { name: one.name })}
          </a>
        ))}
      </div>
      <div className="two">
        <section>
          {papers.length === 0 ? (
            <p>{say("papers.none")}</p>
          ) : (
            <Table
              caption={say("papers.table")}
              rows={papers}
              rowKey={(one) => one.id}
              rowClass={(one) => (one.void ? "pale" : undefined)}
              columns={[
                {
                  name: "name",
                  head: say("papers.name"),
                  heads: true,
                  cell: (one) =>
                    one.orderNumber ? <Link to={`/orders/${one.orderNumber}`}>{one.name}</Link> : one.name,
                },
                { name: "kind", head: say("papers.kind"), cell: (one) => say(`papers.kind.${one.kind}`) },
                {
                  name: "made",
                  head: say("papers.made"),
                  by: (one) => one.madeAt.getTime(),
                  cell: (one) => clock(one.madeAt, zone),
                },
                {
                  name: "printing",
                  head: say("papers.printing"),
                  className: (one) => (one.trouble ? "ember" : undefined),
                  cell: (one) =>
                    one.void
                      ? say("papers.void")
                      : one.trouble
                        ? say("papers.trouble", { trouble: sayTrouble(one.trouble) })
                        : one.waiting > 0
                          ? say("papers.waiting")
                          : one.printed > 1
                            ? say("papers.printed-n", { n: one.printed })
                            : say("papers.printed"),
                },
                {
                  name: "again",
                  head: <span className="sr-only">{say("papers.again")}</span>,
                  className: "acts",
                  cell: (one) => (
                    <>
                      <a href={`/papers/${one.id}.pdf`}>{say("papers.view")}</a>
                      {one.void ? null : (
                        <Act intent="reprint" sends={{ document: one.id, name: one.name, key }}>
                          <Button type="submit" variant="ghost" aria-label={`${say("papers.again")} ${one.name}`}>
                            {say("papers.again")}
                          </Button>
                        </Act>
                      )}
                    </>
                  ),
                },
              ]}
            />
          )}
        </section>
        <section>
          <h2 className={jobs.length > 0 ? "ember" : undefined}>{say("papers.jobs")}</h2>
          {jobs.length === 0 ? (
            <p>{say("papers.jobs-none")}</p>
          ) : (
            <ul className="jobs">
              {jobs.map((job) => (
                <li key={job.id}>
                  <b>{wordFor("job", job.kind)}</b>
                  {job.orderNumber ? (
                    <>
                      {" "}
                      <Link to={`/orders/${job.orderNumber}`}>{job.orderNumber}</Link>
                    </>
                  ) : null}
                  , {job.state === "dead" ? say("papers.dead") : ""} {say("papers.tries", { n: job.tries })}
                  <br />
                  {sayTrouble(job.trouble)}
                  <Act intent="retry" sends={{ job: job.id }}>
                    <Button type="submit">{say("papers.retry")}</Button>
                  </Act>
                </li>
              ))}
            </ul>
          )}
        </section>
      </div>
    </Screen>
  )
}
