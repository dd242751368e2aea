import { Button } from "@chakra-ui/react"
import { Link } from "react-router"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayTrouble, wordFor } from "words/reasons.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { PaperLinks } from "../parts/PaperLinks.tsx"
import { Table } from "../parts/Table.tsx"
import { useShell } from "../shell/useNow.ts"
import { RunRail } from "./RunRail.tsx"
import type { RunView } from "./runView.server.ts"

/** What a run was made from, in words: `pick-run 12`. */
export function madeOf(origin: string): string {
  const [kind = "orders", ...what] = origin.split(" ")
  return wordFor("shipping-run.made-of", kind, { what: what.join(" ") })
}

/** What the run is, how far it is as a whole, and what it comes to. */
export function RunHead({ run }: { run: RunView }) {
  const { zone } = useShell()
  return (
    <header className="run-head">
      <div className="run-what">
        <h1>
          {say("shipping-run.title", { id: run.id })} {run.name ? <small>{run.name}</small> : null}
        </h1>
        <p>
          {madeOf(run.origin)}, {say(`shipping-run.rule.${run.rule}`)};{" "}
          {say("shipping-run.made", { who: run.madeBy, when: dayAndClock(run.madeAt, zone) })}{" "}
          <Link to="/orders/runs">{say("shipping-run.list")}</Link>
        </p>
        <RunRail rows={run.rows} />
        {run.printing.trouble ? (
          <p className="ember" role="status">
            {sayTrouble(run.printing.trouble)}. {say("shipping-run.print-waiting", { n: run.printing.waiting })}{" "}
            <Link to="/set-up/printers">{say("setup.printers")}</Link>
          </p>
        ) : run.printing.waiting > 0 ? (
          <p role="status">{say("shipping-run.print-waiting", { n: run.printing.waiting })}</p>
        ) : null}
        {run.mayWork ? <RunActs run={run} /> : null}
        {run.mayWork ? <RunSettings run={run} /> : null}
      </div>
      <Carriers run={run} />
    </header>
  )
}

/** What can be done with the run as a whole, besides what the plate does. */
function RunActs({ run }: { run: RunView }) {
  const { counts } = run
  const working = run.state !== "open"
  return (
    <div className="run-acts">
      {counts.unpacked > 0 && run.packs ? (
        <Act intent="prepare" sends={{ order: idsOf(run, "not-packed"), pack: "on" }}>
          <Button type="submit">{say("shipping-run.pack-all", { n: counts.unpacked })}</Button>
        </Act>
      ) : null}
      {counts.stale > 0 ? (
        <Act intent="prepare" sends={{ order: idsOf(run, "stale") }}>
          <Button type="submit">{say("shipping-run.rate-all", { n: counts.stale })}</Button>
        </Act>
      ) : null}
      {counts.failed > 0 ? (
        <Act intent="prepare" sends={{ order: idsOf(run, "failed") }}>
          <Button type="submit">{say("shipping-run.try-all", { n: counts.failed })}</Button>
        </Act>
      ) : null}
      {working ? (
        <>
          <Act intent={run.state === "paused" ? "resume" : "pause"}>
            <Button type="submit">{say(run.state === "paused" ? "shipping-run.resume" : "shipping-run.pause")}</Button>
          </Act>
          <Act intent="stop">
            <Button type="submit">{say("shipping-run.stop")}</Button>
          </Act>
        </>
      ) : null}
      {counts.buying > 0 && run.state === "paused" ? (
        <Act intent="give-up">
          <Button type="submit">{say("shipping-run.give-up", { n: counts.buying })}</Button>
        </Act>
      ) : null}
      {counts.ready > 0 ? <Link to={`/orders/cheaper?run=${run.id}`}>{say("cheaper.page")}</Link> : null}
      <PaperLinks at={`/orders/runs/${run.id}`} intent="print-paper" papers={run.papers} sendKey={run.key} />
      {run.labels > 0 ? <a href={`/orders/runs/${run.id}/labels.pdf`}>{say("shipping-run.one-pdf")}</a> : null}
      {run.labels > 0 && run.unprinted === 0 ? (
        <Act intent="print" sends={{ which: "all", key: run.key }}>
          <Button type="submit">{say("shipping-run.print-again", { n: run.labels })}</Button>
        </Act>
      ) : null}
      {working ? null : (
        <Act intent={run.putAway ? "take-out" : "put-away"}>
          <Button type="submit">{say(run.putAway ? "shipping-run.take-out" : "shipping-run.put-away")}</Button>
        </Act>
      )}
    </div>
  )
}

const idsOf = (run: RunView, step: string): number[] =>
  run.rows.filter((row) => row.step === step && (step !== "not-packed" || row.packable)).map((row) => row.orderId)

function RunSettings({ run }: { run: RunView }) {
  return (
    <details className="run-settings">
      <summary>
        {say("shipping-run.prints")} {say(`shipping-run.prints.${run.prints}`)}, {say("shipping-run.sorted")}{" "}
        {say(`shipping-run.print-order.${run.printOrder}`)}
      </summary>
      <ActForm intent="save" className="run-save" key={`${run.name} ${run.prints} ${run.printOrder}`}>
        <TextField name="name" label="shipping-run.name" value={run.name} most={60} />
        <Choice
          name="prints"
          label="shipping-run.prints"
          value={run.prints}
          options={(["after", "each", "later"] as const).map((one) => ({
            value: one,
            text: say(`shipping-run.prints.${one}`),
          }))}
        />
        <Choice
          name="printOrder"
          label="shipping-run.print-order"
          value={run.printOrder}
          options={(["packing", "doors"] as const).map((one) => ({
            value: one,
            text: say(`shipping-run.print-order.${one}`),
          }))}
        />
        <Button type="submit">{say("shipping-run.save")}</Button>
      </ActForm>
    </details>
  )
}

/** What is ready, or bought where nothing is, by carrier and in all. */
function Carriers({ run }: { run: RunView }) {
  const { carriers, all } = run.ready.all.shipments > 0 ? run.ready : run.bought
  if (all.shipments === 0) return null
  const rows = [...carriers, { ...all, carrier: say("shipping-run.all") }]
  return (
    <Table
      className="rows tight run-carriers"
      caption={say("shipping-run.carriers")}
      sorts={false}
      rows={carriers.length > 1 ? rows : carriers}
      rowKey={(row) => row.carrier}
      rowClass={(row) => (row.carrier === say("shipping-run.all") ? "strong" : undefined)}
      columns={[
        { name: "carrier", heads: true, head: say("shipping-run.carrier"), cell: (row) => row.carrier },
        { name: "shipments", className: "figure", head: say("shipping-run.shipments"), cell: (row) => row.shipments },
        { name: "packages", className: "figure", head: say("shipping-run.packages"), cell: (row) => row.packages },
        { name: "late", className: "figure", head: say("shipping-run.late"), cell: (row) => row.late || "" },
        { name: "cost", className: "figure strong", head: say("shipping-run.head.cost"), cell: (row) => row.cost },
        { name: "charged", className: "figure", head: say("shipping-run.head.charged"), cell: (row) => row.charged },
      ]}
    />
  )
}
