import { Button } from "@chakra-ui/react"
import type { ReactNode } from "react"
import { Form, Link } from "react-router"
import { type MessageKey, say } from "words/index.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Answer, Plate } from "../shell/Sill.tsx"
import { Choice, TextField } from "./Fields.tsx"
import { Table, type TableColumn } from "./Table.tsx"

export interface SearchField {
  readonly name: string
  readonly label: MessageKey
  readonly value: string
  /** What can be chosen; without it, it is a day. */
  readonly options?: readonly { readonly value: string; readonly text: string }[]
}

export interface Asked {
  readonly text: string
  readonly page: number
}

/** What the address of a searched list asks for: a text, one of the values of each choice, a page. */
export function searchAsked(request: Request) {
  const query = new URL(request.url).searchParams
  return {
    asked: {
      text: (query.get("find") ?? "").slice(0, 60),
      page: Math.min(10_000, Math.max(1, Math.trunc(Number(query.get("page"))) || 1)),
    } satisfies Asked,
    /** The value of a choice, or what holds where the address names none of them. */
    one: <T extends string, Else extends string>(name: string, values: readonly T[], otherwise: Else): T | Else =>
      values.find((value) => value === query.get(name)) ?? otherwise,
    query,
  }
}

/** A choice among `values` by their words, with `any` first where nothing need be chosen. */
export const searchChoice = <T extends string>(
  field: Omit<SearchField, "options">,
  values: readonly T[],
  words: (value: T) => string,
  any?: string,
): SearchField => ({
  ...field,
  options: [
    ...(any === undefined ? [] : [{ value: "", text: any }]),
    ...values.map((value) => ({ value, text: words(value) })),
  ],
})

/** The lists that rows stand in, each with how many there are; what is overdue stands out. */
export function ListCounts({
  by = "list",
  lists,
}: {
  /** What the address calls it. */
  by?: string
  lists: readonly { readonly list: string; readonly name: string; readonly n: number }[]
}) {
  return (
    <p>
      {lists.map(({ list, name, n }, index) => (
        <span key={list}>
          {index > 0 ? ", " : ""}
          <Link to={`?${by}=${list}`} className={list === "overdue" && n > 0 ? "ember" : undefined}>
            {`${name} ${n}`}
          </Link>
        </span>
      ))}
    </p>
  )
}

const dayPlate = (): Plate => ({ verb: say("order.plate.day"), detail: "", ready: true, to: "/" })

/** The way back to the dock, from lists that are kept there. */
export const dockPlate = (): Plate => ({ verb: say("form.to-dock"), detail: "", ready: true, to: "/dock" })

/**
 * A long list on a screen of its own: what it is, a search over it, its rows by the page, and what can be done with them.
 */
export function SearchedList<Row extends { readonly id: number }>({
  name,
  title,
  head,
  plate = dayPlate(),
  answer,
  words = [[say("words.order"), say("words.order.does")]],
  find,
  asked,
  fields,
  rows,
  more,
  columns,
  className = "message-list",
  nothing,
  none = nothing,
  children,
}: {
  name: string
  title: MessageKey
  /** Beside the heading. */
  head?: ReactNode
  plate?: Plate
  answer: Answer | undefined
  words?: readonly (readonly [string, string])[]
  find: MessageKey
  asked: Asked
  fields: readonly SearchField[]
  rows: readonly Row[]
  /** Whether older ones follow. */
  more: boolean
  columns: readonly TableColumn<Row>[]
  className?: string
  /** What is said where nothing was found … */
  nothing: MessageKey
  /** … and where nothing was looked for. */
  none?: MessageKey
  /** Under the list. */
  children?: ReactNode
}) {
  const at = (page: number) =>
    `?${new URLSearchParams([
      ["find", asked.text],
      ...fields.map((field) => [field.name, field.value]),
      ["page", String(page)],
    ])}`
  const narrowed = asked.text !== "" || fields.some((field) => field.value !== (field.options?.[0]?.value ?? ""))
  return (
    <Screen ribbon={{}} name={name} sill={{ plate, answer, words }}>
      <div className="place-head">
        <h1>{say(title)}</h1>
        {head}
      </div>
      <search>
        <Form className="forms-find">
          <TextField name="find" label={find} value={asked.text} most={60} />
          {fields.map(({ options, ...field }) =>
            options ? (
              <Choice key={field.name} {...field} options={[...options]} />
            ) : (
              <TextField key={field.name} {...field} type="date" />
            ),
          )}
          <Button type="submit">{say("list.search")}</Button>
        </Form>
      </search>
      {rows.length === 0 ? (
        <p className="nothing">{say(narrowed ? nothing : none)}</p>
      ) : (
        <div className={className}>
          <Table caption={say(title)} rows={rows} rowKey={(row) => row.id} sorts={false} columns={columns} />
        </div>
      )}
      {asked.page > 1 || more ? (
        <p className="pages">
          {asked.page > 1 ? <Link to={at(asked.page - 1)}>{say("list.newer")}</Link> : null}{" "}
          {more ? <Link to={at(asked.page + 1)}>{say("list.older")}</Link> : null}
        </p>
      ) : null}
      {children}
    </Screen>
  )
}
