import { Link } from "react-router"
import type { Variant } from "server/shipping/variants.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import type { LedgerWays } from "./ledger.ts"

/** Letters by which variants are known on the plot. */
export const variantLetter = (at: number): string => String.fromCharCode(65 + at)

/** The same goods sent otherwise: what each way costs, when it arrives, and where it is done. */
export function Variants({ variants, ways }: { variants: readonly Variant[]; ways: LedgerWays }) {
  const now = variants.find((one) => one.kind === "as-packed")
  return (
    <ol className="variants">
      {variants.map((one, at) => {
        const less = now ? Math.round(Number(one.cost) * 100) - Math.round(Number(now.cost) * 100) : 0
        return (
          <li key={`${one.kind} ${one.other ?? ""}`}>
            <b className="variant-mark">{variantLetter(at)}</b>
            <span>
              <VariantName one={one} ways={ways} />
              <small>
                {one.services.map((service) => service.name).join(" + ")}, {shortDay(one.arrives.slice(0, 10))}
                {one.late ? `, ${say("rate.late")}` : ""}
              </small>
            </span>
            <span className="figure strong">{one.cost}</span>
            <span className="figure">
              {one.kind === "as-packed" ? "" : `${less < 0 ? "−" : "+"}${(Math.abs(less) / 100).toFixed(2)}`}
            </span>
          </li>
        )
      })}
    </ol>
  )
}

function VariantName({ one, ways }: { one: Variant; ways: LedgerWays }) {
  const words = say(`variant.${one.kind}`, { other: one.other ?? "", packages: one.apart.join(", ") })
  const [service] = one.services
  if (one.kind === "joined") return <Link to="/orders/joining">{words}</Link>
  if (one.kind === "two" || !service) return <span>{words}</span>
  return (
    <Link to={ways.to({ service: service.code })} replace preventScrollReset>
      {words}
    </Link>
  )
}
