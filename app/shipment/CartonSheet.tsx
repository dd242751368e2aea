import { Button, Input } from "@chakra-ui/react"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import type { PackageView, ShipmentView } from "./shipmentView.server.ts"

/**
 * What can be done with a package beside scanning into it: weight and size for this shipment only, its contents line by
 * line, copies, merging, splitting, emptying, letting a flaw pass, taking it away. Everything by mouse and by keys.
 */
export function CartonSheet({ one, position, view }: { one: PackageView; position: number; view: ShipmentView }) {
  const { units } = view
  const key = `${one.measured} ${one.size}`
  const others = view.packages.filter((each) => each.number !== one.number && each.state === "open")
  return (
    // closes as soon as a doubt comes or goes, since the form to count again stands under it
    <details className="carton-edit" name="carton-edit" key={one.flaws.map((flaw) => flaw.key).join()}>
      <summary>{say("ship.edit")}</summary>
      <div className={position > 1 ? "carton-sheet left" : "carton-sheet"}>
        <ActForm intent="weigh" sends={{ key: view.key, package: one.number, unit: units.mass }} key={`w ${key}`}>
          <label htmlFor={`w${one.number}`}>{say("ship.weight-field", { unit: units.mass })}</label>
          <Input
            id={`w${one.number}`}
            name="weight"
            inputMode="decimal"
            defaultValue={one.measured ?? ""}
            width="80px"
          />
          <Button type="submit">{say("ship.save")}</Button>
          {view.scales.length > 0 ? (
            <Button
              type="submit"
              name="intent"
              value="scale"
              aria-label={say("scale.weigh-label", { n: one.number })}
              form={`scale-${one.number}`}
            >
              <kbd>.</kbd> {say("scale.weigh")}
            </Button>
          ) : null}
        </ActForm>
        <ActForm sends={{ package: one.number }} id={`scale-${one.number}`} className="scale-form">
          {view.scales.length > 1 ? (
            <select name="scale" aria-label={say("scale.weigh")}>
              {view.scales.map((scale) => (
                <option key={scale.id} value={scale.id}>
                  {scale.name}
                </option>
              ))}
            </select>
          ) : null}
        </ActForm>
        <ActForm intent="resize" sends={{ key: view.key, package: one.number, unit: units.length }} key={`s ${key}`}>
          <span>{say("ship.size-field", { unit: units.length })}</span>
          {(["length", "width", "height"] as const).map((edge, at) => (
            <Input
              key={edge}
              name={edge}
              aria-label={say(`ship.${edge}`)}
              inputMode="decimal"
              defaultValue={one.edgesShown[at]}
              width="58px"
            />
          ))}
          <Button type="submit">{say("ship.save")}</Button>
        </ActForm>
        {one.contents.map((content) => (
          <div key={content.lineId} className="sheet-line">
            <ActForm intent="put" sends={{ key: view.key, package: one.number, line: content.lineId }}>
              <span>
                {content.quantity} × {content.line} {lotsInWords(one, content.lineId)}
              </span>
              <Button
                type="submit"
                name="quantity"
                value="-1"
                aria-label={say("ship.take-one-label", { line: content.line, n: one.number, kind: one.kind })}
              >
                {say("ship.take-one")}
              </Button>
            </ActForm>
            {others.length > 0 ? (
              <ActForm
                intent="move"
                sends={{ key: view.key, package: one.number, line: content.lineId }}
                key={`${content.quantity}`}
              >
                <Input
                  name="quantity"
                  inputMode="numeric"
                  defaultValue={content.quantity}
                  width="52px"
                  aria-label={say("packing.move-quantity", { line: content.line })}
                />
                <Others others={others} label={say("packing.move-label", { line: content.line, n: one.number })} />
                <Button type="submit">{say("packing.move")}</Button>
              </ActForm>
            ) : null}
          </div>
        ))}
        {one.contents.length > 0 ? (
          <ActForm intent="copy" sends={{ key: view.key, package: one.number }}>
            <Input
              name="times"
              inputMode="numeric"
              defaultValue="1"
              width="52px"
              aria-label={say("packing.copy-times", { n: one.number })}
            />
            <Button type="submit">{say("packing.copy")}</Button>
          </ActForm>
        ) : null}
        {others.length > 0 && one.contents.length > 0 ? (
          <ActForm intent="merge" sends={{ key: view.key, package: one.number }}>
            <span>{say("packing.merge")}</span>
            <Others others={others} label={say("packing.merge")} />
            <Button type="submit">{say("packing.merge-go")}</Button>
          </ActForm>
        ) : null}
        {one.flaws
          .filter((flaw) => flaw.code.startsWith("flaw.") && flaw.code !== "flaw.empty" && view.mayOverride)
          .map((flaw) => (
            <ActForm
              intent="override"
              sends={{ key: view.key, package: one.number, flaw: flaw.key }}
              key={flaw.key}
              className="override"
            >
              <span className="ember">{sayReason(flaw)}</span>
              <Input
                name="why"
                maxLength={120}
                required
                aria-label={say("packing.override-why")}
                placeholder={say("packing.override-why")}
              />
              <Button type="submit">{say("packing.override")}</Button>
            </ActForm>
          ))}
        <div className="sheet-acts">
          {one.contents.length > 0 ? (
            <>
              <OneButton sendKey={view.key} one={one} intent="split" words={say("packing.split")} />
              <OneButton sendKey={view.key} one={one} intent="empty" words={say("packing.empty")} />
            </>
          ) : null}
          <OneButton sendKey={view.key} one={one} intent="remove" words={say("ship.remove")} />
        </div>
      </div>
    </details>
  )
}

/** Which lots of a line are in a package, or are to come into it; nothing where it doesn't matter. */
export const lotsInWords = (one: PackageView, lineId: number | string): string =>
  (one.lots[lineId] ?? []).map(({ code, quantity }) => say("packing.of-lot", { n: quantity, lot: code })).join(", ")

function OneButton({
  one,
  intent,
  words,
  sendKey,
}: {
  one: PackageView
  intent: string
  words: string
  sendKey: string
}) {
  return (
    <Act intent={intent} sends={{ key: sendKey, package: one.number }}>
      <Button type="submit">{words}</Button>
    </Act>
  )
}

function Others({ others, label }: { others: readonly PackageView[]; label: string }) {
  return (
    <select name="to" aria-label={label}>
      {others.map((each) => (
        <option key={each.id} value={each.number}>
          {each.number}
        </option>
      ))}
    </select>
  )
}
