import { Combobox, createListCollection, Portal } from "@chakra-ui/react"
import { useEffect, useMemo, useRef } from "react"
import { useFetcher } from "react-router"
import { type MessageKey, say } from "words/index.ts"

/**
 * A text field that offers what fits while one types; what is typed may also stay as it is. Arrows and Enter choose,
 * Esc closes the list. Without scripts it is a plain text field.
 *
 * @param from address that answers a list for `?find=`
 */
export function LookUp<T>({
  name,
  id,
  label,
  value,
  from,
  show,
  textOf,
  onChange,
  onChoose,
  hiddenLabel = false,
}: {
  name: string
  id: string
  label: MessageKey
  value: string
  from: string
  show: (item: T) => React.ReactNode
  textOf: (item: T) => string
  onChange: (text: string) => void
  onChoose: (item: T) => void
  hiddenLabel?: boolean
}) {
  const fetcher = useFetcher<T[]>()
  const load = useRef(fetcher.load)
  load.current = fetcher.load
  const wait = useRef<ReturnType<typeof setTimeout> | null>(null)
  useEffect(() => () => void (wait.current && clearTimeout(wait.current)), [])
  const found = fetcher.data ?? []
  const collection = useMemo(
    () => createListCollection({ items: found, itemToValue: textOf, itemToString: textOf }),
    [found, textOf],
  )
  return (
    <Combobox.Root
      className="field look-up"
      collection={collection}
      inputValue={value}
      allowCustomValue
      openOnChange
      selectionBehavior="preserve"
      positioning={{ sameWidth: false, placement: "bottom-start" }}
      ids={{ input: id }}
      onInputValueChange={({ inputValue, reason }) => {
        if (reason !== "input-change") return
        onChange(inputValue)
        if (wait.current) clearTimeout(wait.current)
        wait.current = setTimeout(() => {
          if (inputValue.trim().length > 0) void load.current(`${from}?find=${encodeURIComponent(inputValue.trim())}`)
        }, 120)
      }}
      onValueChange={({ items }) => {
        if (items[0]) onChoose(items[0])
      }}
      value={[]}
    >
      <Combobox.Label className={hiddenLabel ? "sr-only" : undefined}>{say(label)}</Combobox.Label>
      <Combobox.Control>
        <Combobox.Input name={name} maxLength={80} autoComplete="off" />
      </Combobox.Control>
      <Portal>
        <Combobox.Positioner>
          <Combobox.Content className="look-up-list">
            {found.map((item) => (
              <Combobox.Item key={textOf(item)} item={item}>
                {show(item)}
              </Combobox.Item>
            ))}
            {found.length === 0 ? <Combobox.Empty>{say("look-up.none")}</Combobox.Empty> : null}
          </Combobox.Content>
        </Combobox.Positioner>
      </Portal>
    </Combobox.Root>
  )
}
