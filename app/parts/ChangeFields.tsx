import { payerTerms } from "core/rules/index.ts"
import { optionCodes } from "core/tariff/index.ts"
import type { ReactNode } from "react"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { Check, Choice, TextField } from "./Fields.tsx"

/** What can be chosen when orders are changed. */
export interface ChangeChoices {
  readonly tags: readonly string[]
  readonly patterns: readonly { readonly id: number; readonly name: string }[]
  /** Trucks to come, in words. */
  readonly collections: readonly { readonly id: number; readonly name: string }[]
  readonly services: readonly { readonly id: number; readonly name: string; readonly carrier: string }[]
  readonly packagings: readonly { readonly code: string; readonly name: string }[]
  /** Days on which trucks leave. */
  readonly days: readonly { readonly day: string; readonly name: string }[]
  readonly packs: boolean
}

/** The fields of one thing that can be done with orders. */
export function ChangeFields({ what, choices }: { what: string; choices: ChangeChoices }) {
  const fields = fieldsOf(what, choices)
  return fields ? <div className="change-field">{fields}</div> : null
}

const asPlanned = () => ({ value: "", text: say("group.as-planned") })
const byRules = () => ({ value: "", text: say("group.by-rules") })

function fieldsOf(what: string, choices: ChangeChoices): ReactNode {
  switch (what) {
    case "promise":
      return <TextField name="day" label="group.day" type="date" />
    case "tag":
    case "untag":
      return (
        <>
          <TextField name="tag" id="group-tag" label="group.tag" most={24} list="known-tags" />
          <datalist id="known-tags">
            {choices.tags.map((tag) => (
              <option key={tag} value={tag} />
            ))}
          </datalist>
        </>
      )
    case "note":
      return <TextField name="text" label="group.text" most={300} />
    case "message":
      return <TextField name="text" label="group.message" most={300} />
    case "instructions":
      return <TextField name="text" label="order.instructions" most={200} />
    case "reference":
      return (
        <>
          <TextField name="name" id="group-reference-name" label="group.reference-name" most={30} />
          <TextField name="value" label="group.reference" most={60} />
        </>
      )
    case "weight":
      return <TextField name="weight" id="group-weight" label="group.weight" mode="decimal" most={10} />
    case "declared":
      return <TextField name="amount" id="group-amount" label="group.declared" mode="decimal" most={10} />
    case "ship":
      return <RunFields packs={choices.packs} />
    default:
      return choiceOf(what, choices)
  }
}

function RunFields({ packs }: { packs: boolean }) {
  return (
    <>
      <Choice
        name="rule"
        label="shipping-run.rule"
        value="settled"
        options={(["settled", "cheapest", "fastest"] as const).map((rule) => ({
          value: rule,
          text: say(`shipping-run.rule.${rule}`),
        }))}
      />
      <TextField name="name" id="group-run-name" label="shipping-run.name" most={60} />
      {packs ? <Check name="pack" label="shipping-run.pack-unpacked" on /> : null}
    </>
  )
}

/** What is chosen from a list. */
function choiceOf(what: string, choices: ChangeChoices): ReactNode {
  switch (what) {
    case "leave":
      return (
        <Choice
          name="collection"
          label="group.collection"
          value=""
          options={[asPlanned(), ...choices.collections.map((one) => ({ value: String(one.id), text: one.name }))]}
        />
      )
    case "ship-date":
      return (
        <Choice
          name="day"
          id="group-ship-date"
          label="group.ship-date"
          value=""
          options={[asPlanned(), ...choices.days.map((one) => ({ value: one.day, text: one.name }))]}
        />
      )
    case "service":
      return (
        <Choice
          name="service"
          label="setting.service"
          value=""
          options={[
            byRules(),
            ...choices.services.map((one) => ({ value: String(one.id), text: one.name, group: one.carrier })),
          ]}
        />
      )
    case "packaging":
      return (
        <Choice
          name="packaging"
          label="setting.packaging"
          value=""
          options={[
            byRules(),
            ...choices.packagings.map((one) => ({ value: one.code, text: `${one.code} ${one.name}` })),
          ]}
        />
      )
    case "option":
    case "no-option":
      return (
        <Choice
          name="option"
          label="group.option"
          value={optionCodes[2]}
          options={optionCodes
            .filter((one) => !/^(signature|declared)/.test(one))
            .map((one) => ({ value: one, text: wordFor("option", one) }))}
        />
      )
    case "signature":
      return (
        <Choice
          name="signature"
          label="group.signature"
          value="any"
          options={(["none", "any", "adult"] as const).map((one) => ({
            value: one,
            text: say(`group.signature.${one}`),
          }))}
        />
      )
    case "payer":
      return (
        <>
          <Choice
            name="terms"
            label="setting.payer"
            value=""
            options={[byRules(), ...payerTerms.map((one) => ({ value: one, text: say(`payer.${one}`) }))]}
          />
          <TextField name="account" id="group-account" label="setting.account" most={40} />
        </>
      )
    case "return-label":
      return (
        <Choice
          name="label"
          label="setting.returnLabel"
          value=""
          options={[
            byRules(),
            ...(["print", "mail"] as const).map((one) => ({ value: one, text: say(`return.label.${one}`) })),
          ]}
        />
      )
    case "pattern":
      return (
        <Choice
          name="pattern"
          label="group.pattern"
          value=""
          options={[
            { value: "", text: say("order.pattern-none") },
            ...choices.patterns.map((one) => ({ value: String(one.id), text: one.name })),
          ]}
        />
      )
    default:
      return null
  }
}
