import { Button } from "@chakra-ui/react"
import { Form, Link, redirect, useNavigation } from "react-router"
import { workContext } from "server/http/context.ts"
import { previewTracking, trackingColumns, trackingFiles } from "server/outside/trackingFile.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { FileInput } from "../parts/FileInput.tsx"
import { Table } from "../parts/Table.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/tracking-files"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  return { files: await trackingFiles(work.db, work.warehouse.id), columns: trackingColumns.join(",") }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  return answerTo(
    request,
    work,
    {},
    {
      upload: async (file, name) => {
        allow(work, "orders.work")
        throw redirect(`/orders/tracking/${await previewTracking(work, name, file)}`)
      },
    },
  )
}

export const meta: Route.MetaFunction = () => [{ title: `${say("tracking.title")} · ${say("app.name")}` }]

export default function TrackingFiles({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const busy = useNavigation().state !== "idle"
  useLive(null)
  return (
    <Screen
      ribbon={{}}
      name="tracking"
      sill={{
        plate: { verb: say("tracking.preview"), detail: "", ready: true, form: "tracking-form" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("tracking.title")}</h1>
      </div>
      <Form method="post" encType="multipart/form-data" id="tracking-form" className="upload">
        <div className="field">
          <label htmlFor="file">{say("tracking.file")}</label>
          <FileInput id="file" accept=".csv,text/csv,text/plain" />
        </div>
        <Button type="submit" disabled={busy}>
          {say("tracking.preview")}
        </Button>
      </Form>
      <p className="note">{say("tracking.columns", { columns: loaderData.columns })}</p>
      {loaderData.files.length === 0 ? (
        <p className="nothing">{say("tracking.none")}</p>
      ) : (
        <Table
          caption={say("tracking.title")}
          rows={loaderData.files}
          rowKey={(one) => one.id}
          sorts={false}
          columns={[
            {
              name: "name",
              head: say("tracking.file"),
              heads: true,
              cell: (one) => <Link to={`/orders/tracking/${one.id}`}>{one.name}</Link>,
            },
            {
              name: "made",
              head: say("tracking.made"),
              cell: (one) => `${dayAndClock(one.madeAt, zone)}, ${one.madeBy}`,
            },
            {
              name: "state",
              head: say("tracking.state"),
              cell: (one) =>
                say(`tracking.state.${one.state}`, { good: one.good, taken: one.taken, refused: one.refused }),
            },
          ]}
        />
      )}
    </Screen>
  )
}
