import { Button } from "@chakra-ui/react"
import { countryName } from "core/address/index.ts"
import { localDate } from "core/calendar/index.ts"
import { incoterms } from "core/customs/index.ts"
import { accepted, reason, refused } from "core/refusal/index.ts"
import { type FormEvent, useEffect, useRef, useState } from "react"
import { data, redirect, type ShouldRevalidateFunctionArgs, useFetcher, useNavigation } from "react-router"
import type { BookAddress } from "server/addresses/book.ts"
import type { FoundItem } from "server/goods/lookUp.ts"
import type { Work } from "server/http/context.ts"
import { workContext } from "server/http/context.ts"
import {
  copyOf,
  type DraftContent,
  draft,
  draftContent,
  dropDraft,
  isDraftId,
  saveDraft,
  takeDraft,
} from "server/intake/typed.ts"
import { draftOfQuote } from "server/quotes/order.ts"
import { servicesByName } from "server/setup/services.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { AddressLookUp } from "../parts/AddressLookUp.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { LookUp } from "../parts/LookUp.tsx"
import { nameFields } from "../parts/shipToFields.ts"
import { type Answered, act, always, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/order-new"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  const url = new URL(request.url)
  const id = url.searchParams.get("draft")
  const copy = url.searchParams.get("copy")
  const number = url.searchParams.get("quote")
  if (!id) {
    url.searchParams.set("draft", crypto.randomUUID())
    throw redirect(`/orders/new${url.search}`)
  }
  if (!isDraftId(id)) throw data(null, { status: 404 })
  const known = await draft(work, id)
  if (known?.takenAs) throw redirect(`/orders/${known.takenAs}`)
  const today = localDate(work.now, work.warehouse.zone)
  const copied = known || !copy ? null : await copyOf(work, copy, today)
  const quoted = known || !number ? null : await draftOfQuote(work, number)
  const empty = draftContent.parse({
    ordered_on: today,
    country: work.warehouse.country,
    currency: work.warehouse.currency,
  })
  const content = known?.content ?? copied ?? quoted ?? empty
  return {
    id,
    content,
    services: (await servicesByName(work.db)).map((one) => one.name).sort(),
    version: known?.version ?? 0,
    copied: copied ? copy : null,
    by: known?.by ?? null,
    home: work.warehouse.country,
  }
}

const lineFields = ["sku", "quantity", "unit", "unit_price"] as const

/** The content of a draft from its form: the fields of the head, and those of the lines once for each line. */
function contentFrom(form: FormData): DraftContent | null {
  const head = Object.fromEntries([...form].filter(([name]) => !lineFields.includes(name as never)))
  const columns = lineFields.map((name) => form.getAll(name).map(String))
  const lines = (columns[0] ?? [])
    .map((_, index) => Object.fromEntries(lineFields.map((name, at) => [name, columns[at]?.[index] ?? ""])))
    .filter((line) => line.sku?.trim() || line.quantity?.trim())
  const read = draftContent.safeParse({ ...head, lines })
  return read.success ? read.data : null
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const whole = z.looseObject({ draft: field.text(36), version: field.version })
  return answerTo(request, work, {
    drop: act(
      z.object({ draft: field.text(36) }),
      (_, { draft }) => always(dropDraft(work, draft)),
      () => {
        throw redirect("/orders/intake")
      },
    ),
    save: act(
      whole,
      (_, { draft, version }, { form }) => keep(work, draft, version, form),
      ({ version }) => ({ ...done(""), version }),
    ),
    take: act(
      whole,
      async (_, { draft, version }, { form }) => {
        const kept = await keep(work, draft, version, form)
        return kept.ok ? accepted({ ...kept.value, taken: await takeDraft(work, draft) }) : kept
      },
      ({ version, taken }) => {
        if (!taken.ok) return { ...refusal(sayReasons(taken.reasons)), version }
        const { orderNumber, quote } = taken.value
        throw redirect(quote ? `/orders/quotes/${quote}?orderNumber=${orderNumber}` : `/orders/${orderNumber}`)
      },
    ),
  })
}

async function keep(work: Work, draft: string, version: number, form: FormData) {
  const content = contentFrom(form)
  return content ? saveDraft(work, draft, version, content) : refused(reason("draft.too-long"))
}

/**
 * What was kept is what the screen shows: a save asks for nothing again. Asked while the order is being imported, the
 * loader would lead to the order, past where the taking leads.
 */
export const shouldRevalidate = ({ formData, defaultShouldRevalidate }: ShouldRevalidateFunctionArgs) =>
  formData?.get("intent") === "save" ? false : defaultShouldRevalidate

export const meta: Route.MetaFunction = () => [{ title: `${say("order-new.title")} · ${say("app.name")}` }]

type Line = DraftContent["lines"][number]
const emptyLine: Line = { sku: "", quantity: "", unit: "", unit_price: "" }

export default function OrderNew({ loaderData, actionData: answered }: Route.ComponentProps) {
  return <Typed key={loaderData.id} loaderData={loaderData} answered={answered} />
}

function Typed({
  loaderData,
  answered,
}: {
  loaderData: Awaited<ReturnType<typeof loader>>
  answered: Route.ComponentProps["actionData"]
}) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  const [content, setContent] = useState<DraftContent>(loaderData.content)
  const [facts, setFacts] = useState<Readonly<Record<string, FoundItem>>>({})
  const saving = useAutosave(
    content,
    loaderData.content,
    actionData && "version" in actionData ? actionData.version : null,
    loaderData.version,
    busy,
  )
  const set = (name: keyof DraftContent) => (value: string) => setContent((now) => ({ ...now, [name]: value }))
  const setLine = (index: number, change: Partial<Line>) =>
    setContent((now) => {
      const lines = [...now.lines]
      while (lines.length <= index) lines.push(emptyLine)
      lines[index] = { ...emptyLine, ...lines[index], ...change }
      return { ...now, lines }
    })
  // one line more than there are, and always enough for a small order
  const rows = Math.max(4, content.lines.length + 1)
  const good = content.lines.filter((line) => line.sku.trim() && line.quantity.trim())
  const ready = content.customer.trim() !== "" && good.length > 0
  const head = (
    name: Exclude<keyof DraftContent, "lines" | "quote">,
    more: { type?: string; most?: number; list?: string; mode?: "decimal" } = {},
  ) => <TextField name={name} label={`field.${name}`} value={content[name]} onChange={set(name)} {...more} />
  return (
    <Screen
      ribbon={{}}
      name="order-new"
      sill={{
        plate: ready
          ? {
              verb: say("order-new.plate"),
              detail: say("order-new.plate-detail", {
                n: good.length,
                customer: content.customer,
              }),
              ready: true,
              form: "order-form",
            }
          : { verb: say("order-new.plate"), detail: say("order-new.plate-waits"), ready: false },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("order-new.title")}</h1>
        <p role="status">
          {content.quote ? `${say("order-new.quoted", { number: content.quote })} ` : ""}
          {loaderData.copied ? `${say("order-new.copied", { orderNumber: loaderData.copied })} ` : ""}
          {say(saving.trouble ? "order-new.not-kept" : saving.state === "kept" ? "order-new.kept" : "order-new.typing")}
          {saving.trouble ? <b className="ember"> {saving.trouble}</b> : null}
        </p>
        <Act intent="drop" sends={{ draft: loaderData.id }} className="in-line">
          <Button type="submit" variant="ghost">
            {say("order-new.drop")}
          </Button>
        </Act>
      </div>
      <ActForm
        intent="take"
        sends={{ draft: loaderData.id, version: saving.version, quote: content.quote }}
        id="order-form"
        ref={saving.form}
        className="two typed"
        onSubmit={saving.onSubmit}
      >
        <section className="typed-lines">
          <div className="typed-head">
            {head("customer", { most: 60 })}
            {head("po_number", { most: 40 })}
            {head("order_number", { most: 40 })}
            {head("ordered_on", { type: "date" })}
            {head("promised_on", { type: "date" })}
            {head("ship_on", { type: "date" })}
          </div>
          <table className="rows">
            <caption className="sr-only">{say("order.lines")}</caption>
            <thead>
              <tr>
                <th scope="col">{say("field.sku")}</th>
                <th scope="col" className="figure">
                  {say("field.quantity")}
                </th>
                <th scope="col">{say("field.unit")}</th>
                <th scope="col" className="figure">
                  {say("field.unit_price")}
                </th>
                <th scope="col">{say("order-new.what")}</th>
              </tr>
            </thead>
            <tbody>
              {Array.from({ length: rows }, (_, index) => (
                <DraftLine
                  key={index}
                  index={index}
                  line={content.lines[index] ?? emptyLine}
                  item={facts[(content.lines[index]?.sku ?? "").toUpperCase()]}
                  currency={content.currency}
                  onChange={(change) => setLine(index, change)}
                  onKnown={(one) => setFacts((now) => ({ ...now, [one.sku.toUpperCase()]: one }))}
                  onDrop={() => setContent((now) => ({ ...now, lines: now.lines.filter((_, at) => at !== index) }))}
                />
              ))}
            </tbody>
          </table>
          <div className="typed-head">
            {head("reference", { most: 60 })}
            {head("cost_centre", { most: 60 })}
            {head("currency", { most: 3 })}
            {head("service_asked", { most: 24, list: "services" })}
            {head("freight_paid", { most: 12, mode: "decimal" })}
          </div>
          <datalist id="services">
            {loaderData.services.map((name) => (
              <option key={name} value={name} />
            ))}
          </datalist>
          {head("notes", { most: 500 })}
        </section>
        <section>
          <DraftAddress content={content} home={loaderData.home} onChange={setContent} set={set} />
          <Button type="submit" disabled={busy || !ready}>
            {say("order-new.plate")}
          </Button>
        </section>
      </ActForm>
    </Screen>
  )
}

/** A line as it is typed, with what is known of its item. */
function DraftLine({
  index,
  line,
  item,
  currency,
  onChange,
  onKnown,
  onDrop,
}: {
  index: number
  line: Line
  item: FoundItem | undefined
  currency: string
  onChange: (change: Partial<Line>) => void
  onKnown: (item: FoundItem) => void
  onDrop: () => void
}) {
  return (
    <tr>
      <td className="wide">
        <LookUp<FoundItem>
          name="sku"
          id={`sku-${index}`}
          label="field.sku"
          hiddenLabel
          value={line.sku}
          from="/look-up/items"
          textOf={skuOf}
          show={(one) => (
            <>
              <b className="code">{one.sku}</b> {one.description}{" "}
              <i className={one.free > 0 ? undefined : "ember"}>{say("order-new.free", { n: one.free })}</i>
            </>
          )}
          onChange={(sku) => onChange({ sku })}
          onChoose={(one) => {
            onKnown(one)
            onChange({
              sku: one.sku,
              unit: line.unit || one.units[0] || "each",
              quantity: line.quantity || "1",
              unit_price: line.unit_price || (one.currency === currency ? one.price : ""),
            })
          }}
        />
      </td>
      <td className="figure narrow">
        <LineField
          name="quantity"
          label={say("order-new.quantity-n", { n: index + 1 })}
          value={line.quantity}
          mode="numeric"
          most={6}
          onChange={(value) => onChange({ quantity: value })}
        />
      </td>
      <td className="narrow">
        <LineField
          name="unit"
          label={say("order-new.unit-n", { n: index + 1 })}
          value={line.unit}
          most={16}
          list={item ? `units-${index}` : undefined}
          onChange={(value) => onChange({ unit: value })}
        />
        {item ? (
          <datalist id={`units-${index}`}>
            {item.units.map((unit) => (
              <option key={unit} value={unit} />
            ))}
          </datalist>
        ) : null}
      </td>
      <td className="figure narrow">
        <LineField
          name="unit_price"
          label={say("order-new.price-n", { n: index + 1 })}
          value={line.unit_price}
          mode="decimal"
          most={14}
          onChange={(value) => onChange({ unit_price: value })}
        />
      </td>
      <td>
        {item ? `${item.description}, ${say("order-new.free", { n: item.free })}` : ""}{" "}
        {line.sku || line.quantity ? (
          <Button
            type="button"
            variant="ghost"
            aria-label={say("order-new.remove-n", { n: index + 1 })}
            onClick={onDrop}
          >
            {say("order-new.remove")}
          </Button>
        ) : null}
      </td>
    </tr>
  )
}

/** Where the order goes, and on which terms where that is abroad. */
function DraftAddress({
  content,
  home,
  onChange,
  set,
}: {
  content: DraftContent
  home: string
  onChange: (change: (now: DraftContent) => DraftContent) => void
  set: (name: keyof DraftContent) => (value: string) => void
}) {
  return (
    <>
      <h2>{say("order.address")}</h2>
      <AddressLookUp onChoose={(one) => onChange((now) => ({ ...now, ...chosenAddress(one, now) }))} />
      <div className="typed-address">
        {nameFields.map((name) => (
          <TextField
            key={name}
            name={name}
            label={`order.${name}`}
            value={content[name]}
            onChange={set(name)}
            most={60}
          />
        ))}
        <Choice
          name="address_kind"
          label="order.address_kind"
          value={content.address_kind || "unknown"}
          onChange={set("address_kind")}
          options={(["unknown", "business", "residential"] as const).map((kind) => ({
            value: kind,
            text: say(`kind.${kind}`),
          }))}
        />
      </div>
      {content.country.toUpperCase() !== home && content.country !== "" ? (
        <div className="typed-address">
          <p className="note">{say("order-new.abroad", { country: countryName(content.country.toUpperCase()) })}</p>
          <Choice
            name="incoterm"
            label="order.incoterm"
            value={content.incoterm}
            onChange={set("incoterm")}
            options={[
              { value: "", text: "–" },
              ...Object.entries(incoterms).map(([code, rule]) => ({ value: code, text: `${code} ${rule.title}` })),
            ]}
          />
          <TextField
            name="incoterm_place"
            label="order.incoterm_place"
            value={content.incoterm_place}
            onChange={set("incoterm_place")}
          />
        </div>
      ) : null}
    </>
  )
}

/** The fields of a draft by an address of the directory; the address service's say where, not who. */
const chosenAddress = (one: BookAddress, now: DraftContent): Partial<DraftContent> => ({
  street: one.street,
  city: one.city,
  state: one.state,
  postal_code: one.postalCode,
  country: one.country,
  address_kind: one.kind,
  ...(one.id > 0
    ? {
        customer: now.customer || one.customer,
        company: one.company,
        attention: one.attention,
        street2: one.street2,
        phone: one.phone,
      }
    : {}),
})

/** A cell of a line that is typed into; its label is heard, not seen, since the column's head says it. */
function LineField({
  name,
  label,
  value,
  most,
  mode,
  list,
  onChange,
}: {
  name: string
  label: string
  value: string
  most: number
  mode?: "numeric" | "decimal"
  list?: string
  onChange: (value: string) => void
}) {
  return (
    <input
      name={name}
      aria-label={label}
      value={value}
      maxLength={most}
      inputMode={mode}
      list={list}
      onChange={(event) => onChange(event.target.value)}
    />
  )
}

const skuOf = (item: FoundItem): string => item.sku

/** A pause in typing after which the draft is kept, in milliseconds. */
const pauseMs = 500

/**
 * Keeps the draft at every pause of typing and when the page is left; tells whether what is shown is kept. Nothing is
 * kept while the form itself is on its way (`busy`), and the form waits for a save that is: it is sent with the version
 * that the save made.
 */
function useAutosave(
  content: DraftContent,
  loaded: DraftContent,
  answered: number | null,
  first: number,
  busy: boolean,
) {
  const form = useRef<HTMLFormElement>(null)
  const fetcher = useFetcher<Answered & { version?: number }>()
  const [kept, setKept] = useState(loaded)
  const sent = useRef<DraftContent | null>(null)
  const version = Math.max(first, answered ?? 0, fetcher.data?.version ?? 0)
  const submit = useRef(fetcher.submit)
  submit.current = fetcher.submit
  useEffect(() => {
    if (fetcher.state === "idle" && fetcher.data?.version && sent.current) setKept(sent.current)
  }, [fetcher.state, fetcher.data])
  const dirty = content !== kept
  useEffect(() => {
    if (!dirty || busy || fetcher.state !== "idle") return
    const wait = setTimeout(() => {
      if (!form.current) return
      const values = new FormData(form.current)
      values.set("intent", "save")
      sent.current = content
      void submit.current(values, { method: "post" })
    }, pauseMs)
    return () => clearTimeout(wait)
  }, [dirty, busy, content, fetcher.state])
  const held = useRef(false)
  const onSubmit = (event: FormEvent) => {
    held.current = fetcher.state === "submitting"
    if (held.current) event.preventDefault()
  }
  useEffect(() => {
    if (fetcher.state === "submitting" || !held.current) return
    held.current = false
    form.current?.requestSubmit()
  }, [fetcher.state])
  useEffect(() => {
    const leave = () => {
      if (!dirty || !form.current) return
      const values = new FormData(form.current)
      values.set("intent", "save")
      navigator.sendBeacon(location.href, values)
    }
    window.addEventListener("pagehide", leave)
    return () => window.removeEventListener("pagehide", leave)
  }, [dirty])
  return {
    form,
    onSubmit,
    version,
    state: dirty ? ("typing" as const) : ("kept" as const),
    trouble: fetcher.data?.answer.refused ? fetcher.data.answer.words : null,
  }
}
