import { Button } from "@chakra-ui/react"
import { Form } from "react-router"
import { workContext } from "server/http/context.ts"
import { outsideForm, outsideRows, saveOutside, switchOutside } from "server/outside/manage.ts"
import { say } from "words/index.ts"
import { sayIssues, sayReasons } from "words/reasons.ts"
import { TextField } from "../parts/Fields.tsx"
import { Screen } from "../shell/Screen.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow, withRights } from "../shell/work.ts"
import type { Route } from "./+types/outside"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "warehouse.manage")
  return { rights: setUpRights(work.actor), rows: await outsideRows(work) }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const form = await request.formData()
  return withRights(async () => {
    switch (form.get("intent")) {
      case "save": {
        const fields = outsideForm.safeParse(Object.fromEntries(form))
        if (!fields.success) return refusal(sayIssues(fields.error.issues))
        const outcome = await saveOutside(work, fields.data)
        return outcome.ok ? done(say("outside.saved")) : refusal(sayReasons(outcome.reasons))
      }
      case "on":
      case "off":
        await switchOutside(work, Number(form.get("id")) || 0, form.get("intent") === "on")
        return done(say("outside.saved"))
      default:
        return followScan(work, String(form.get("text") ?? "").slice(0, 120))
    }
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
            <table className="rows">
              <caption className="sr-only">{say("setup.outside")}</caption>
              <thead>
                <tr>
                  {(["code", "name", "url", "open", "state"] as const).map((name) => (
                    <th key={name} scope="col" className={name === "open" ? "figure" : undefined}>
                      {say(`outside.head.${name}`)}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {rows.map((row) => (
                  <tr key={row.id}>
                    <th scope="row" className="code">
                      {row.code}
                    </th>
                    <td>{row.name}</td>
                    <td className="code">{row.url}</td>
                    <td className="figure">{row.open}</td>
                    <td className="acts">
                      <Form method="post">
                        <input type="hidden" name="id" value={row.id} />
                        <button type="submit" name="intent" value={row.active ? "off" : "on"} className="as-link">
                          {say(row.active ? "outside.switch-off" : "outside.switch-on")}
                        </button>
                      </Form>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          ) : null}
        </section>
        <section className="item-edit" key={rows.length}>
          <h2>{say("outside.new")}</h2>
          <Form method="post" id="outside-form">
            <input type="hidden" name="intent" value="save" />
            <TextField name="code" label="outside.head.code" most={12} needed />
            <TextField name="name" label="outside.head.name" most={60} needed />
            <TextField name="url" label="outside.head.url" most={300} needed />
            <Button type="submit">{say("shifts.save")}</Button>
          </Form>
        </section>
      </div>
    </Screen>
  )
}
