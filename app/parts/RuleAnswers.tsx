import type { SettingName } from "core/rules/index.ts"
import { Link } from "react-router"
import type { EffectOnDay } from "server/decisions/tryRules.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { type SettingChoices, settingWords } from "./settingsForm.ts"
import { Table } from "./Table.tsx"

interface Tried {
  readonly orderNumber: string
  readonly settled: Partial<
    Record<SettingName, { readonly value: unknown; readonly by: { kind: string; name: string } }>
  >
  readonly tags: readonly string[]
  readonly holds: readonly string[]
  readonly rules: readonly {
    readonly id: number
    readonly name: string
    readonly acts: boolean
    readonly fails: readonly number[]
    readonly sets: readonly SettingName[]
    readonly overruled: readonly SettingName[]
  }[]
}

/** What an order would be sent with, and which rules act on it. */
export function RuleTried({ tried, choices }: { tried: Tried; choices: SettingChoices }) {
  const settled = Object.entries(tried.settled) as [SettingName, NonNullable<Tried["settled"][SettingName]>][]
  return (
    <>
      <h2>{say("rule.tried", { orderNumber: tried.orderNumber })}</h2>
      <Settled settled={tried.settled} choices={choices} />
      {settled.length === 0 ? <p>{say("rule.nothing-set")}</p> : null}
      {tried.tags.length > 0 ? <p>{say("rule.tags", { tags: tried.tags.join(", ") })}</p> : null}
      {tried.holds.length > 0 ? (
        <p className="ember">{say("rule.held-by", { rules: tried.holds.join(", ") })}</p>
      ) : null}
      <Table
        className="rows tight"
        headless
        rows={tried.rules}
        rowKey={(rule) => rule.id}
        rowClass={(rule) => (rule.acts ? undefined : "pale")}
        columns={[
          { name: "rule", head: "", heads: true, cell: (rule) => rule.name || say("rule.this") },
          { name: "does", head: "", cell: whatItDoes },
        ]}
      />
    </>
  )
}

/** What a rule sets on the order it was tried on, or which of its rows do not hold. */
function whatItDoes(rule: Tried["rules"][number]): string {
  if (!rule.acts) return say("rule.fails", { rows: rule.fails.map((at) => at + 1).join(", ") })
  const named = (names: readonly SettingName[]) => names.map((name) => say(`setting.${name}`)).join(", ")
  const sets = rule.sets.length > 0 ? say("rule.sets", { names: named(rule.sets) }) : say("rule.acts")
  const overruled = rule.overruled.length > 0 ? say("rule.overruled", { names: named(rule.overruled) }) : ""
  return [sets, overruled].filter(Boolean).join("; ")
}

/** Settings with who said them. */
export function Settled({ settled, choices }: { settled: Tried["settled"]; choices: SettingChoices }) {
  const rows = Object.entries(settled) as [SettingName, NonNullable<Tried["settled"][SettingName]>][]
  if (rows.length === 0) return null
  return (
    <dl className="settled">
      {rows.map(([name, { value, by }]) => (
        <div key={name}>
          <dt>{say(`setting.${name}`)}</dt>
          <dd>
            {settingWords(name, value, choices)} <small>{wordFor("rule.by", by.kind, { name: by.name })}</small>
          </dd>
        </div>
      ))}
    </dl>
  )
}

/** What a rule would change today, before it is switched on. */
export function RuleEffect({ effect, choices }: { effect: EffectOnDay; choices: SettingChoices }) {
  const { effects } = effect
  return (
    <>
      <h2>
        {effects.length === 0
          ? say("rule.effect-none", { n: effect.looked })
          : say("rule.effect-of", { n: effects.length, of: effect.looked })}
      </h2>
      {effects.length > 0 ? (
        <>
          <p>{say("rule.effect-cost", { amount: effect.dearer.replace("-", "−"), currency: effect.currency })}</p>
          <Table
            className="rows tight"
            rows={effects}
            rowKey={(one) => one.orderNumber}
            columns={[
              {
                name: "order",
                head: say("orders.head.order"),
                heads: true,
                cell: (one) => <Link to={`/orders/${one.orderNumber}`}>{one.orderNumber}</Link>,
              },
              {
                name: "changes",
                head: say("rule.changes"),
                cell: (one) => (
                  <>
                    {one.customer}
                    <br />
                    {[
                      ...one.settings.map((change) =>
                        say("rule.change", {
                          name: say(`setting.${change.name}`),
                          from: settingWords(change.name, change.from, choices),
                          to: settingWords(change.name, change.to, choices),
                        }),
                      ),
                      one.service.from === one.service.to
                        ? ""
                        : say("rule.leaves-by", { from: one.service.from || "–", to: one.service.to || "–" }),
                      ...one.tags.map((tag) => say("rule.tag-of", { tag })),
                      one.holds ? say("rule.stops") : "",
                    ]
                      .filter(Boolean)
                      .join("; ")}
                  </>
                ),
              },
              {
                name: "cost",
                head: say("rule.cost"),
                className: "figure whole",
                cell: (one) => (
                  <>
                    {one.cost.from?.amount ?? "–"} → {one.cost.to?.amount ?? "–"}
                  </>
                ),
              },
            ]}
          />
        </>
      ) : null}
    </>
  )
}
