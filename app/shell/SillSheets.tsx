import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { useShell } from "./useNow.ts"

/** What can be scanned or typed on a screen, and whether its single keys act. */
export function WordsSheet({
  words,
  singleKeys,
  onSingleKeys,
  onClose,
}: {
  words: readonly (readonly [string, string])[]
  /** Null where the screen has none. */
  singleKeys: boolean | null
  onSingleKeys: (on: boolean) => void
  onClose: () => void
}) {
  return (
    <section className="sheet" aria-label={say("words.title")}>
      <h2>{say("words.title")}</h2>
      <dl>
        {[
          ...words,
          [say("words.enter"), say("words.enter.does")] as const,
          [say("words.esc"), say("words.esc.does")] as const,
          [say("words.keys"), say("words.keys.does")] as const,
        ].map(([word, does]) => (
          <div key={word}>
            <dt>{word}</dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
      {singleKeys !== null ? (
        <label className="check on-night">
          <input type="checkbox" checked={singleKeys} onChange={(event) => onSingleKeys(event.target.checked)} />{" "}
          {say("words.single-keys")}
        </label>
      ) : null}
      <button type="button" className="on-night" onClick={onClose}>
        {say("words.close")}
      </button>
    </section>
  )
}

/** The last scans on this screen. */
export function LastSheet({ history }: { history: readonly { readonly at: Date; readonly text: string }[] }) {
  const { zone } = useShell()
  return (
    <section className="sheet" aria-label={say("scan.history")}>
      <h2>{say("scan.history")}</h2>
      {history.length === 0 ? <p>{say("scan.none-yet")}</p> : null}
      <ol>
        {history.map((one, index) => (
          <li key={index}>
            <span className="code">
              {clock(one.at, zone)} {one.text}
            </span>
          </li>
        ))}
      </ol>
    </section>
  )
}
