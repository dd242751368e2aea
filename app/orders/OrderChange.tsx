import { Button } from "@chakra-ui/react"
import type { PendingChange } from "server/intake/change.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { Act } from "../parts/ActForm.tsx"
import { useShell } from "../shell/useNow.ts"

/** What the source says against what is here, and the decision between them. */
export function OrderChange({
  change,
  mayWork,
  labelled,
}: {
  change: PendingChange
  mayWork: boolean
  /** Its labels are bought: they are voided before it is canceled. */
  labelled: boolean
}) {
  const { zone } = useShell()
  const cancelled = change.kind === "cancelled"
  const back = change.lines.reduce(
    (sum, line) => sum + Math.max(0, line.picked - (cancelled ? 0 : (line.source ?? 0))),
    0,
  )
  return (
    <section className="order-change" aria-label={say("change.title")}>
      <h2 className="ember">{say(cancelled ? "change.cancelled" : "change.title")}</h2>
      <p>
        {change.cameWith}, {dayAndClock(change.cameAt, zone)}
      </p>
      <table className="rows tight">
        <thead>
          <tr>
            <th scope="col">{say("change.what")}</th>
            <th scope="col" className="figure">
              {say("change.here")}
            </th>
            <th scope="col" className="figure">
              {say("change.picked")}
            </th>
            <th scope="col" className="figure">
              {say("change.source")}
            </th>
          </tr>
        </thead>
        <tbody>
          {change.lines.map((line, index) => (
            <tr key={index} className={line.here === line.source ? "pale" : undefined}>
              <th scope="row" className="code">
                {line.sku}
              </th>
              <td className="figure">{line.here ?? "–"}</td>
              <td className="figure">{line.picked || "–"}</td>
              <td
                className={[
                  cancelled || line.source === null ? "figure-word" : "figure",
                  line.here === line.source ? "" : "ember",
                ].join(" ")}
              >
                {cancelled ? say("change.nothing") : (line.source ?? say("change.gone"))}
              </td>
            </tr>
          ))}
          {change.fields.map((one) => (
            <tr key={one.field}>
              <th scope="row" className="big">
                {wordFor("order", one.field)}
              </th>
              <td colSpan={2}>{one.here || "–"}</td>
              <td className="ember">{one.source || "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {back > 0 ? <p>{say("change.back", { n: back })}</p> : null}
      {mayWork ? (
        <Act sends={{ change: change.id }} className="buttons">
          <Button
            type="submit"
            name="intent"
            value={cancelled && labelled ? "void-cancel" : "take-change"}
            variant="solid"
          >
            {say(!cancelled ? "change.take" : labelled ? "change.void-cancel" : "change.cancel")}
          </Button>{" "}
          <Button type="submit" name="intent" value="keep-change">
            {say("change.keep")}
          </Button>
        </Act>
      ) : null}
    </section>
  )
}
