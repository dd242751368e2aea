import { Input, NativeSelect, Textarea } from "@chakra-ui/react"
import { useEffect, useRef } from "react"
import { type MessageKey, say } from "words/index.ts"
import { FieldError, isChanged, useFieldState } from "./ActForm.tsx"

/** A field of a form with its label; `name` is also its id unless one is given. */
export function TextField({
  name,
  label,
  value = "",
  id = name,
  ...more
}: {
  name: string
  /** The words' key, or the words themselves where they are somebody's data. */
  label: MessageKey | { readonly words: string }
  value?: string
  id?: string
  type?: string
  mode?: "numeric" | "decimal"
  most?: number
  needed?: boolean
  placeholder?: string
  list?: string
  note?: MessageKey
  onChange?: (value: string) => void
  disabled?: boolean
}) {
  const { most, needed, mode, note, onChange, ...rest } = more
  const { error, errorId, typed } = useFieldState(name, value)
  return (
    <div className="field">
      <label htmlFor={id}>{typeof label === "string" ? say(label) : label.words}</label>
      <Input
        id={id}
        name={name}
        {...(onChange ? { value, onChange: (event) => onChange(event.target.value) } : { defaultValue: typed })}
        maxLength={most ?? 80}
        required={needed}
        inputMode={mode}
        autoComplete="off"
        aria-describedby={[note ? `${id}-note` : "", error ? errorId : ""].filter(Boolean).join(" ") || undefined}
        aria-invalid={error ? true : undefined}
        {...rest}
      />
      <FieldError name={name} />
      {note ? (
        <small id={`${id}-note`} className="field-note">
          {say(note)}
        </small>
      ) : null}
    </div>
  )
}

/** One of several, with its label. */
export function Choice({
  name,
  label,
  value,
  options,
  id = name,
  onChange,
}: {
  name: string
  label: MessageKey
  value: string
  /** Neighbors of one group stand under its name. */
  options: readonly ChoiceOption[]
  id?: string
  onChange?: (value: string) => void
}) {
  const { typed, error, errorId } = useFieldState(name, value)
  const select = useRef<HTMLSelectElement>(null)
  // what is stored anew meanwhile shows, as in the fields beside it, but for a choice that somebody made here
  useEffect(() => {
    const own = select.current
    // what was chosen and is stored by now is nobody's change any more
    const chosen: boolean = own !== null && isChanged(own) && own.value !== typed
    if (!own || chosen) return
    for (const option of own.options) {
      option.defaultSelected = option.value === typed
      option.selected = option.value === typed
    }
  }, [typed])
  return (
    <div className="field">
      <label htmlFor={id}>{say(label)}</label>
      <NativeSelect.Root>
        <NativeSelect.Field
          ref={select}
          id={id}
          name={name}
          aria-invalid={error ? true : undefined}
          aria-describedby={error ? errorId : undefined}
          {...(onChange ? { value, onChange: (event) => onChange(event.target.value) } : { defaultValue: typed })}
        >
          {grouped(options).map(({ group, members }) => {
            const choices = members.map((one) => (
              <option key={one.value} value={one.value}>
                {one.text}
              </option>
            ))
            return group === undefined ? (
              choices
            ) : (
              <optgroup key={group} label={group}>
                {choices}
              </optgroup>
            )
          })}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      <FieldError name={name} />
    </div>
  )
}

export interface ChoiceOption {
  readonly value: string
  readonly text: string
  readonly group?: string
}

function grouped(options: readonly ChoiceOption[]): { group: string | undefined; members: ChoiceOption[] }[] {
  const groups: { group: string | undefined; members: ChoiceOption[] }[] = []
  for (const one of options) {
    const last = groups.at(-1)
    if (last && last.group === one.group) last.members.push(one)
    else groups.push({ group: one.group, members: [one] })
  }
  return groups
}

/** A yes or no. */
export function Check({ name, label, on, id = name }: { name: string; label: MessageKey; on: boolean; id?: string }) {
  const { typed } = useFieldState(name, on ? "on" : "")
  const ticked = typed !== ""
  const box = useRef<HTMLInputElement>(null)
  const shown = useRef(ticked)
  // what is stored anew meanwhile shows, but for a tick that somebody made or took here
  useEffect(() => {
    if (box.current?.checked === shown.current) box.current.checked = ticked
    shown.current = ticked
  }, [ticked])
  return (
    <div className="field">
      <label htmlFor={id} className="check">
        <input ref={box} type="checkbox" id={id} name={name} defaultChecked={ticked} /> {say(label)}
      </label>
      <FieldError name={name} />
    </div>
  )
}

/** Several lines of text with what may be written in them. */
export function Lines({
  name,
  label,
  note,
  value,
  rows,
}: {
  name: string
  label: MessageKey
  note: MessageKey
  value: string
  rows: number
}) {
  const { error, errorId, typed } = useFieldState(name, value)
  return (
    <div className="field">
      <label htmlFor={name}>{say(label)}</label>
      <Textarea
        id={name}
        name={name}
        rows={rows}
        defaultValue={typed}
        aria-describedby={[`${name}-note`, error ? errorId : ""].filter(Boolean).join(" ")}
        aria-invalid={error ? true : undefined}
      />
      <FieldError name={name} />
      <small id={`${name}-note`} className="field-note">
        {say(note)}
      </small>
    </div>
  )
}
