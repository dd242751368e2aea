import type { Readable } from "node:stream"
import type { SubmissionResult } from "@conform-to/react"
import { parseWithZod } from "@conform-to/zod/v4"
import { accepted, type Outcome, type Reason } from "core/refusal/index.ts"
import { FileRefused } from "server/formats/orderRow.ts"
import type { Work } from "server/http/context.ts"
import { type MessageKey, say } from "words/index.ts"
import { sayIssue, sayIssues, sayReason, sayReasons } from "words/reasons.ts"
import * as z from "zod"
import { onceKey } from "./once.server.ts"
import type { Answer } from "./Sill.tsx"
import { done, followScan, refusal } from "./scan.server.ts"
import { readUpload } from "./upload.server.ts"
import { withRights } from "./work.ts"

/** What a page's action answers: the words for the scan line and, where a form was wrong, what is wrong in which field. */
export interface Answered {
  readonly answer: Answer
  /** The form that was sent, as `ActForm` names it, with its errors by field. */
  readonly wrong?: {
    readonly form: string
    readonly result: SubmissionResult
    /** Fields that somebody changed in the form since it was shown. */
    readonly changed: readonly string[]
  }
}

/** What a form that asks for one thing brings besides its fields. */
export interface Sent {
  readonly form: FormData
  /** What the form is known by, so that it counts once. */
  readonly key: string
  /** Names of the fields that somebody changed since they were shown; empty: nobody, or the browser can't tell. */
  readonly changed: readonly string[]
}

/**
 * What somebody changed of a form's fields: the others may have been stored anew meanwhile, and stay. All of them where
 * nobody can tell what was changed.
 */
export const onlyChanged = <Fields extends object>(fields: Fields, changed: readonly string[]): Partial<Fields> =>
  changed.length === 0
    ? fields
    : (Object.fromEntries(Object.entries(fields).filter(([name]) => changed.includes(name))) as Partial<Fields>)

type Act<A extends Answered> = (work: Work, form: FormData) => Promise<A | Answered>

/**
 * One thing that the forms of a page ask for: the schema of its fields, the use case that does it, and the words for what
 * came of it (or an answer with more than words). What does not fit the schema is told at its field and not tried; a
 * refusal of the use case stands at the field that `at` names for its code, and always on the scan line.
 */
export function act<S extends z.ZodType, T, A extends Answered = Answered>(
  fields: S,
  does: (work: Work, fields: z.output<S>, sent: Sent) => Promise<Outcome<T>>,
  told: (value: T, fields: z.output<S>) => string | A | Promise<string | A> = () => "",
  { at = {}, kept }: WhenRefused<z.output<S>, A> = {},
): Act<A> {
  return async (work, form) => {
    const read = parseWithZod(ownFields(form), { schema: fields, disableAutoCoercion: true, error: usual })
    const name = String(form.get("form") ?? "").slice(0, 120)
    const changed = form.getAll("changed").join(" ").slice(0, 4_000).split(" ").filter(Boolean)
    const secret = [...form.keys()].filter((one) => /password/i.test(one))
    if (read.status !== "success") {
      const result = read.reply({ hideFields: secret })
      const errors = Object.entries(result.error ?? {}).map(([at, all]) => [at, all ?? []] as const)
      return {
        ...refusal(inAll(errors.map(([, all]) => all))),
        wrong: {
          form: name,
          changed,
          result: { ...result, error: Object.fromEntries(errors.map(([at, all]) => [at, all.map(sayIssue)])) },
        },
      }
    }
    const outcome = await does(work, read.value, { form, key: onceKey(form), changed })
    if (!outcome.ok) {
      const refused = { ...refusal(sayReasons(outcome.reasons)), ...kept?.(read.value) }
      if (!name) return refused
      const fieldErrors = placedAt(outcome.reasons, at)
      return { ...refused, wrong: { form: name, changed, result: read.reply({ hideFields: secret, fieldErrors }) } }
    }
    const what = await told(outcome.value, read.value)
    return typeof what === "string" ? done(what) : what
  }
}

/** What is wrong with a field whose schema names no words of its own for it. */
const usual: z.core.$ZodErrorMap = (issue) =>
  issue.code === "too_big" && issue.origin === "string"
    ? "form.too-long"
    : issue.input === undefined || issue.input === ""
      ? "form.missing"
      : "form.wrong"

/** What is wrong with a form, in one line: in the words of its fields, or how many they are where those say too little. */
function inAll(errors: readonly (readonly string[])[]): string {
  const own = errors.flat().filter((message) => !message.startsWith("form."))
  return own.length > 0 ? sayIssues(own.map((message) => ({ message }))) : say("form.marked", { n: errors.length })
}

interface WhenRefused<Fields, A extends Answered> {
  /** The field at which a reason stands, by its code. */
  readonly at?: { readonly [Code in MessageKey]?: string }
  /** What the answer says besides, such as what is in hand. */
  readonly kept?: (fields: Fields) => Partial<Omit<A, "answer">>
}

/** A use case that refuses nothing, as one that may. */
export const always = async <T>(work: Promise<T>): Promise<Outcome<T>> => accepted(await work)

/** The fields of a form that the schema reads: not what the form itself is told by, nor what the parser takes for its own. */
function ownFields(form: FormData): FormData {
  const own = new FormData()
  for (const [name, value] of form) if (!/^(intent|form|changed|scanId|__\w+__)$/.test(name)) own.append(name, value)
  return own
}

const placedAt = (
  reasons: readonly Reason[],
  at: Readonly<Record<string, string | undefined>>,
): Record<string, string[]> => {
  const placed: Record<string, string[]> = {}
  for (const reason of reasons) {
    const field = at[reason.code] ?? reason.values.field
    if (typeof field === "string" && field) placed[field] = [...(placed[field] ?? []), sayReason(reason)]
  }
  return placed
}

type Answers<M> = keyof M extends never
  ? never
  : M extends Readonly<Record<string, (...all: never[]) => Promise<infer A>>>
    ? A
    : never

interface Otherwise<U, S> {
  /** What a file is for that a form of the page brings; the fields before it come with it. */
  readonly upload?: (file: Readable, name: string, values: Readonly<Record<string, string>>) => Promise<U>
  /** What a scan means on the page; without it, a scan leads where its code belongs. */
  readonly scanned?: (text: string, form: FormData) => Promise<S>
}

/**
 * Answers what a page's forms ask for: by intent the acts that the page knows, a file, or a scan. A right that is missing
 * is a 403, a file that can't be read is refused in words.
 */
export function answerTo<M extends Readonly<Record<string, Act<Answered>>>, U = never, S = never>(
  request: Request,
  work: Work,
  acts: M,
  { upload, scanned }: Otherwise<U, S> = {},
): Promise<Answers<M> | Answered | U | S> {
  return withRights<Answers<M> | Answered | U | S>(async () => {
    if (upload && (request.headers.get("content-type") ?? "").startsWith("multipart/form-data"))
      try {
        return await readUpload(request, upload)
      } catch (error) {
        if (error instanceof FileRefused) return refusal(sayReason(error.reason))
        throw error
      }
    return answerForm(await request.formData(), work, acts, scanned)
  })
}

/** The same for a form that was read already. */
export async function answerForm<M extends Readonly<Record<string, Act<Answered>>>, S = never>(
  form: FormData,
  work: Work,
  acts: M,
  scanned?: Otherwise<never, S>["scanned"],
): Promise<Answers<M> | Answered | S> {
  // a button says its own after what the form says
  const intent = String(form.getAll("intent").at(-1) ?? "")
  const known = Object.hasOwn(acts, intent) ? acts[intent] : undefined
  if (known) return known(work, form) as Promise<Answers<M>>
  const text = String(form.get("text") ?? "")
    .trim()
    .slice(0, 120)
  return scanned ? scanned(text, form) : followScan(work, text)
}

/** The fields that forms of ours have in common, as forms bring them: text, once or several times. */
export const field = {
  /** Short text, without the blanks around it. */
  text: (most = 120) => z.string().trim().max(most).default(""),
  /** The id of a row, or 0 where none is named, which no row has. */
  id: z.coerce.number().int().min(0).catch(0).default(0),
  /** The version of a row that somebody saw. */
  version: z.coerce.number().int().min(0).catch(0).default(0),
  /** A box that is ticked or not. */
  tick: z
    .string()
    .optional()
    .transform((value) => value === "on" || value === "yes"),
  /** A whole number as typed; what is none is NaN, which the use case refuses in its own words. */
  count: z
    .string()
    .default("")
    .transform((text) => (/^\s*\d{1,7}\s*$/.test(text) ? Number(text) : Number.NaN)),
  /** What a form may bring several times. */
  many: <T extends z.ZodType>(one: T, most = 1_000) =>
    z.preprocess(
      (value) => (value === undefined || value === "" ? [] : Array.isArray(value) ? value : [value]),
      z.array(one).max(most),
    ),
}

/** A form that brings nothing but what it asks for. */
export const nothing = z.object({})
