import type { Reason } from "core/refusal/index.ts"
import { Link, useSearchParams } from "react-router"
import { say } from "words/index.ts"
import { sayReason, wordFor } from "words/reasons.ts"
import type { PapersView } from "./papersView.server.ts"

/** Where the panel is in which papers' gaps are filled: in the address, so that it can be gone back to. */
export function usePapersWay(): { readonly open: boolean; readonly to: (open: boolean) => string } {
  const [search] = useSearchParams()
  return {
    open: search.has("papers"),
    to: (open) => {
      const next = new URLSearchParams(search)
      if (open) next.set("papers", "")
      else next.delete("papers")
      return `?${next}`
    },
  }
}

/** What is missing, by the fields that it is missing in. */
export function lacksOf(gaps: readonly Reason[]): Readonly<Record<string, readonly string[]>> {
  const lacks: Record<string, string[]> = {}
  for (const gap of gaps) {
    const field = String(gap.values.field ?? "")
    lacks[field] = [...(lacks[field] ?? []), sayReason(gap)]
  }
  return lacks
}

/** The papers that a shipment needs: how many of each, why, and what is missing, with the way to fill it in. */
export function PapersToMake({ papers, orderNumber }: { papers: PapersView; orderNumber: string }) {
  const way = usePapersWay()
  const [search] = useSearchParams()
  const service = search.get("service")
  if (papers.needed.length === 0) return null
  return (
    <section className="papers-to-make" aria-labelledby="papers-title">
      <h2 id="papers-title">{say("papers.to-make")}</h2>
      <ul>
        {papers.needed.map((one) => (
          <li key={one.kind} className={one.lacks > 0 ? "ember" : undefined}>
            <b>
              {one.lacks > 0 ? (
                wordFor("papers.kind", one.kind)
              ) : (
                <a href={`/shipment/${orderNumber}/${one.kind}.pdf${service ? `?service=${service}` : ""}`}>
                  {wordFor("papers.kind", one.kind)}
                </a>
              )}
            </b>{" "}
            <span>
              {one.electronic ? say("papers.electronic") : `× ${one.copies}`}
              {", "}
              {sayReason(one.why)}
            </span>
          </li>
        ))}
      </ul>
      {papers.gaps.length > 0 ? (
        <>
          <h3 className="ember">{say("papers.gaps", { n: papers.gaps.length })}</h3>
          {way.open ? null : <Gaps gaps={papers.gaps} />}
        </>
      ) : null}
      <p>
        <Link to={way.to(!way.open)} preventScrollReset>
          {say(way.open ? "papers.close" : papers.gaps.length > 0 ? "papers.fill" : "papers.details")}
        </Link>
      </p>
    </section>
  )
}

const most = 6

/** What is missing, a few by name and how many more. */
function Gaps({ gaps }: { gaps: readonly Reason[] }) {
  const shown = gaps.slice(0, most)
  return (
    <ul className="gaps">
      {shown.map((gap) => (
        <li key={`${gap.code} ${JSON.stringify(gap.values)}`}>{sayReason(gap)}</li>
      ))}
      {gaps.length > shown.length ? <li>{say("papers.gaps-more", { n: gaps.length - shown.length })}</li> : null}
    </ul>
  )
}
