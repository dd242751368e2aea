import { Button } from "@chakra-ui/react"
import type { FindingShown, ReturnShownWhole } from "server/returns/list.ts"
import { say } from "words/index.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"

/** What was found, where it is, and where it goes from there. */
export function Findings({
  shown,
  open,
  mayMove,
  mayScrap,
  sendKey,
}: {
  shown: ReturnShownWhole
  open: boolean
  mayMove: boolean
  mayScrap: boolean
  sendKey: string
}) {
  if (shown.findings.length === 0) return null
  return (
    <>
      <h2>{say("goods-back.found")}</h2>
      <ul className="back-found">
        {shown.findings.map((one) => (
          <li key={one.id}>
            <p>
              <b>{`${one.quantity} × ${one.sku ?? one.goods}`}</b>
              {one.lot ? ` ${say("pick.lot", { lot: one.lot })}` : ""},{" "}
              <span className={one.state === "sound" ? undefined : "ember"}>
                {say(`goods-back.condition.${one.state}`)}
              </span>
              {one.note ? `, ${one.note}` : ""}
              <br />
              <small>{whereabouts(one, shown.bins)}</small>
            </p>
            {open && one.inInspection === (one.inStock ? one.quantity : 0) ? (
              <Act intent="undo" sends={{ finding: one.id }}>
                <Button
                  type="submit"
                  variant="ghost"
                  aria-label={say("goods-back.undo-of", { goods: one.sku ?? one.goods, n: one.quantity })}
                >
                  {say("goods-back.undo")}
                </Button>
              </Act>
            ) : null}
            {mayMove && one.inInspection > 0 ? (
              <Onward
                one={one}
                from="inspection"
                mayScrap={mayScrap}
                repair={shown.bins.repair !== null}
                sendKey={sendKey}
              />
            ) : null}
            {mayMove && one.inRepair > 0 ? (
              <Onward one={one} from="repair" mayScrap={mayScrap} repair={false} sendKey={sendKey} />
            ) : null}
          </li>
        ))}
      </ul>
    </>
  )
}

function whereabouts(one: FindingShown, bins: ReturnShownWhole["bins"]): string {
  if (!one.inStock) return say("goods-back.not-in-stock")
  return [
    ...(one.inInspection > 0
      ? [say("goods-back.at.inspection", { n: one.inInspection, bin: bins.inspection ?? "" })]
      : []),
    ...(one.inRepair > 0 ? [say("goods-back.at.repair", { n: one.inRepair, bin: bins.repair ?? "" })] : []),
    ...(one.putBack > 0 ? [say("goods-back.at.back", { n: one.putBack })] : []),
    ...(one.thrownAway > 0 ? [say("goods-back.at.away", { n: one.thrownAway })] : []),
  ].join(", ")
}

/** Where pieces go from the inspection bin, or from repair. */
function Onward({
  one,
  from,
  mayScrap,
  repair,
  sendKey,
}: {
  one: FindingShown
  from: "inspection" | "repair"
  mayScrap: boolean
  repair: boolean
  sendKey: string
}) {
  const id = `${from}-${one.id}`
  const here = from === "inspection" ? one.inInspection : one.inRepair
  return (
    <details className="back-move">
      <summary>{say(from === "inspection" ? "goods-back.move-on" : "goods-back.move-from-repair")}</summary>
      <ActForm
        intent="onward"
        sends={{ finding: one.id, from, key: sendKey }}
        id={`onward-${id}`}
        className="back-onward"
      >
        <TextField
          name="quantity"
          id={`pieces-${id}`}
          label="stock.field.quantity"
          value={String(here)}
          mode="numeric"
          most={7}
        />
        <TextField
          name="bin"
          id={`bin-${id}`}
          label="stock.field.bin"
          value={one.state === "sound" ? one.shelf : ""}
          most={16}
        />
        <TextField name="note" id={`why-${id}`} label="goods-back.why-scrap" most={80} />
        <span className="acts-row">
          <Button type="submit" name="to" value="back">
            {say("goods-back.put-back")}
          </Button>
          {repair ? (
            <Button type="submit" name="to" value="repair" variant="ghost">
              {say("goods-back.to-repair")}
            </Button>
          ) : null}
          {mayScrap ? (
            <Button type="submit" name="to" value="away" variant="ghost">
              {say("goods-back.scrap")}
            </Button>
          ) : null}
        </span>
      </ActForm>
    </details>
  )
}
