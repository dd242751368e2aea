import { holds, type Rule, type RuleFacts } from "./rule.ts"
import { type Routing, type SaidBy, type SettingName, type Settings, type Settled, settingNames } from "./settings.ts"

/** A shipping pattern: a whole shipment's settings under a name. */
export interface Pattern {
  readonly name: string
  readonly settings: Settings
}

export interface SettleInput {
  readonly routing: Routing
  /** Name under which the customer's instruction is told, such as its code. */
  readonly customer: string
  /** What a person set for this order alone, and who. */
  readonly byHand?: Pattern | null
  /** The pattern that a person chose for the order. */
  readonly chosen: Pattern | null
  readonly rules: readonly Rule[]
  readonly patterns: readonly Pattern[]
  readonly facts: RuleFacts
}

/** What a rule came to for an order. */
export interface RuleOutcome {
  readonly id: number
  readonly name: string
  readonly acts: boolean
  /** Places in its `when` of the conditions that do not hold. */
  readonly fails: readonly number[]
  readonly sets: readonly SettingName[]
  /** What it would set and somebody before it had said already, or the customer does not allow. */
  readonly overruled: readonly SettingName[]
}

export interface SettleResult {
  readonly settled: Settled
  readonly tags: readonly string[]
  /** Names of the rules that stop the order. */
  readonly holds: readonly string[]
  readonly rules: readonly RuleOutcome[]
}

/**
 * What an order is sent with: what a person set for it before all, then the customer's routing instruction, then the
 * pattern that a person chose, then the rules in their order. Who speaks first on a setting has said it; a service that the customer does not allow is
 * not said at all.
 */
export function settle({
  routing,
  customer,
  byHand = null,
  chosen,
  rules,
  patterns,
  facts,
}: SettleInput): SettleResult {
  const settled: { [Name in SettingName]?: { value: never; by: SaidBy } } = {}
  const allowed = (service: string) => routing.services.length === 0 || routing.services.includes(service)
  const say = (settings: Settings, by: SaidBy): { sets: SettingName[]; overruled: SettingName[] } => {
    const spoken = settingNames.filter((name) => settings[name] !== undefined)
    const sets = spoken.filter(
      (name) => settled[name] === undefined && (name !== "service" || allowed(settings.service as string)),
    )
    for (const name of sets) settled[name] = { value: settings[name] as never, by }
    return { sets, overruled: spoken.filter((name) => !sets.includes(name)) }
  }
  if (byHand) say(byHand.settings, { kind: "hand", name: byHand.name })
  say(routing, { kind: "routing", name: customer })
  if (chosen) say(chosen.settings, { kind: "pattern", name: chosen.name })
  const tags = new Set<string>()
  const held: string[] = []
  const outcomes = rules.map((rule): RuleOutcome => {
    const fails = rule.when.flatMap((condition, index) => (holds(condition, facts) ? [] : [index]))
    const base = { id: rule.id, name: rule.name, fails }
    if (fails.length > 0) return { ...base, acts: false, sets: [], overruled: [] }
    const by: SaidBy = { kind: "rule", name: rule.name }
    const own = say(rule.does, by)
    const pattern = patterns.find((one) => one.name === rule.does.pattern)
    const more = pattern ? say(pattern.settings, by) : { sets: [], overruled: [] }
    if (rule.does.tag) tags.add(rule.does.tag)
    if (rule.does.hold) held.push(rule.name)
    return {
      ...base,
      acts: true,
      sets: [...own.sets, ...more.sets],
      overruled: [...own.overruled, ...more.overruled.filter((name) => !own.sets.includes(name))],
    }
  })
  return { settled: settled as Settled, tags: [...tags], holds: held, rules: outcomes }
}
