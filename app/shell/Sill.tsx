import { ScanBarcode } from "lucide-react"
import { type ReactNode, useEffect, useRef, useState } from "react"
import { Form, useFetcher, useNavigate, useNavigation, useSubmit } from "react-router"
import { say } from "words/index.ts"
import { EnterPlate } from "./EnterPlate.tsx"
import { LastSheet, WordsSheet } from "./SillSheets.tsx"
import { refusalSound } from "./sound.ts"
import { placeKeys } from "./TopLine.tsx"
import { useNow } from "./useNow.ts"
import { useScanFocus } from "./useScanFocus.ts"
import { useScanner } from "./useScanner.ts"
import { useScanQueue } from "./useScanQueue.ts"
import { useSingleKeys } from "./useSingleKeys.ts"

/** The one primary action here and now, or what it waits for. */
export interface Plate {
  readonly verb: string
  readonly detail: string
  readonly ready: boolean
  /** Fields of the form that the plate sends to its own route … */
  readonly send?: Readonly<Record<string, string>>
  /** … or where it goes, … */
  readonly to?: string
  /** … or the form of the screen that it submits. */
  readonly form?: string
}

/** What a text was understood as before Enter. */
export interface Understood {
  readonly words: string
  readonly fits: boolean
}

/** What came of the last thing done, under the scan line; `key` tells one outcome from the next. */
export interface Answer {
  readonly key: string
  readonly refused: boolean
  readonly words: string
}

export interface SillProps {
  readonly plate: Plate
  /** Reads a text with what the screen knows; null leaves it to the server. */
  readonly understand?: (text: string) => Understood | null
  /** Does what a text asks for on the screen itself; false leaves it to the server. */
  readonly does?: (text: string) => boolean
  /** Sent along with what is scanned. */
  readonly scanFields?: Readonly<Record<string, string>>
  readonly answer?: Answer | null
  readonly words: readonly (readonly [string, string])[]
  readonly resting?: ReactNode
  /** Single keys that act at once, by `event.code`; a person can switch them off. */
  readonly keys?: Readonly<Record<string, () => void>>
}

/** The bottom of every screen: scan line and Enter plate. */
export function Sill({ plate, understand, does, scanFields = {}, answer, words, resting, keys }: SillProps) {
  const now = useNow()
  const line = useRef<HTMLInputElement>(null)
  const plateForm = useRef<HTMLFormElement>(null)
  const plateLink = useRef<HTMLAnchorElement>(null)
  const [text, setText] = useState("")
  const [showWords, setShowWords] = useState(false)
  const [showLast, setShowLast] = useState(false)
  const [history, setHistory] = useState<{ at: Date; text: string }[]>([])
  const submit = useSubmit()
  const navigate = useNavigate()
  const navigation = useNavigation()
  const reading = useFetcher<Understood>()
  const known = text.trim() && understand ? understand(text.trim()) : null
  const queue = useScanQueue((value) =>
    submit({ ...scanFields, intent: "scan", text: value, scanId: crypto.randomUUID() }, { method: "post" }),
  )

  const read = (raw: string) => {
    const value = raw.trim()
    if (!value || !(does?.(value) || queue.add(value))) return
    setHistory((before) => [{ at: now, text: value }, ...before].slice(0, 8))
    setText("")
  }
  const [singleKeys, setSingleKeys] = useSingleKeys()
  const scanner = useScanner({
    line,
    knows: (value) => understand?.(value)?.fits === true,
    onScan: read,
    keys: singleKeys ? keys : undefined,
  })

  const act = () => {
    if (!plate.ready || navigation.state !== "idle" || queue.left > 0) return
    if (plate.form) document.querySelector<HTMLFormElement>(`#${plate.form}`)?.requestSubmit()
    else if (plate.to) plateLink.current?.click()
    else plateForm.current?.requestSubmit()
  }

  // what the screen itself does not know is asked of the server, shortly after the last key
  const ask = reading.load
  const needsAsking = text.trim() !== "" && !known
  useEffect(() => {
    if (!needsAsking) return
    const timer = setTimeout(() => void ask(`/scan?text=${encodeURIComponent(text.trim())}`), 90)
    return () => clearTimeout(timer)
  }, [text, needsAsking, ask])

  useScanFocus(line, navigation.state === "idle", answer)
  const refusedKey = answer?.refused ? answer.key : ""
  useEffect(() => {
    if (refusedKey) refusalSound()
  }, [refusedKey])

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const place = placeKeys[event.key]
      if (place) {
        event.preventDefault()
        void navigate(place)
      } else if (event.key === "F1") {
        event.preventDefault()
        setShowWords((shown) => !shown)
      } else if (event.key === "PageUp" && document.activeElement === line.current) {
        event.preventDefault()
        setShowLast((shown) => !shown)
      } else if (event.key === "Escape") {
        setText("")
        setShowWords(false)
        setShowLast(false)
        line.current?.focus({ preventScroll: true })
      }
    }
    window.addEventListener("keydown", onKey)
    return () => window.removeEventListener("keydown", onKey)
  }, [navigate])

  const understood = known ?? (needsAsking ? (reading.data ?? null) : null)
  const busy = navigation.state !== "idle"
  return (
    <footer className={answer?.refused ? "sill refused" : "sill"}>
      {refusedKey ? <div key={refusedKey} className="flash" aria-hidden="true" /> : null}
      {showWords ? (
        <WordsSheet
          words={words}
          singleKeys={keys ? singleKeys : null}
          onSingleKeys={setSingleKeys}
          onClose={() => setShowWords(false)}
        />
      ) : null}
      {showLast ? <LastSheet history={history} /> : null}
      <Form
        method="post"
        className="scan"
        onSubmit={(event) => {
          event.preventDefault()
          if (text.trim()) read(text)
          else if (scanner.plateMayAct()) act()
        }}
      >
        {Object.entries(scanFields).map(([name, value]) => (
          <input key={name} type="hidden" name={name} value={value} />
        ))}
        <input type="hidden" name="intent" value="scan" />
        <ScanBarcode size={30} aria-hidden="true" className="scan-sign" />
        <input
          ref={line}
          id="scan-line"
          name="text"
          value={text}
          onChange={(event) => setText(event.target.value)}
          placeholder={say("scan.placeholder")}
          aria-label={say("scan.label")}
          autoComplete="off"
          autoCorrect="off"
          spellCheck={false}
          autoFocus
          aria-describedby="scan-answer"
          maxLength={120}
        />
        <noscript>
          <button type="submit" className="on-night">
            {say("scan.read")}
          </button>
        </noscript>
        <span className="scan-keys">
          <button
            type="button"
            onClick={() => {
              setText("")
              line.current?.focus()
            }}
          >
            <kbd>Esc</kbd> {say("scan.clear")}
          </button>
          <button type="button" aria-expanded={showLast} onClick={() => setShowLast(!showLast)}>
            <kbd>PgUp</kbd> {say("scan.last")}
          </button>
          <button type="button" aria-expanded={showWords} onClick={() => setShowWords(!showWords)}>
            <kbd>F1</kbd> {say("scan.words")}
          </button>
        </span>
        <p id="scan-answer" className="scan-answer" role={answer?.refused && !text ? "alert" : "status"}>
          {text.trim()
            ? (understood?.words ?? "")
            : queue.left > 0
              ? say("scan.waiting", { n: queue.left })
              : (answer?.words ?? resting ?? "")}
        </p>
      </Form>
      <EnterPlate plate={plate} busy={busy} form={plateForm} link={plateLink} />
    </footer>
  )
}
