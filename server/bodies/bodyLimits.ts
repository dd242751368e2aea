import { mostPhoto } from "core/claims/index.ts"
import { ownPaperLimits } from "core/documents/ownPaper.ts"
import { matchPath } from "react-router"
import { limits } from "../formats/orderRow.ts"

/** How much a request may bring, known before anything of it is parsed. */
export interface BodyLimit {
  /** Bytes of a form, as it is sent (`application/x-www-form-urlencoded`). */
  readonly bytes: number
  readonly fields: number
  /** Bytes of a file with the form around it; 0 where no file is taken, and then `multipart/form-data` is refused. */
  readonly fileBytes: number
}

const KiB = 1024
const MiB = 1024 * KiB

/** The part of an upload that is not the file: boundaries, and the few fields before it. */
const aroundFile = 64 * KiB

/** Most bytes that are read for somebody who has not signed in, whatever the route. */
export const withoutSession = 16 * KiB

/** A form of a page whose route says nothing else. */
export const usual: BodyLimit = { bytes: 256 * KiB, fields: 1_000, fileBytes: 0 }
const upload: BodyLimit = { ...usual, fileBytes: limits.bytes + aroundFile }
/** A page on which papers are attached that go along. */
const paper: BodyLimit = { ...usual, fileBytes: ownPaperLimits.bytes + aroundFile }

/** Routes that say more, or less, by the patterns of `app/routes.ts`. */
const routes: Readonly<Record<string, BodyLimit>> = {
  "/sign-in": { bytes: withoutSession, fields: 20, fileBytes: 0 },
  "/sign-out": { bytes: KiB, fields: 20, fileBytes: 0 },
  // four fields for each line, and the head of the order
  "/orders/new": { ...usual, bytes: MiB, fields: 2_100 },
  "/orders/intake": upload,
  "/orders/intake/:id": upload,
  // three fields for each line, other packages and papers; or a photo
  "/orders/claims/:number": { ...usual, fields: 2_000, fileBytes: mostPhoto.bytes + aroundFile },
  "/orders/:orderNumber": paper,
  "/set-up/addresses": upload,
  "/set-up/carriers": upload,
  // a whole tariff stands in one field; percent-encoded it is up to three times as long
  "/set-up/carriers/:code/:number": { bytes: 3 * MiB, fields: 20, fileBytes: upload.fileBytes },
  "/set-up/customers": paper,
  "/set-up/floor-plan": upload,
  "/set-up/items": paper,
  "/set-up/screening": upload,
  "/set-up/sources/:code": upload,
}

/** Longest name of a field, in bytes as it is sent, and how deep its brackets may go (`a[1][b]` is two). */
export const nameBytes = 200
export const nameDepth = 4

/** Real time within which a form must be here, many orders of one call, and an upload; and how long it may be silent. */
export const sendingMs = { form: 15_000, bulk: 60_000, file: 300_000, silence: 20_000 }

/**
 * What the route of a path may be sent. Paths are matched as the router matches them, with the `.data` of its own
 * requests taken off; a path that is not listed has the usual limit, so a trick with a path can only make it narrower.
 */
export function limitOf(path: string): BodyLimit {
  const plain = decoded(path).replace(/\.data$/, "")
  const found = Object.entries(routes).find(([pattern]) => matchPath(pattern, plain) !== null)
  return found?.[1] ?? usual
}

/** A path with its percent signs resolved, as the router reads it; one that can't be stays as it is. */
function decoded(path: string): string {
  try {
    return decodeURIComponent(path)
  } catch {
    return path
  }
}

/** Why a form is not parsed: `many` fields, a `name` too long, or one too `deep`. */
export type FormFault = "many" | "name" | "deep"

const ampersand = 0x26
const equals = 0x3d
const percent = 0x25

/**
 * Looks over a form that is not parsed yet, once from beginning to end. Brackets count as they are or as `%5B`.
 *
 * @returns the first fault, or null
 * @example formFault(Buffer.from("a=1&b[c]=2"), 1000) // null
 */
export function formFault(body: Uint8Array, mostFields: number): FormFault | null {
  let fields = 1
  let nameLength = 0
  let depth = 0
  let inName = true
  for (let at = 0; at < body.length; at += 1) {
    const byte = body[at] as number
    if (byte === ampersand) {
      fields += 1
      if (fields > mostFields) return "many"
      nameLength = 0
      depth = 0
      inName = true
    } else if (inName) {
      if (byte === equals) inName = false
      else {
        nameLength += 1
        if (nameLength > nameBytes) return "name"
        if (opens(body, at)) {
          depth += 1
          if (depth > nameDepth) return "deep"
        }
      }
    }
  }
  return null
}

const opens = (body: Uint8Array, at: number): boolean =>
  body[at] === 0x5b ||
  (body[at] === percent && body[at + 1] === 0x35 && (body[at + 2] === 0x42 || body[at + 2] === 0x62))
