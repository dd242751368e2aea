import ipp, { type IppMessage } from "@sealsystems/ipp"
import { coded, reason } from "core/refusal/index.ts"
import { reach } from "./reach.ts"

export class PrinterUnreachable extends Error {}

export interface PrinterGateway {
  /** Sends a document; the job's name tells it apart, so that it can be found again after a lost answer. */
  print(jobName: string, document: Buffer, media: string, copies?: number): Promise<void>
  /** Whether the printer has a job of this name, pending or done. */
  has(jobName: string): Promise<boolean>
}

const user = "varnok"
let requestId = 0

/** A printer reached by IPP (RFC 8010, RFC 8011) at an `ipp://` address. */
export function ippPrinter(uri: string, timeLimitMs = 5_000): PrinterGateway {
  const url = uri.replace(/^ipp:/, "http:")
  const call = async (operation: string, message: IppMessage): Promise<IppMessage> => {
    requestId += 1
    const bytes = ipp.serialize({
      version: "2.0",
      operation,
      id: requestId,
      ...message,
      "operation-attributes-tag": {
        "attributes-charset": "utf-8",
        "attributes-natural-language": "en",
        "printer-uri": uri,
        "requesting-user-name": user,
        ...message["operation-attributes-tag"],
      },
    })
    let answer: IppMessage
    try {
      const response = await reach(url, {
        method: "POST",
        headers: { "content-type": "application/ipp" },
        body: new Uint8Array(bytes),
        timeLimitMs,
      })
      if (response.status >= 300) throw new Error(coded(reason("reach.status", { status: response.status })))
      answer = ipp.parse(response.bytes)
    } catch (error) {
      throw new PrinterUnreachable((error as Error).message, { cause: error })
    }
    if (!answer.statusCode?.startsWith("successful"))
      throw new PrinterUnreachable(coded(reason("reach.printer-refused", { status: answer.statusCode ?? "–" })))
    return answer
  }
  const jobs = async (which: "completed" | "not-completed"): Promise<string[]> => {
    const answer = await call("Get-Jobs", {
      "operation-attributes-tag": { "which-jobs": which, "requested-attributes": ["job-id", "job-name"] },
    })
    const groups = answer["job-attributes-tag"] ?? []
    return (Array.isArray(groups) ? groups : [groups]).map((group) => String(group["job-name"]))
  }
  return {
    async print(jobName, document, media, copies = 1) {
      await call("Print-Job", {
        "operation-attributes-tag": { "job-name": jobName, "document-format": "application/pdf" },
        "job-attributes-tag": { copies, media, "print-scaling": "none" },
        data: document,
      })
    },
    async has(jobName) {
      return (await jobs("not-completed")).includes(jobName) || (await jobs("completed")).includes(jobName)
    },
  }
}
