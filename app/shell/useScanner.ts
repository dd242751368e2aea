import { readings } from "core/scanning/index.ts"
import { type RefObject, useEffect, useRef } from "react"

/** Keys of a wedge scanner come closer together than this; a setting of the scanner later. */
export const burstMs = 35
/** After a scan the plate does not act on Enter for so long: some scanners send Enter twice. */
export const quietMs = 500

export interface Scanner {
  /** Whether Enter may make the plate act now: nothing was just scanned, and the key is not part of a burst. */
  plateMayAct(): boolean
}

interface Options {
  readonly line: RefObject<HTMLInputElement | null>
  /** Whether the screen knows a text, so that it counts as a scan even in another field. */
  readonly knows: (text: string) => boolean
  readonly onScan: (text: string) => void
  /** What single keys do at once, by `event.code`: on an empty line, outside a burst, and not in another field. */
  readonly keys?: Readonly<Record<string, () => void>>
}

/**
 * Catches bursts of keys wherever the focus is and gives them to the scan line. In another text field a burst counts
 * as a scan only when it is a known code; then the field gets back what it held before. Single keys pressed outside
 * a field go to the scan line too.
 */
export function useScanner({ line, knows, onScan, keys = {} }: Options): Scanner {
  const state = useRef({ lastKeyAt: 0, previousGap: Number.POSITIVE_INFINITY, burst: "", before: "", lastScanAt: 0 })
  const latest = useRef({ knows, onScan, keys })
  latest.current = { knows, onScan, keys }
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || writes(event.target)) return
      // when the key was struck, not when a busy page came to hear of it
      const now = event.timeStamp
      const current = state.current
      const gap = now - current.lastKeyAt
      current.previousGap = gap
      const field = editable(event.target)
      const single = latest.current.keys[event.code]
      const elsewhere = takesKeys(event.target) && field !== line.current
      if (single && gap > burstMs && !elsewhere && !line.current?.value) {
        current.lastKeyAt = now
        event.preventDefault()
        single()
        return
      }
      if (event.key.length === 1) {
        if (gap > burstMs) {
          current.burst = ""
          current.before = field ? field.value : ""
        }
        current.burst += event.key
        current.lastKeyAt = now
        const input = line.current
        // Space presses buttons and opens choosers, letters choose in a list: these stay where they are
        const taken = event.key === " " || event.target instanceof HTMLSelectElement
        if (!field && !taken && input && document.activeElement !== input) {
          event.preventDefault()
          input.focus()
          input.setRangeText(event.key, input.value.length, input.value.length, "end")
          input.dispatchEvent(new Event("input", { bubbles: true }))
        }
        return
      }
      if (event.key !== "Enter" && event.key !== "Tab") return
      const text = current.burst
      const scanned = gap <= burstMs && text.length >= 4
      current.lastKeyAt = now
      current.burst = ""
      if (!scanned) return
      current.lastScanAt = now
      if (field === line.current) return
      if (!field) {
        // a list had the focus: its letters went nowhere
        event.preventDefault()
        latest.current.onScan(text)
        return
      }
      const code = readings(text).some((reading) => ["sscc", "gtin", "order", "package"].includes(reading.kind))
      if (!code && !latest.current.knows(text)) return
      event.preventDefault()
      event.stopPropagation()
      field.value = current.before
      field.dispatchEvent(new Event("input", { bubbles: true }))
      latest.current.onScan(text)
    }
    window.addEventListener("keydown", onKey, { capture: true })
    return () => window.removeEventListener("keydown", onKey, { capture: true })
  }, [line])
  return {
    plateMayAct: () => {
      const now = performance.now()
      return now - state.current.lastScanAt > quietMs && state.current.previousGap > burstMs
    },
  }
}

/** Whether what is typed now goes into a field or a list. */
export const takesKeys = (target: EventTarget | null): boolean =>
  editable(target) !== null || target instanceof HTMLSelectElement || writes(target)

/** Whether it is a text editor of its own, which all keys belong to. */
const writes = (target: EventTarget | null): boolean => target instanceof HTMLElement && target.isContentEditable

function editable(target: EventTarget | null): HTMLInputElement | HTMLTextAreaElement | null {
  if (target instanceof HTMLTextAreaElement) return target
  if (target instanceof HTMLInputElement && !["checkbox", "radio", "button", "submit", "file"].includes(target.type))
    return target
  return null
}
