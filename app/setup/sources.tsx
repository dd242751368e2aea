import { Button } from "@chakra-ui/react"
import { Link, redirect, useNavigation } from "react-router"
import { workContext } from "server/http/context.ts"
import { saveSource, sourceForm, sources } from "server/intake/sources.ts"
import { warehouses } from "server/setup/warehouse.ts"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { Table } from "../parts/Table.tsx"
import { act, answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/sources"
import { SetUpHead } from "./SetUp.tsx"
import { SourceFields } from "./SourceFields.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "sources.manage")
  const all = await sources(work)
  return {
    sources: all.map(({ code, name, kind, active, folder, warehouse, everySeconds, mapping }) => ({
      code,
      name,
      kind,
      active,
      folder,
      warehouse,
      everySeconds,
      mapped: mapping !== null,
    })),
    warehouses: await warehouses(work.db),
    here: work.warehouse.id,
    rights: setUpRights(work.actor),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    add: act(
      sourceForm,
      (work, fields) => saveSource(work, fields, true),
      ({ code }) => {
        throw redirect(`/set-up/sources/${code}`)
      },
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.sources")} · ${say("app.name")}` }]

export default function Sources({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  return (
    <Screen
      ribbon={{}}
      name="sources"
      sill={{
        plate: { verb: say("sources.plate"), detail: say("sources.plate-detail"), ready: true, form: "source-new" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.sources" rights={loaderData.rights} />
      <div className="two wide-left">
        <section className="scrolls">
          <Table
            caption={say("setup.sources")}
            rows={loaderData.sources}
            rowKey={(source) => source.code}
            rowClass={(source) => (source.active ? undefined : "pale")}
            columns={[
              {
                name: "name",
                head: say("source.head.name"),
                className: "big",
                heads: true,
                cell: (source) =>
                  source.kind === "typed" ? (
                    source.name
                  ) : (
                    <Link to={`/set-up/sources/${source.code}`}>{source.name}</Link>
                  ),
              },
              { name: "code", head: say("source.head.code"), className: "code", cell: (source) => source.code },
              {
                name: "how",
                head: say("source.head.how"),
                cell: (source) => (
                  <>
                    {say(`source.how.${source.kind}`, { folder: source.folder ?? "", seconds: source.everySeconds })}
                    {source.active ? "" : `, ${say("source.off")}`}
                  </>
                ),
              },
              {
                name: "warehouse",
                head: say("source.head.warehouse"),
                cell: (source) => source.warehouse ?? say("source.any-warehouse"),
              },
              {
                name: "writes",
                head: say("source.head.writes"),
                cell: (source) => say(source.mapped ? "source.mapped" : "source.as-ours"),
              },
            ]}
          />
        </section>
        <section className="item-edit">
          <h2>{say("sources.new")}</h2>
          <ActForm intent="add" id="source-new">
            <SourceFields warehouses={loaderData.warehouses} here={loaderData.here} source={null} />
            <Button type="submit" disabled={busy}>
              {say("sources.add")}
            </Button>
          </ActForm>
        </section>
      </div>
    </Screen>
  )
}
