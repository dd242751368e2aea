import { Readable } from "node:stream"
import type { ReadableStream } from "node:stream/web"
import busboy from "busboy"
import { reason } from "core/refusal/index.ts"
import { FileRefused, limits } from "server/formats/orderRow.ts"

/**
 * Reads the file of an upload as it arrives, without holding it, and answers what `take` made of it. The fields that
 * stand before the file in the form are given with it. Throws FileRefused when no file was chosen.
 */
export function readUpload<T>(
  request: Request,
  take: (file: Readable, name: string, values: Readonly<Record<string, string>>) => Promise<T>,
): Promise<T> {
  return new Promise((resolve, reject) => {
    const parts = busboy({
      headers: Object.fromEntries(request.headers),
      defParamCharset: "utf8",
      limits: { files: 1, fields: 20, parts: 21, fieldSize: 2_000, headerPairs: 20, fileSize: limits.bytes + 1 },
    })
    const values: Record<string, string> = {}
    let seen = false
    const body = Readable.fromWeb(request.body as ReadableStream)
    // a form of ours has a file and few short fields: one that has more is not read on
    const enough = () => {
      reject(new FileRefused(reason("file.not-a-form")))
      body.unpipe(parts)
      body.destroy()
    }
    for (const event of ["partsLimit", "filesLimit", "fieldsLimit"] as const) parts.on(event, enough)
    parts.on("field", (name, value, { nameTruncated, valueTruncated }) => {
      if (nameTruncated || valueTruncated) enough()
      else values[name] = value
    })
    parts.on("file", (_field, file, info) => {
      seen = true
      if (!info.filename) {
        file.resume()
        reject(new FileRefused(reason("file.none")))
        return
      }
      take(file, info.filename, values).then(resolve, (error) => {
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
