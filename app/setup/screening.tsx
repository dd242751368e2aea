import { Button } from "@chakra-ui/react"
import { Form, useNavigation } from "react-router"
import { putScreeningList, screeningLists } from "server/decisions/screeningLists.ts"
import { FileRefused, limits } from "server/formats/orderRow.ts"
import { wholeText } from "server/formats/text.ts"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { sayReason, sayReasons } from "words/reasons.ts"
import { TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { Screen } from "../shell/Screen.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { readUpload } from "../shell/upload.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow, withRights } from "../shell/work.ts"
import type { Route } from "./+types/screening"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "screening.manage")
  return { lists: await screeningLists(work.db), rights: setUpRights(work.actor) }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  return withRights(async () => {
    if (!(request.headers.get("content-type") ?? "").startsWith("multipart/form-data")) {
      const form = await request.formData()
      return followScan(work, String(form.get("text") ?? "").slice(0, 120))
    }
    allow(work, "screening.manage")
    try {
      return await readUpload(request, async (file, _name, values) => {
        const csv = await wholeText(file, limits.bytes)
        const outcome = await putScreeningList(work, values.list ?? "", csv)
        return outcome.ok
          ? done(say("screening.put", { list: values.list ?? "", n: outcome.value.entries }))
          : refusal(sayReasons(outcome.reasons))
      })
    } catch (error) {
      if (error instanceof FileRefused) return refusal(sayReason(error.reason))
      throw error
    }
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.screening")} · ${say("app.name")}` }]

export default function Screening({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  return (
    <Screen
      ribbon={{}}
      name="screening"
      sill={{
        plate: {
          verb: say("screening.plate"),
          detail: say("screening.plate-detail"),
          ready: true,
          form: "screening-form",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.screening" rights={loaderData.rights} />
      <Form method="post" encType="multipart/form-data" id="screening-form" className="upload">
        <TextField name="list" label="screening.list" most={40} needed list="lists" />
        <datalist id="lists">
          {loaderData.lists.map((one) => (
            <option key={one.list} value={one.list} />
          ))}
        </datalist>
        <div className="field">
          <label htmlFor="file">{say("screening.file")}</label>
          <FileInput id="file" accept=".csv,text/csv,text/plain" />
        </div>
        <Button type="submit" disabled={busy}>
          {say("screening.put-button")}
        </Button>
      </Form>
      {loaderData.lists.length === 0 ? (
        <p className="nothing">{say("screening.none")}</p>
      ) : (
        <table className="rows">
          <caption className="sr-only">{say("setup.screening")}</caption>
          <thead>
            <tr>
              <th scope="col">{say("screening.list")}</th>
              <th scope="col">{say("screening.entries")}</th>
            </tr>
          </thead>
          <tbody>
            {loaderData.lists.map((one) => (
              <tr key={one.list}>
                <th scope="row" className="big">
                  {one.list}
                </th>
                <td>{one.entries}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="note">{say("screening.note")}</p>
    </Screen>
  )
}
