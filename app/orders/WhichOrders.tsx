import { Button } from "@chakra-ui/react"
import { Form, Link, useSubmit } from "react-router"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"

interface Named {
  readonly code: string
  readonly name: string
}

/** The conditions that orders are found by, and the views that keep them. All conditions hold together. */
export function WhichOrders({
  filter,
  query,
  choices,
  views,
}: {
  filter: Readonly<Record<string, string>>
  query: string
  choices: {
    readonly stages: readonly string[]
    readonly promised: readonly string[]
    readonly received: readonly string[]
    readonly sources: readonly Named[]
    readonly carriers: readonly Named[]
    readonly tags: readonly string[]
  }
  views: readonly { id: number; name: string; query: string; shared: boolean; own: boolean; by: string }[]
}) {
  const submit = useSubmit()
  const any = { value: "", text: say("orders.any") }
  const named = (list: readonly Named[]) => [any, ...list.map((one) => ({ value: one.code, text: one.name }))]
  const days = (list: readonly string[]) => [
    any,
    ...list.map((one) => ({ value: one, text: wordFor("orders.day", one) })),
  ]
  const stageWords = (one: string) => wordFor(["line", "stopped"].includes(one) ? "orders.stage" : "stage", one)
  return (
    <aside className="orders-which">
      <h2>{say("views.title")}</h2>
      <ul className="views">
        <li>
          <Link to="/orders" aria-current={query === "" ? "page" : undefined}>
            {say("orders.all")}
          </Link>
        </li>
        {views.map((view) => (
          <li key={view.id}>
            <Link to={`/orders?${view.query}`} aria-current={view.query === query ? "page" : undefined}>
              {view.name}
            </Link>{" "}
            {view.own ? (
              <Act intent="drop-view" sends={{ view: view.id }} className="in-line">
                <button type="submit" className="drop" aria-label={say("views.drop", { name: view.name })}>
                  ×
                </button>
              </Act>
            ) : (
              <small>{say("views.by", { by: view.by })}</small>
            )}
          </li>
        ))}
      </ul>
      <h2>{say("orders.which")}</h2>
      {/* a choice shows at once; typed ones with Enter or the button */}
      <Form
        method="get"
        action="/orders"
        id="which"
        key={query}
        onChange={(event) => {
          const field = event.target as unknown as HTMLInputElement
          const own = event.currentTarget
          if (field.tagName === "SELECT" && field.value !== "between") void submit(own)
        }}
      >
        <Choice
          name="stage"
          label="orders.filter.stage"
          value={filter.stage ?? ""}
          options={[any, ...choices.stages.map((one) => ({ value: one, text: stageWords(one) }))]}
        />
        <TextField
          name="customer"
          label="orders.filter.customer"
          placeholder={say("orders.filter.customer-hint")}
          value={filter.customer}
          most={60}
        />
        <Choice
          name="promised"
          label="orders.filter.promised"
          value={filter.promised ?? ""}
          options={days(choices.promised)}
        />
        <DayPair name="promised" filter={filter} />
        <Choice
          name="carrier"
          label="orders.filter.carrier"
          value={filter.carrier ?? ""}
          options={named(choices.carriers)}
        />
        <Choice
          name="tag"
          label="orders.filter.tag"
          value={filter.tag ?? ""}
          options={[any, ...choices.tags.map((tag) => ({ value: tag, text: tag }))]}
        />
        <Choice
          name="received"
          label="orders.filter.received"
          value={filter.received ?? ""}
          options={days(choices.received)}
        />
        <DayPair name="received" filter={filter} />
        <Choice
          name="source"
          label="orders.filter.source"
          value={filter.source ?? ""}
          options={named(choices.sources)}
        />
        <TextField name="country" label="orders.filter.country" value={filter.country} most={2} />
        <div className="which-acts">
          <Button type="submit">{say("orders.show")}</Button>
          <Link to="/orders">{say("orders.clear")}</Link>
          <a href={`/orders.csv?${query}`} download>
            {say("orders.csv")}
          </a>
        </div>
      </Form>
      {query ? (
        <ActForm intent="keep-view" sends={{ query }} className="view-new" key={`keep ${query}`}>
          <TextField name="name" id="view-name" label="views.name" most={40} needed />
          <Check name="shared" label="views.shared" on={false} />
          <Button type="submit">{say("views.keep")}</Button>
        </ActForm>
      ) : (
        <p className="note">{say("views.none")}</p>
      )}
    </aside>
  )
}

/** From and to, shown while the choice above is “between two days”. */
function DayPair({ name, filter }: { name: string; filter: Readonly<Record<string, string>> }) {
  return (
    <div className="day-pair">
      {(["from", "to"] as const).map((end) => (
        <TextField
          key={end}
          name={`${name}_${end}`}
          label={`orders.filter.${end}`}
          type="date"
          value={filter[`${name}_${end}`]}
        />
      ))}
    </div>
  )
}
