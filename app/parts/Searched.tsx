import { Button } from "@chakra-ui/react"
import { Form, Link } from "react-router"
import { type MessageKey, say } from "words/index.ts"
import { Choice, TextField } from "./Fields.tsx"

export interface SearchChoice {
  readonly name: string
  readonly label: MessageKey
  readonly value: string
  readonly options: readonly { readonly value: string; readonly text: string }[]
}

/** The search over a long list: what is looked for, and what it is narrowed to. */
export function FindForm({
  label,
  value,
  choices,
}: {
  label: MessageKey
  value: string
  choices: readonly SearchChoice[]
}) {
  return (
    <search>
      <Form className="forms-find">
        <TextField name="find" label={label} value={value} most={60} />
        {choices.map((one) => (
          <Choice key={one.name} {...one} options={[...one.options]} />
        ))}
        <Button type="submit">{say("list.search")}</Button>
      </Form>
    </search>
  )
}

/** The ways to newer and older pages of a list, by what it is narrowed to. */
export function Pages({
  page,
  more,
  search,
}: {
  page: number
  more: boolean
  search: Readonly<Record<string, string>>
}) {
  if (page === 1 && !more) return null
  const at = (to: number) => `?${new URLSearchParams({ ...search, page: String(to) })}`
  return (
    <p className="pages">
      {page > 1 ? <Link to={at(page - 1)}>{say("list.newer")}</Link> : null}{" "}
      {more ? <Link to={at(page + 1)}>{say("list.older")}</Link> : null}
    </p>
  )
}

/** The page that an address asks for. */
export const pageAsked = (query: URLSearchParams): number =>
  Math.min(10_000, Math.max(1, Number(query.get("page")) || 1))
