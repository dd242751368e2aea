import { mostFileBytes } from "core/orders/limits.ts"
import { useState } from "react"
import { say } from "words/index.ts"

/** A file to be sent; one that is larger than the server reads is told before it is sent. */
export function FileInput({ id, accept, most = mostFileBytes }: { id: string; accept: string; most?: number }) {
  const [words, setWords] = useState("")
  return (
    <>
      <input
        id={id}
        type="file"
        name="file"
        accept={accept}
        required
        onChange={({ target }) => {
          const large = (target.files?.[0]?.size ?? 0) > most
          const trouble = large ? say("file.too-large", { limit: most / 1024 / 1024 }) : ""
          target.setCustomValidity(trouble)
          setWords(trouble)
        }}
      />
      {words ? (
        <p role="alert" className="ember">
          {words}
        </p>
      ) : null}
    </>
  )
}
