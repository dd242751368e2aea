import { Button } from "@chakra-ui/react"
import { Link } from "react-router"
import type { QueuedJob } from "server/documents/setUp.ts"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayTrouble } from "words/reasons.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice } from "../parts/Fields.tsx"
import { Table } from "../parts/Table.tsx"
import { useShell } from "../shell/useNow.ts"
import type { Printer } from "./printers.tsx"

/** What a printer has to print, in its order, and what can be done about it. */
export function PrinterQueue({
  printer,
  queue,
  others,
}: {
  printer: Printer
  queue: readonly QueuedJob[]
  others: readonly Printer[]
}) {
  const { zone } = useShell()
  const elsewhere = others.filter((one) => one.active && one.id !== printer.id)
  return (
    <>
      <h2>{say("printer.queue-of", { name: printer.name })}</h2>
      <p className="code">{printer.uri}</p>
      {printer.model ? <p>{say("printer.model", { model: printer.model })}</p> : null}
      {printer.media.length > 0 ? <p>{say("printer.media", { media: printer.media.slice(0, 4).join(", ") })}</p> : null}
      <div className="printer-acts">
        <Link to={`?printer=${printer.id}&edit`}>{say("printer.edit")}</Link>
        <Act sends={{ printer: printer.id }}>
          <button type="submit" name="intent" value={printer.active ? "off" : "on"} className="as-link">
            {say(printer.active ? "printer.switch-off" : "printer.switch-on")}
          </button>
          {printer.form === "half-letter" ? (
            <button type="submit" name="intent" value={printer.halfFree ? "whole" : "half"} className="as-link">
              {say(printer.halfFree ? "printer.half-off" : "printer.half")}
            </button>
          ) : null}
        </Act>
      </div>
      {queue.length === 0 ? (
        <p className="note">{say("printer.queue-empty", { name: printer.name })}</p>
      ) : (
        <Table
          className="rows tight"
          caption={say("printer.queue-of", { name: printer.name })}
          sorts={false}
          rows={queue}
          rowKey={(job) => job.id}
          columns={[
            {
              name: "paper",
              head: say("printer.head.paper"),
              heads: true,
              cell: (job) => (
                <>
                  {job.name} <small>{say(`papers.kind.${job.kind}`)}</small>
                </>
              ),
            },
            {
              name: "state",
              head: say("printer.head.state"),
              className: (job) => (job.trouble ? "ember" : undefined),
              cell: (job) => (job.trouble ? sayTrouble(job.trouble) : say(`printer.job.${job.state}`)),
            },
            { name: "asked", head: say("printer.head.asked"), cell: (job) => clock(job.askedAt, zone) },
            {
              name: "acts",
              head: "",
              className: "acts",
              cell: (job) =>
                job.state === "sent" ? null : (
                  <Act intent="drop" sends={{ job: job.id }}>
                    <button type="submit" className="as-link">
                      {say("printer.drop")}
                    </button>
                  </Act>
                ),
            },
          ]}
        />
      )}
      {queue.some((job) => job.state !== "cancelled") && elsewhere.length > 0 ? (
        <ActForm intent="move" sends={{ printer: printer.id }} className="printer-move">
          <Choice
            name="to"
            label="printer.move"
            value={String(elsewhere[0]?.id ?? 0)}
            options={elsewhere.map((one) => ({ value: String(one.id), text: one.name }))}
          />
          <Button type="submit">{say("printer.move-do")}</Button>
        </ActForm>
      ) : null}
    </>
  )
}
