import type { SubmissionResult } from "@conform-to/react"
import { createContext, type ReactNode, type Ref, useContext, useEffect } from "react"
import { Form, type FormProps, useActionData } from "react-router"
import { useKept } from "../shell/useKept.ts"

type Sendable = string | number | boolean | null | undefined

interface ActProps extends Omit<FormProps, "method" | "children"> {
  /** What is asked for: the page's action knows it by this name. Left out where the buttons of the form say it. */
  readonly intent?: string
  /** What goes with it unseen; several under one name as a list. */
  readonly sends?: Readonly<Record<string, Sendable | readonly Sendable[]>>
  readonly children?: ReactNode
  readonly ref?: Ref<HTMLFormElement>
}

/** A form that asks the page's action for one thing with nothing typed into it: mostly a button. */
export function Act({ intent, sends = {}, children, ...form }: ActProps) {
  return (
    <Form method="post" {...form}>
      <Unseen intent={intent} sends={sends} />
      {children}
    </Form>
  )
}

function Unseen({ intent, sends = {} }: Pick<ActProps, "intent" | "sends">) {
  return (
    <>
      {intent === undefined ? null : <input type="hidden" name="intent" value={intent} />}
      {Object.entries(sends).flatMap(([name, value]) =>
        (Array.isArray(value) ? value : [value]).map((one: Sendable, at) => (
          <input key={`${name} ${at}`} type="hidden" name={name} value={String(one ?? "")} />
        )),
      )}
    </>
  )
}

interface FieldStates {
  readonly form: string
  readonly errors: Readonly<Record<string, readonly string[] | null>>
  readonly typed: Readonly<Record<string, unknown>>
}
const States = createContext<FieldStates>({ form: "", errors: {}, typed: {} })

/** What is wrong with a field of the form around it, and what was typed there before it was refused. */
export function useFieldState(name: string, value: string) {
  const { form, errors, typed } = useContext(States)
  const error = errors[name]?.join(" ") ?? ""
  const before = typed[name]
  return { error, errorId: `${form}-${name}-error`, typed: error && typeof before === "string" ? before : value }
}

/** What is wrong with a field, under it. */
export function FieldError({ name }: { name: string }) {
  const { error, errorId } = useFieldState(name, "")
  return error ? (
    <small id={errorId} className="field-error">
      {error}
    </small>
  ) : null
}

interface Refused {
  readonly wrong?: { readonly form: string; readonly result: SubmissionResult }
}

/**
 * A form with fields that asks the page's action for one thing. Where the action refuses it, what is wrong stands at its
 * field, the first wrong field has the focus, and what was typed is still there.
 */
export function ActForm({ intent, sends = {}, id, children, ...form }: ActProps) {
  const name = id ?? nameOf(intent, sends)
  const kept = useKept(useActionData<Refused>())
  const refused = kept?.wrong?.form === name ? kept.wrong.result : undefined
  useEffect(() => {
    if (refused) document.querySelector<HTMLElement>(`#${CSS.escape(name)} [aria-invalid="true"]`)?.focus()
  }, [refused, name])
  return (
    <States.Provider value={{ form: name, errors: refused?.error ?? {}, typed: refused?.initialValue ?? {} }}>
      <Form method="post" id={name} {...form}>
        <Unseen intent={intent} sends={{ ...sends, form: name }} />
        {children}
      </Form>
    </States.Provider>
  )
}

/** Forms of one kind on a page are told apart by what they are about. */
const nameOf = (intent = "form", sends: ActProps["sends"] = {}): string =>
  [intent, ...Object.entries(sends).flatMap(([name, value]) => (/^(key|version|revision)$/.test(name) ? [] : [value]))]
    .join("-")
    .replace(/[^\w-]+/g, "-")
    .slice(0, 80)
