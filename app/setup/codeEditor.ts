import { json as jsonLanguage } from "@codemirror/lang-json"
import { lintGutter, setDiagnostics } from "@codemirror/lint"
import { EditorState } from "@codemirror/state"
import { EditorView } from "@codemirror/view"
import { basicSetup } from "codemirror"
import type { Mark } from "./tariffLint.ts"

export interface CodeEditor {
  readonly replace: (text: string) => void
  readonly mark: (marks: readonly Mark[]) => void
  readonly goTo: (at: number) => void
  readonly close: () => void
}

/** Opens an editor in a place of the page. Its styles carry the page's nonce, which its content policy wants. */
export function openEditor(
  parent: HTMLElement,
  { text, json, readOnly, label }: { text: string; json: boolean; readOnly: boolean; label: string },
  onChange: (text: string) => void,
): CodeEditor {
  const nonce = document.querySelector<HTMLScriptElement>("script[nonce]")?.nonce ?? ""
  let last = text
  const view = new EditorView({
    parent,
    state: EditorState.create({
      doc: text,
      extensions: [
        basicSetup,
        lintGutter(),
        ...(json ? [jsonLanguage()] : []),
        EditorState.readOnly.of(readOnly),
        EditorView.cspNonce.of(nonce),
        EditorView.contentAttributes.of({ "aria-label": label }),
        EditorView.updateListener.of((update) => {
          if (!update.docChanged) return
          last = update.state.doc.toString()
          onChange(last)
        }),
      ],
    }),
  })
  // what scrolls can be scrolled by keyboard too, also where nothing in it may be changed
  view.scrollDOM.tabIndex = 0
  view.scrollDOM.setAttribute("role", "group")
  view.scrollDOM.setAttribute("aria-label", label)
  return {
    replace: (next) => {
      if (next === last) return
      last = next
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: next } })
    },
    mark: (marks) => {
      const end = view.state.doc.length
      view.dispatch(
        setDiagnostics(
          view.state,
          marks
            .filter((one) => one.to > 0)
            .map((one) => ({
              from: Math.min(one.from, end),
              to: Math.min(one.to, end),
              severity: one.level,
              message: one.words,
            })),
        ),
      )
    },
    goTo: (at) => {
      const position = Math.min(at, view.state.doc.length)
      view.dispatch({ selection: { anchor: position }, effects: EditorView.scrollIntoView(position, { y: "center" }) })
      view.focus()
    },
    close: () => view.destroy(),
  }
}
