import { Button, Input } from "@chakra-ui/react"
import { Form, Link, useSearchParams } from "react-router"
import { changes } from "server/audit/index.ts"
import { workContext } from "server/http/context.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayEntry } from "../parts/story.ts"
import { Table } from "../parts/Table.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/changes"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "audit.see")
  const search = new URL(request.url).searchParams
  const actor = (search.get("actor") ?? "").slice(0, 60)
  const action = (search.get("action") ?? "").slice(0, 60)
  return {
    actor,
    action,
    page: await changes(work.db, { actor, action, before: Number(search.get("before")) || null }),
    rights: setUpRights(work.actor),
  }
}

export const action = ({ request, context }: Route.ActionArgs) => answerTo(request, context.get(workContext), {})

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.changes")} · ${say("app.name")}` }]

export default function Changes({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const [search] = useSearchParams()
  const { page, actor, action } = loaderData
  const more = new URLSearchParams({ ...(actor ? { actor } : {}), ...(action ? { action } : {}) })
  if (page.next) more.set("before", String(page.next))
  return (
    <Screen
      ribbon={{}}
      name="changes"
      sill={{
        plate: { verb: say("papers.plate"), detail: "", ready: true, to: "/" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.changes" rights={loaderData.rights}>
        <Form method="get" className="find" role="search">
          <label htmlFor="actor">{say("changes.who")}</label>
          <Input id="actor" name="actor" defaultValue={actor} key={actor} maxLength={60} width="150px" />
          <label htmlFor="action">{say("changes.what")}</label>
          <Input id="action" name="action" defaultValue={action} key={`a ${action}`} maxLength={60} width="150px" />
          <Button type="submit">{say("orders.find")}</Button>
        </Form>
      </SetUpHead>
      {page.entries.length === 0 ? (
        <p className="nothing">{say("changes.none")}</p>
      ) : (
        <Table
          caption={say("setup.changes")}
          rows={page.entries}
          rowKey={(entry) => entry.id}
          sorts={!page.next && !search.has("before")}
          columns={[
            {
              name: "when",
              head: say("changes.when"),
              by: (entry) => entry.id,
              cell: (entry) => dayAndClock(entry.at, zone),
            },
            { name: "who", head: say("changes.who"), cell: (entry) => entry.actor },
            {
              name: "order",
              head: say("changes.order"),
              cell: (entry) =>
                entry.orderNumber ? <Link to={`/orders/${entry.orderNumber}`}>{entry.orderNumber}</Link> : "",
            },
            { name: "what", head: say("changes.what"), cell: (entry) => sayEntry(entry) },
            { name: "kind", head: say("changes.kind"), className: "code", cell: (entry) => entry.action },
          ]}
        />
      )}
      {page.next ? (
        <p className="pager">
          <Link to={`?${more}`}>{say("changes.older")}</Link>
        </p>
      ) : null}
    </Screen>
  )
}
