import ipp, { type IppMessage } from "@sealsystems/ipp"
import { coded, reason } from "core/refusal/index.ts"
import { reach } from "./reach.ts"

export class PrinterUnreachable extends Error {
  /** What the printer answered, where it did: `client-error-not-found`. */
  status = ""
}

/** How a job stands at the printer (RFC 8011, 5.3.7), in what matters here. */
export type PrinterJobState = "waiting" | "done" | "failed" | "unknown"

/** What a printer says of itself. */
export interface PrinterLook {
  readonly state: "idle" | "processing" | "stopped"
  /** Why, as RFC 8011, 5.4.12, names it: `media-empty-error`; none: nothing. */
  readonly reasons: readonly string[]
  /** Media that it can take, and those that are in it where it says so. */
  readonly media: readonly string[]
  readonly ready: readonly string[]
  readonly model: string
}

export interface PrinterGateway {
  /** Sends a document; the job's name tells it apart, so that it can be found again after a lost answer. Its number there. */
  print(jobName: string, document: Buffer, media: string, copies?: number): Promise<number>
  /** The number of a job of this name, pending or done; null for none. */
  find(jobName: string): Promise<number | null>
  job(id: number): Promise<PrinterJobState>
  /** Takes a job back; false where it is done, or printing already. */
  cancel(id: number): Promise<boolean>
  look(): Promise<PrinterLook>
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
    if (!answer.statusCode?.startsWith("successful")) {
      const refused = new PrinterUnreachable(
        coded(reason("reach.printer-refused", { status: answer.statusCode ?? "–" })),
      )
      refused.status = answer.statusCode ?? "–"
      throw refused
    }
    return answer
  }
  const jobGroups = async (which: "completed" | "not-completed"): Promise<Attributes[]> => {
    const answer = await call("Get-Jobs", {
      "operation-attributes-tag": { "which-jobs": which, "requested-attributes": ["job-id", "job-name"] },
    })
    return groupsOf(answer["job-attributes-tag"])
  }
  return {
    async print(jobName, document, media, copies = 1) {
      const answer = await call("Print-Job", {
        "operation-attributes-tag": { "job-name": jobName, "document-format": "application/pdf" },
        "job-attributes-tag": { copies, media, "print-scaling": "none" },
        data: document,
      })
      return Number(groupsOf(answer["job-attributes-tag"])[0]?.["job-id"] ?? 0)
    },
    async find(jobName) {
      for (const which of ["not-completed", "completed"] as const) {
        const found = (await jobGroups(which)).find((group) => String(group["job-name"]) === jobName)
        if (found) return Number(found["job-id"])
      }
      return null
    },
    async job(id) {
      try {
        const answer = await call("Get-Job-Attributes", {
          "operation-attributes-tag": { "job-id": id, "requested-attributes": ["job-state", "job-state-reasons"] },
        })
        return jobStates[String(groupsOf(answer["job-attributes-tag"])[0]?.["job-state"])] ?? "waiting"
      } catch (error) {
        // a printer forgets jobs that are done
        if (error instanceof PrinterUnreachable && error.status === "client-error-not-found") return "unknown"
        throw error
      }
    },
    async cancel(id) {
      try {
        await call("Cancel-Job", { "operation-attributes-tag": { "job-id": id } })
        return true
      } catch (error) {
        if (error instanceof PrinterUnreachable && error.status !== "") return false
        throw error
      }
    },
    async look() {
      const answer = await call("Get-Printer-Attributes", {
        "operation-attributes-tag": {
          "requested-attributes": [
            "printer-state",
            "printer-state-reasons",
            "media-supported",
            "media-ready",
            "printer-make-and-model",
            "printer-info",
          ],
        },
      })
      const found = (answer["printer-attributes-tag"] ?? {}) as Record<string, unknown>
      const texts = (name: string) => listOf(found[name]).map(String)
      const [state = "idle"] = texts("printer-state")
      return {
        state: state === "stopped" || state === "processing" ? state : "idle",
        reasons: texts("printer-state-reasons").filter((one) => one !== "none"),
        media: texts("media-supported").slice(0, 60),
        ready: texts("media-ready").slice(0, 20),
        model: (texts("printer-make-and-model")[0] ?? texts("printer-info")[0] ?? "").slice(0, 120),
      }
    },
  }
}

/** States of a job (RFC 8011, 5.3.7); what is pending, held, processing or stopped is waited for. */
const jobStates: Readonly<Record<string, PrinterJobState>> = {
  completed: "done",
  canceled: "failed",
  aborted: "failed",
}

type Attributes = Readonly<Record<string, unknown>>

/** A group of attributes that may come once or several times. */
const groupsOf = (value: unknown): Attributes[] => listOf(value) as Attributes[]

const listOf = (value: unknown): unknown[] => (value === undefined ? [] : Array.isArray(value) ? value : [value])
