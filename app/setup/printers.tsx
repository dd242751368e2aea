import { Button } from "@chakra-ui/react"
import { labelForms } from "core/documents/index.ts"
import { Link } from "react-router"
import { may } from "server/actors/index.ts"
import { printedKinds } from "server/documents/printers.ts"
import {
  addBench,
  benchesOf,
  benchForm,
  checkPrinter,
  dropJob,
  holdPrinter,
  moveQueue,
  printerForm,
  printersOf,
  printTestPage,
  queueOf,
  removeBench,
  savePrinter,
  saveUses,
  useHalf,
  usePrinter,
  usesMark,
  usesOf,
} from "server/documents/setUp.ts"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/printers"
import { PrinterQueue } from "./PrinterQueue.tsx"
import { PrinterUses } from "./PrinterUses.tsx"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const search = new URL(request.url).searchParams
  const printers = await printersOf(work)
  const chosen = printers.find((one) => one.id === Number(search.get("printer"))) ?? null
  const uses = await usesOf(work, "warehouse")
  return {
    rights: setUpRights(work.actor),
    mayChange: may(work.actor, "printers.manage"),
    printers: printers.map(({ trouble, lookedAt, ...one }) => ({
      ...one,
      trouble: trouble ? sayReason(trouble) : null,
      // printers live in real time, whatever the clock of the business says
      checkedAgo: lookedAt ? Math.floor((Date.now() - lookedAt.getTime()) / 60_000) : null,
    })),
    edits: search.has("edit") || search.has("new"),
    chosenId: chosen?.id ?? null,
    queue: chosen ? await queueOf(work, chosen.id) : [],
    benches: await benchesOf(work.db, work.warehouse.id),
    uses,
    usesMark: usesMark(uses),
    kinds: [...printedKinds],
    key: crypto.randomUUID(),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const one = z.object({ printer: field.id })
  return answerTo(request, context.get(workContext), {
    save: act(printerForm, savePrinter, () => say("printer.saved")),
    check: act(
      one,
      (work, { printer }) => checkPrinter(work, printer),
      ({ name }) => say("printer.check-said", { name }),
    ),
    test: act(
      one,
      (work, { printer }, { key }) => printTestPage(work, printer, key),
      ({ name }) => say("printer.test-said", { name }),
    ),
    hold: act(one, (work, { printer }) => holdPrinter(work, printer, true)),
    "let-go": act(one, (work, { printer }) => holdPrinter(work, printer, false)),
    on: act(one, (work, { printer }) => usePrinter(work, printer, true)),
    off: act(one, (work, { printer }) => usePrinter(work, printer, false)),
    half: act(one, (work, { printer }) => useHalf(work, printer, true)),
    whole: act(one, (work, { printer }) => useHalf(work, printer, false)),
    move: act(
      one.extend({ to: field.id }),
      (work, { printer, to }) => moveQueue(work, printer, to),
      ({ moved, kept }) =>
        kept > 0 ? say("printer.moved-kept", { n: moved, kept }) : say("printer.moved", { n: moved }),
    ),
    drop: act(z.object({ job: field.id }), (work, { job }) => dropJob(work, job)),
    uses: act(
      z.looseObject({ seen: field.text(60) }),
      (work, { seen }, { form }) => saveUses(work, "warehouse", usesIn(form), seen),
      () => say("printer.uses-saved"),
    ),
    "add-bench": act(benchForm, addBench, () => say("bench.saved")),
    "remove-bench": act(z.object({ bench: field.id }), (work, { bench }) => removeBench(work, bench)),
  })
}

/** What a form says prints where: fields called `use-labels-3` for a kind at a bench, 0 for the warehouse. */
const usesIn = (form: FormData) =>
  [...form.entries()].flatMap(([name, value]) => {
    const found = /^use-([a-z-]+)-(\d{1,9})$/.exec(name)
    const kind = printedKinds.find((one) => one === found?.[1])
    return kind && Number(value) > 0
      ? [{ kind, benchId: Number(found?.[2]), printerId: Math.floor(Number(value)) }]
      : []
  })

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.printers")} · ${say("app.name")}` }]

type Loaded = Route.ComponentProps["loaderData"]
export type Printer = Loaded["printers"][number]

export default function Printers({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  useLive(null)
  const chosen = loaderData.printers.find((one) => one.id === loaderData.chosenId) ?? null
  return (
    <Screen
      ribbon={{}}
      name="customers"
      sill={{
        plate: plateOf(loaderData, chosen),
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.printers" rights={loaderData.rights} />
      <div className="two wide-left">
        <section className="scrolls">
          {loaderData.printers.length === 0 ? (
            <p className="note">{say("printer.none")}</p>
          ) : (
            <PrinterList {...loaderData} />
          )}
          <PrinterUses
            kinds={loaderData.kinds}
            benches={loaderData.benches}
            printers={loaderData.printers.filter((one) => one.active)}
            uses={loaderData.uses}
            seen={loaderData.usesMark}
            mayChange={loaderData.mayChange}
          />
        </section>
        <section className="item-edit scrolls">
          {loaderData.edits && loaderData.mayChange ? (
            <PrinterForm printer={chosen} others={loaderData.printers} />
          ) : chosen ? (
            <PrinterQueue printer={chosen} queue={loaderData.queue} others={loaderData.printers} />
          ) : null}
          {loaderData.mayChange && !loaderData.edits ? (
            <p>
              <Link to="?new">{say("printer.new")}</Link>
            </p>
          ) : null}
        </section>
      </div>
    </Screen>
  )
}

function plateOf({ edits, mayChange, key }: Loaded, chosen: Printer | null) {
  if (edits && mayChange)
    return { verb: say("printer.plate"), detail: say("printer.plate-detail"), ready: true, form: "printer-form" }
  if (chosen)
    return {
      verb: say("printer.test"),
      detail: chosen.name,
      ready: chosen.active,
      send: { intent: "test", printer: String(chosen.id), key },
    }
  return { verb: say("setup.printers"), detail: say("printer.new"), ready: mayChange, to: "?new" }
}

function PrinterList({ printers, chosenId }: Loaded) {
  return (
    <Table
      caption={say("setup.printers")}
      rows={printers}
      rowKey={(one) => one.id}
      rowClass={(one) => (one.id === chosenId ? "next" : one.active ? undefined : "pale")}
      columns={[
        {
          name: "name",
          head: say("printer.head.name"),
          heads: true,
          className: "big",
          by: (one) => one.name,
          cell: (one) => <Link to={`?printer=${one.id}`}>{one.name}</Link>,
        },
        {
          name: "form",
          head: say("printer.head.form"),
          cell: (one) => `${say(`form.${one.form}`)}, ${one.dpi} dpi`,
        },
        {
          name: "state",
          head: say("printer.head.state"),
          className: (one) => (one.trouble && one.active ? "ember" : undefined),
          by: (one) => one.state ?? "",
          cell: (one) => (
            <>
              {one.active ? (one.trouble ?? say(stateOf(one.state))) : say("printer.off")}
              {one.held ? `, ${say("printer.held")}` : ""}
              {one.checkedAgo === null ? null : <small> {say("printer.checked", { n: one.checkedAgo })}</small>}
            </>
          ),
        },
        { name: "queue", head: say("printer.head.queue"), className: "figure", cell: (one) => one.waiting },
        {
          name: "acts",
          head: "",
          className: "acts",
          cell: (one) => (
            <Act sends={{ printer: one.id }}>
              <button type="submit" name="intent" value="check" className="as-link">
                {say("printer.check")}
              </button>
              <button type="submit" name="intent" value={one.held ? "let-go" : "hold"} className="as-link">
                {say(one.held ? "printer.let-go" : "printer.hold")}
              </button>
            </Act>
          ),
        },
      ]}
    />
  )
}

const states = ["idle", "processing", "stopped", "unreachable"] as const
const stateOf = (state: string | null) => `printer.state.${states.find((one) => one === state) ?? "unknown"}` as const

function PrinterForm({ printer, others }: { printer: Printer | null; others: readonly Printer[] }) {
  return (
    <ActForm
      intent="save"
      id="printer-form"
      sends={{ id: printer?.id ?? 0, version: printer?.version ?? 0 }}
      key={`${printer?.id ?? 0} ${printer?.version ?? 0}`}
    >
      <h2>{printer ? printer.name : say("printer.new")}</h2>
      <TextField name="name" label="printer.field.name" value={printer?.name} most={60} needed />
      <TextField
        name="uri"
        label="printer.field.uri"
        value={printer?.uri}
        most={200}
        placeholder="ipp://10.0.0.12/ipp/print"
        needed
      />
      <Choice
        name="label_form"
        label="printer.field.form"
        value={printer?.form ?? "4x6"}
        options={labelForms.map((one) => ({ value: one, text: say(`form.${one}`) }))}
      />
      <TextField name="dpi" label="printer.field.dpi" value={String(printer?.dpi ?? 203)} mode="numeric" most={4} />
      <Choice
        name="fallback"
        label="printer.field.fallback"
        value={String(printer?.fallbackId ?? 0)}
        options={[
          { value: "0", text: say("printer.no-fallback") },
          ...others
            .filter((one) => one.active && one.id !== printer?.id)
            .map((one) => ({ value: String(one.id), text: one.name })),
        ]}
      />
      <Button type="submit">{say("printer.plate")}</Button>
    </ActForm>
  )
}
