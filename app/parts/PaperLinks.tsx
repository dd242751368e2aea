import { Button } from "@chakra-ui/react"
import { say } from "words/index.ts"
import { Act } from "./ActForm.tsx"

const names = { list: "pick.list", slips: "pick.slips", logistic: "packing.logistic" } as const

/** Papers that are made when they are asked for: to be looked at, or printed on the warehouse's printer. */
export function PaperLinks({
  at,
  papers,
  sendKey,
}: {
  at: string
  papers: readonly (keyof typeof names)[]
  sendKey: string
}) {
  return (
    <ul className="pack-papers">
      {papers.map((paper) => (
        <li key={paper}>
          <a href={`${at}/${paper}.pdf`}>{say(names[paper])}</a>
          <Act intent="print" sends={{ key: sendKey, paper }}>
            <Button type="submit" variant="ghost" aria-label={say("packing.print-label", { paper: say(names[paper]) })}>
              {say("packing.print")}
            </Button>
          </Act>
        </li>
      ))}
    </ul>
  )
}
