import type { SubmissionResult } from "@conform-to/react"
import { createContext, type ReactNode, type Ref, useContext, useEffect, useRef, useState } from "react"
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

interface FieldsProps extends ActProps {
  /** What fields still lack by what is stored, by their names: stands at them as long as nothing was refused. */
  readonly lacks?: Readonly<Record<string, readonly string[]>>
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
  readonly changed: readonly string[]
}
const States = createContext<FieldStates>({ form: "", errors: {}, typed: {}, changed: [] })

/**
 * What is wrong with a field of the form around it, and what was typed there before it was refused. A field that was left
 * as it was shows what is stored now: somebody else may have changed it meanwhile.
 */
export function useFieldState(name: string, value: string) {
  const { form, errors, typed, changed } = useContext(States)
  const error = errors[name]?.join(" ") ?? ""
  // a field left empty comes back as none
  const before = typed[name] ?? (changed.includes(name) ? "" : undefined)
  const own = error !== "" || changed.includes(name)
  return { error, errorId: errorIdOf(form, name), typed: own && typeof before === "string" ? before : value }
}

/** The rows that were typed under a name before they were refused; null where they show what is stored. */
export function useTypedRows(name: string): readonly Readonly<Record<string, string | undefined>>[] | null {
  const { typed, changed } = useContext(States)
  const rows = typed[name]
  return Array.isArray(rows) && changed.some((one) => one.startsWith(name)) ? rows : null
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
  readonly wrong?: { readonly form: string; readonly result: SubmissionResult; readonly changed: readonly string[] }
}

/**
 * A form with fields that asks the page's action for one thing. Where the action refuses it, what is wrong stands at its
 * field, or under the form by the field's label where a control shows none of its own; the first wrong field has the
 * focus, and what was typed is still there.
 */
export function ActForm({ intent, sends = {}, id, lacks = {}, children, ...form }: FieldsProps) {
  const name = id ?? nameOf(intent, sends)
  const kept = useKept(useActionData<Refused>())
  const wrong = kept?.wrong?.form === name ? kept.wrong : undefined
  const refused = wrong?.result
  const changed = wrong?.changed ?? []
  const others = useOtherErrors(name, refused)
  const note = useRef<HTMLInputElement>(null)
  return (
    <States.Provider
      value={{ form: name, errors: refused?.error ?? lacks, typed: refused?.initialValue ?? {}, changed }}
    >
      <Form
        method="post"
        id={name}
        {...form}
        onSubmit={(event) => {
          if (note.current) note.current.value = changedOf(event.currentTarget, changed).join(" ")
          form.onSubmit?.(event)
        }}
      >
        <Unseen intent={intent} sends={{ ...sends, form: name }} />
        {children}
        <input type="hidden" name="changed" ref={note} />
        {others.map((words) => (
          <small key={words} className="field-error">
            {words}
          </small>
        ))}
      </Form>
    </States.Provider>
  )
}

/** The names of a form's fields that somebody changed: they outlast a refusal whatever is stored meanwhile. */
function changedOf(form: HTMLFormElement, before: readonly string[]): readonly string[] {
  const now = [...form.elements].flatMap((one) => (isChanged(one) ? [one.name] : []))
  return [...new Set([...before, ...now])]
}

type Control = HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement

/** Whether somebody changed a control since the page showed it. */
export function isChanged(control: Element): control is Control {
  if (control instanceof HTMLSelectElement)
    return [...control.options].some((one) => one.selected !== one.defaultSelected)
  if (control instanceof HTMLTextAreaElement) return control.value !== control.defaultValue
  if (!(control instanceof HTMLInputElement) || control.type === "hidden") return false
  // the value of a box is the same ticked or not
  if (control.type === "checkbox" || control.type === "radio") return control.checked !== control.defaultChecked
  return control.value !== control.defaultValue
}

/** Marks the wrong controls of a form and goes to the first; answers what is wrong with those that do not show it. */
function useOtherErrors(name: string, refused: SubmissionResult | undefined): readonly string[] {
  const [others, setOthers] = useState<readonly string[]>([])
  useEffect(() => {
    const form = document.getElementById(name)
    if (!refused?.error || !(form instanceof HTMLFormElement)) return setOthers([])
    const wrong = Object.entries(refused.error).flatMap(([field, words]) => {
      const named = form.elements.namedItem(field)
      const control = named instanceof RadioNodeList ? named[0] : named
      return control instanceof HTMLInputElement ||
        control instanceof HTMLSelectElement ||
        control instanceof HTMLTextAreaElement
        ? [{ field, control, words: words ?? [] }]
        : []
    })
    for (const { control } of wrong) control.setAttribute("aria-invalid", "true")
    // the page itself never scrolls, only the part of it that the field stands in
    wrong[0]?.control.focus({ preventScroll: true })
    wrong[0]?.control.scrollIntoView({ block: "nearest" })
    setOthers(
      wrong
        .filter(({ field, control }) => control.type !== "hidden" && !document.getElementById(errorIdOf(name, field)))
        .map(({ control, words }) => `${labelOf(control)}: ${words.join(" ")}`),
    )
    return () => {
      for (const { control } of wrong) control.removeAttribute("aria-invalid")
    }
  }, [refused, name])
  return others
}

const errorIdOf = (form: string, field: string): string => `${form}-${field}-error`
const labelOf = (control: Control): string =>
  control.labels?.[0]?.textContent?.trim() || control.getAttribute("aria-label") || control.name

/** Forms of one kind on a page are told apart by what they are about. */
const nameOf = (intent = "form", sends: ActProps["sends"] = {}): string =>
  [intent, ...Object.entries(sends).flatMap(([name, value]) => (/^(key|version|revision)$/.test(name) ? [] : [value]))]
    .join("-")
    .replace(/[^\w-]+/g, "-")
    .slice(0, 80)
