import { say } from "words/index.ts"

/** Who else has this order open now. */
export function People({ names }: { names: readonly string[] }) {
  return (
    <p className="people" role="status">
      {names.length > 0 ? say("people.here", { names: names.join(", ") }) : ""}
    </p>
  )
}
