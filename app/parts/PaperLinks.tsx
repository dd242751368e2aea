import { Button } from "@chakra-ui/react"
import { Form } from "react-router"
import { say } from "words/index.ts"

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
          <Form method="post">
            <input type="hidden" name="intent" value="print" />
            <input type="hidden" name="key" value={sendKey} />
            <input type="hidden" name="paper" value={paper} />
            <Button type="submit" variant="ghost" aria-label={say("packing.print-label", { paper: say(names[paper]) })}>
              {say("packing.print")}
            </Button>
          </Form>
        </li>
      ))}
    </ul>
  )
}
