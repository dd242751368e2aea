import { Button } from "@chakra-ui/react"
import { workContext } from "server/http/context.ts"
import { outsideForm, outsideRows, saveOutside, switchOutside } from "server/outside/manage.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { Table } from "../parts/Table.tsx"
import { act, always, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/outside"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "warehouse.manage")
  return { rights: setUpRights(work.actor), rows: await outsideRows(work) }
}

export async function action({ request, context }: Route.ActionArgs) {
  const saved = () => say("outside.saved")
  const turn = (on: boolean) =>
    act(z.object({ id: field.id }), (work, { id }) => always(switchOutside(work, id, on)), saved)
  return answerTo(request, context.get(workContext), {
    save: act(outsideForm, saveOutside, saved),
    on: turn(true),
    off: turn(false),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.outside")} · ${say("app.name")}` }]

export default function Outside({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { rows, rights } = loaderData
  return (
    <Screen
      ribbon={{}}
      name="customers"
      sill={{
        plate: { verb: say("outside.plate"), detail: say("outside.plate-detail"), ready: true, form: "outside-form" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.outside" rights={rights} />
      <div className="two wide-left">
        <section className="scrolls">
          <p className="note">{say("outside.note")}</p>
          {rows.length === 0 ? <p>{say("outside.none")}</p> : null}
          {rows.length > 0 ? (
            <Table
              caption={say("setup.outside")}
              rows={rows}
              rowKey={(row) => row.id}
              columns={[
                {
                  name: "code",
                  head: say("outside.head.code"),
                  className: "code",
                  heads: true,
                  cell: (row) => row.code,
                },
                { name: "name", head: say("outside.head.name"), cell: (row) => row.name },
                { name: "url", head: say("outside.head.url"), className: "code", cell: (row) => row.url },
                { name: "open", head: say("outside.head.open"), className: "figure", cell: (row) => row.open },
                {
                  name: "state",
                  head: say("outside.head.state"),
                  className: "acts",
                  cell: (row) => (
                    <Act sends={{ id: row.id }}>
                      <button type="submit" name="intent" value={row.active ? "off" : "on"} className="as-link">
                        {say(row.active ? "outside.switch-off" : "outside.switch-on")}
                      </button>
                    </Act>
                  ),
                },
              ]}
            />
          ) : null}
        </section>
        <section className="item-edit" key={rows.length}>
          <h2>{say("outside.new")}</h2>
          <ActForm intent="save" id="outside-form">
            <TextField name="code" label="outside.head.code" most={12} needed />
            <TextField name="name" label="outside.head.name" most={60} needed />
            <TextField name="url" label="outside.head.url" most={300} needed />
            <Button type="submit">{say("shifts.save")}</Button>
          </ActForm>
        </section>
      </div>
    </Screen>
  )
}
