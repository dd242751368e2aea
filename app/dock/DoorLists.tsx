import { Button } from "@chakra-ui/react"
import { clock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { Act } from "../parts/ActForm.tsx"
import { useShell } from "../shell/useNow.ts"
import type { OpenDoorData } from "./dockView.server.ts"

type Pack = OpenDoorData["packages"][number]

/** What is not on the truck: what is missing, and what stays. */
export function MissingList({ one }: { one: OpenDoorData }) {
  const { zone } = useShell()
  const shown = one.packages.filter((pack) => pack.state === "labelled" || pack.state === "left-behind")
  return (
    <ul className="door-missing">
      {shown.map((pack) => (
        <li key={pack.id} className={pack.state === "left-behind" || pack.stopped ? "behind" : undefined}>
          <b>{pack.name}</b>
          <span>
            {pack.receiver}, {pack.place}
            <br />
            {pack.service}, {pack.lb} lb
          </span>
          <span>
            {pack.stopped ? <b className="ember">{say("dock.stopped")} </b> : null}
            {pack.seenAt && pack.seenWhere
              ? say(`dock.seen.${pack.seenWhere.place}`, {
                  time: clock(pack.seenAt, zone),
                  door: pack.seenWhere.door,
                })
              : ""}
            {pack.next !== undefined ? <NextTruck next={pack.next} /> : null}
          </span>
          {one.closedAt || pack.state !== "labelled" || pack.stopped ? null : (
            <Act intent="by-hand" sends={{ collection: one.id, name: pack.name }}>
              <Button type="submit" aria-label={`${say("dock.by-hand")} ${pack.name}`}>
                {say("dock.by-hand")}
              </Button>
            </Act>
          )}
          {one.closedAt ? null : (
            <Stay
              collection={one.id}
              packages={[pack.id]}
              intent={pack.state === "left-behind" ? "come" : "stay"}
              words={say(pack.state === "left-behind" ? "dock.come" : "dock.stay")}
              name={pack.name}
            />
          )}
        </li>
      ))}
    </ul>
  )
}

/** The truck that a package goes with which stays, and what that means for its promise. */
function NextTruck({ next }: { next: NonNullable<Pack["next"]> | null }) {
  const { zone } = useShell()
  if (!next) return <span className="next-truck ember">{say("dock.no-next")}</span>
  const { arrivesOn, promisedOn } = next
  const late = arrivesOn !== null && promisedOn !== null && arrivesOn > promisedOn
  return (
    <span className="next-truck">
      {say("dock.next", { door: next.door, day: shortDay(next.onDate), time: clock(next.cutOff, zone) })}{" "}
      {arrivesOn === null ? null : (
        <b className={late ? "ember" : undefined}>
          {promisedOn === null
            ? say("dock.next-arrives", { day: shortDay(arrivesOn) })
            : say(late ? "dock.next-late" : "dock.next-on-time", {
                day: shortDay(arrivesOn),
                promised: shortDay(promisedOn),
              })}
        </b>
      )}
    </span>
  )
}

/** What is on the truck, to be unloaded again, or put on a form of its own before the door is closed. */
export function LoadedList({ one }: { one: OpenDoorData }) {
  const loaded = one.packages.filter((pack) => pack.state === "on-truck")
  if (one.closedAt !== null || loaded.length === 0) return null
  const free = loaded.filter((pack) => pack.formId === null)
  const numberOf = new Map(one.forms.map((form) => [form.id, form.number]))
  return (
    <details className="door-loaded" open={loaded.some((pack) => pack.stopped)}>
      <summary>
        {say("dock.loaded-list")} ({loaded.length})
      </summary>
      <ul>
        {loaded.map((pack) => (
          <LoadedRow
            key={pack.id}
            pack={pack}
            collection={one.id}
            form={pack.formId === null ? null : (numberOf.get(pack.formId) ?? "")}
            choosable={free.length > 1}
          />
        ))}
      </ul>
      {free.length > 1 ? (
        <Act intent="make-form" id="make-form" sends={{ collection: one.id }} className="door-make-form">
          <span>{say("form.make-note")}</span>
          <Button type="submit">{say("form.make")}</Button>
        </Act>
      ) : null}
    </details>
  )
}

function LoadedRow({
  pack,
  collection,
  form,
  choosable,
}: {
  pack: Pack
  collection: number
  form: string | null
  choosable: boolean
}) {
  return (
    <li>
      {choosable && form === null ? (
        <input
          type="checkbox"
          name="package"
          value={pack.id}
          form="make-form"
          aria-label={say("form.choose-one", { package: pack.name })}
        />
      ) : null}
      <b>{pack.name}</b>{" "}
      <span>
        {pack.receiver}, {pack.place}, {pack.lb} lb{" "}
        {pack.stopped ? <b className="ember">{say("dock.stopped")}</b> : null}
      </span>
      {form === null ? (
        <Act intent="take-off" sends={{ collection, package: pack.id }}>
          <Button type="submit" aria-label={`${say("dock.take-off")} ${pack.name}`}>
            {say("dock.take-off")}
          </Button>
        </Act>
      ) : (
        <span className="code">{form}</span>
      )}
    </li>
  )
}

/** Leaves packages behind, or takes that back. */
export function Stay({
  collection,
  packages,
  intent,
  words,
  name,
}: {
  collection: number
  packages: readonly number[]
  intent: string
  words: string
  name: string
}) {
  return (
    <Act intent={intent} sends={{ collection, package: packages }}>
      <Button type="submit" aria-label={`${words} ${name}`.trim()}>
        {words}
      </Button>
    </Act>
  )
}
