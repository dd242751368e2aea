import { Button } from "@chakra-ui/react"
import { Form, useNavigation } from "react-router"
import { putScreeningList, screeningLists } from "server/decisions/screeningLists.ts"
import { limits } from "server/formats/orderRow.ts"
import { wholeText } from "server/formats/text.ts"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { Table } from "../parts/Table.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
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
  return answerTo(
    request,
    work,
    {},
    {
      upload: async (file, _, { list = "" }) => {
        allow(work, "screening.manage")
        const outcome = await putScreeningList(work, list, await wholeText(file, limits.bytes))
        return outcome.ok
          ? done(say("screening.put", { list, n: outcome.value.entries }))
          : refusal(sayReasons(outcome.reasons))
      },
    },
  )
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
        <Table
          caption={say("setup.screening")}
          rows={loaderData.lists}
          rowKey={(one) => one.list}
          columns={[
            { name: "list", head: say("screening.list"), className: "big", heads: true, cell: (one) => one.list },
            { name: "entries", head: say("screening.entries"), cell: (one) => one.entries },
          ]}
        />
      )}
      <p className="note">{say("screening.note")}</p>
    </Screen>
  )
}
