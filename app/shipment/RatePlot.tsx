import { scaleLinear, scaleTime } from "d3-scale"
import type { Variant } from "server/shipping/variants.ts"
import { axisDay, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { dodged, type Spot } from "./dodge.ts"
import type { OfferView } from "./shipmentView.server.ts"
import { variantLetter } from "./Variants.tsx"

const width = 340
const height = 300
const inside = { left: 48, right: 12, top: 22, bottom: 26 }

/** Cost against arrival: a circle a service, the promise as a post, what comes after it in shade. */
export function RatePlot({
  offers,
  promised,
  chosen,
  variants = [],
}: {
  offers: readonly OfferView[]
  promised: string | null
  chosen: string | null
  /** Other ways of sending the same goods, as squares with letters. */
  variants?: readonly Variant[]
}) {
  const rated = offers.flatMap((offer) =>
    offer.contract && offer.arrives
      ? [
          {
            offer,
            cost: Number((offer.payer ? offer.list : offer.contract)?.amount),
            at: instant(offer.arrives.date, offer.arrives.time),
          },
        ]
      : [],
  )
  if (rated.length === 0) return null
  const others = variants.map((one, index) => ({
    letter: variantLetter(index),
    key: `${one.kind} ${one.other ?? ""}`,
    cost: Number(one.cost),
    at: instant(one.arrives.slice(0, 10), one.arrives.slice(11)),
  }))
  const promise = promised ? instant(promised, "23:59") : null
  const days = [...rated, ...others].map((one) => one.at).concat(promise ?? [])
  const from = startOfDay(Math.min(...days))
  const to = startOfDay(Math.max(...days)) + 86_400_000
  const x = scaleTime([from, to], [inside.left, width - inside.right])
  const most = Math.max(...[...rated, ...others].map((one) => one.cost))
  const y = scaleLinear(
    [Math.min(...[...rated, ...others].map((one) => one.cost)) * 0.75, most * 1.08],
    [height - inside.bottom, inside.top],
  ).nice(4)
  const dayCount = Math.round((to - from) / 86_400_000)
  const frontier = rated.filter((one) => one.offer.unbeaten).sort((a, b) => a.at - b.at)
  // the chosen one first, then the unbeaten: those stay where they are
  const ranked = [...rated].sort(
    (a, b) =>
      Number(b.offer.code === chosen) - Number(a.offer.code === chosen) ||
      Number(b.offer.unbeaten) - Number(a.offer.unbeaten),
  )
  const places = dodged(
    [...ranked, ...others].map((one) => ({ x: x(one.at), y: y(one.cost) })),
    23,
    [inside.left + 12, width - inside.right - 12],
  )
  const path = frontier
    .map((one, index) => `${index === 0 ? "M" : `H${x(one.at)} `}${index === 0 ? `${x(one.at)} ` : "V"}${y(one.cost)}`)
    .join(" ")
  return (
    <svg viewBox={`0 0 ${width} ${height}`} className="rate-plot" role="img" aria-label={say("rate.plot")}>
      {promise ? (
        <rect
          x={x(promise)}
          y={inside.top - 18}
          width={Math.max(0, width - inside.right - x(promise))}
          height={height - inside.bottom - inside.top + 18}
          className="after"
        />
      ) : null}
      {y.ticks(4).map((tick) => (
        <g key={tick}>
          <line x1={inside.left} x2={width - inside.right} y1={y(tick)} y2={y(tick)} className="grid" />
          <text x={inside.left - 6} y={y(tick) + 5} textAnchor="end" fontSize="16" fontWeight="600">
            {tick === y.ticks(4).at(-1) ? `$${tick}` : tick}
          </text>
        </g>
      ))}
      <line
        x1={inside.left}
        x2={width - inside.right}
        y1={height - inside.bottom}
        y2={height - inside.bottom}
        className="axis"
      />
      {Array.from({ length: dayCount }, (_, index) => {
        const day = new Date(from + index * 86_400_000)
        const weekend = day.getUTCDay() % 6 === 0
        const every = Math.ceil(dayCount / 7)
        return (
          <g key={index}>
            <line
              x1={x(day)}
              x2={x(day)}
              y1={height - inside.bottom}
              y2={height - inside.bottom + 6}
              className="axis"
            />
            {index % every === 0 ? (
              <text
                x={(x(day) + x(new Date(day.getTime() + 86_400_000))) / 2}
                y={height - 8}
                textAnchor="middle"
                fontSize="15"
                fontWeight={weekend ? 400 : 600}
                className={weekend ? "weekend" : undefined}
              >
                {axisDay(day.toISOString().slice(0, 10))}
              </text>
            ) : null}
          </g>
        )
      })}
      {promise && promised ? (
        <g>
          <rect
            x={x(promise) - 2}
            y={inside.top - 18}
            width="4"
            height={height - inside.bottom - inside.top + 18}
            className="ink"
          />
          <text
            x={x(promise) > width - 140 ? x(promise) - 8 : x(promise) + 8}
            y={inside.top - 4}
            fontSize="17"
            fontWeight="700"
            textAnchor={x(promise) > width - 140 ? "end" : "start"}
          >
            {say("rate.promised", { day: shortDay(promised) })}
          </text>
        </g>
      ) : null}
      {frontier.length > 1 ? <path d={path} className="frontier" /> : null}
      {ranked
        .map((one, index) => ({ ...one, place: places[index] as Spot }))
        .reverse()
        .map(({ offer, cost, at, place }) => (
          <g key={offer.code} className={offer.unbeaten && !offer.late ? "service unbeaten" : "service"}>
            {offer.onTime && offer.arrives && offer.onTime.by > offer.arrives.date ? (
              <line
                x1={x(at)}
                x2={Math.min(x(instant(offer.onTime.by, offer.arrives.time)), width - inside.right)}
                y1={y(cost)}
                y2={y(cost)}
                className="by-then"
              />
            ) : null}
            {place.x === x(at) ? null : <line x1={x(at)} x2={place.x} y1={y(cost)} y2={y(cost)} className="aside" />}
            {offer.code === chosen ? <circle cx={place.x} cy={place.y} r="17" className="ring" /> : null}
            <circle cx={place.x} cy={place.y} r={offer.code === chosen ? 13 : 11} />
            <text x={place.x} y={place.y + 5.5} textAnchor="middle" fontSize="17" fontWeight="700">
              {offer.numeral}
            </text>
            <title>
              {`${offer.name} ${offer.contract?.amount}${offer.onTime ? `, ${say("rate.on-time", offer.onTime)}` : ""}`}
            </title>
          </g>
        ))}
      {others.map(({ letter, key, cost, at }, index) => {
        const place = places[ranked.length + index] as Spot
        return (
          <g key={key} className="variant">
            {place.x === x(at) ? null : <line x1={x(at)} x2={place.x} y1={y(cost)} y2={y(cost)} className="aside" />}
            <rect x={place.x - 10} y={place.y - 10} width="20" height="20" />
            <text x={place.x} y={place.y + 5.5} textAnchor="middle" fontSize="16" fontWeight="700">
              {letter}
            </text>
          </g>
        )
      })}
    </svg>
  )
}

const instant = (date: string, time: string) => Date.parse(`${date}T${time}:00Z`)
const startOfDay = (at: number) => Math.floor(at / 86_400_000) * 86_400_000
