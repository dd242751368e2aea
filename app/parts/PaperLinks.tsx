import { Button } from "@chakra-ui/react"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { Act } from "./ActForm.tsx"

/** Papers that are made when they are asked for: to be looked at, or printed on the warehouse's printer. */
export function PaperLinks({
  at,
  papers,
  sendKey,
  intent = "print",
}: {
  at: string
  papers: readonly string[]
  sendKey: string
  /** What the page calls printing one of them. */
  intent?: string
}) {
  return (
    <ul className="pack-papers">
      {papers.map((paper) => (
        <li key={paper}>
          <a href={`${at}/${paper}.pdf`}>{wordFor("paper.of-floor", paper)}</a>
          <Act intent={intent} sends={{ key: sendKey, paper }}>
            <Button
              type="submit"
              variant="ghost"
              aria-label={say("packing.print-label", { paper: wordFor("paper.of-floor", paper) })}
            >
              {say("packing.print")}
            </Button>
          </Act>
        </li>
      ))}
    </ul>
  )
}
