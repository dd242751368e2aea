import { Readable } from "node:stream"
import type { ReadableStream } from "node:stream/web"
import { Button } from "@chakra-ui/react"
import busboy from "busboy"
import { reason } from "core/refusal/index.ts"
import { Form, Link, redirect, useNavigation } from "react-router"
import { FileRefused, fields, limits } from "server/formats/orderRow.ts"
import { type Work, workContext } from "server/http/context.ts"
import { previewFile, recentUploads } from "server/orders/intake.ts"
import { say, sayReason } from "../messages/index.ts"
import { clock } from "../shell/format.ts"
import { Screen } from "../shell/Screen.tsx"
import { followScan, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useShell } from "../shell/useNow.ts"
import { allow, withRights } from "../shell/work.ts"
import type { Route } from "./+types/intake"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  return { columns: fields.join(", "), recent: await recentUploads(work) }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  if (!(request.headers.get("content-type") ?? "").startsWith("multipart/form-data")) {
    const form = await request.formData()
    return followScan(work, String(form.get("text") ?? "").slice(0, 120))
  }
  return withRights(async () => {
    try {
      // a browser hears an answer only when its upload was taken; what is absurdly large is cut off all the same
      if (Number(request.headers.get("content-length") ?? 0) > 20 * limits.bytes) {
        throw new FileRefused(reason("file.too-large", { limit: limits.bytes / 1024 / 1024 }))
      }
      const id = await readUpload(request, work)
      return redirect(`/orders/intake/${id}`)
    } catch (error) {
      if (error instanceof FileRefused)
        return { ...refusal(`${sayReason(error.reason)} ${say("intake.refused")}`), why: sayReason(error.reason) }
      throw error
    }
  })
}

/** Reads the file of an upload as it arrives, without holding it; returns the id of its preview. */
function readUpload(request: Request, work: Work): Promise<number> {
  return new Promise((resolve, reject) => {
    const parts = busboy({
      headers: Object.fromEntries(request.headers),
      defParamCharset: "utf8",
      limits: { files: 1, fields: 10, fileSize: limits.bytes + 1 },
    })
    let seen = false
    const body = Readable.fromWeb(request.body as ReadableStream)
    parts.on("file", (_field, file, info) => {
      seen = true
      if (!info.filename) {
        file.resume()
        reject(new FileRefused(reason("file.none")))
        return
      }
      previewFile(work, "file", info.filename, file).then(resolve, (error) => {
        file.resume()
        reject(error)
      })
    })
    parts.on("close", () => {
      if (!seen) reject(new FileRefused(reason("file.none")))
    })
    parts.on("error", reject)
    body.on("error", reject)
    body.pipe(parts)
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("intake.title")} · ${say("app.name")}` }]

export default function Intake({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const busy = useNavigation().state !== "idle"
  return (
    <Screen
      ribbon={{}}
      name="intake"
      sill={{
        plate: { verb: say("intake.plate"), detail: say("intake.plate-detail"), ready: true, form: "intake-form" },
        said: actionData?.said,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("intake.title")}</h1>
      </div>
      <Form method="post" encType="multipart/form-data" id="intake-form" className="upload">
        <label htmlFor="file">{say("intake.file")}</label>
        <input
          id="file"
          type="file"
          name="file"
          accept=".csv,.edi,.txt,.json,text/csv,text/plain,application/json"
          required
        />
        <Button type="submit" disabled={busy}>
          {say("intake.upload")}
        </Button>
        {actionData && "why" in actionData ? (
          <p role="alert" className="ember">
            {String(actionData.why)} {say("intake.refused")}
          </p>
        ) : null}
      </Form>
      <p className="note">{say("intake.columns-note")}</p>
      <p className="note code">{say("intake.columns", { columns: loaderData.columns })}</p>
      {loaderData.recent.length > 0 ? (
        <section className="recent">
          <h2>{say("intake.recent")}</h2>
          <ul>
            {loaderData.recent.map((file) => (
              <li key={file.id}>
                <Link to={`/orders/intake/${file.id}`}>{file.name}</Link>{" "}
                <span>
                  {clock(file.uploaded_at, zone)}, {say("intake.rows", { n: file.row_count })},{" "}
                  {say(file.taken_at ? "intake.taken" : "intake.not-taken")}
                </span>
              </li>
            ))}
          </ul>
        </section>
      ) : null}
    </Screen>
  )
}
