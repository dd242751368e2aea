import { localDate } from "core/calendar/index.ts"
import { Link } from "react-router"
import { duration } from "words/duration.ts"
import { clock, clockTime, longDay, signed } from "words/format.ts"
import { say } from "words/index.ts"
import type { DayData } from "./day.tsx"
import type { Stretch } from "./dayScale.ts"

type Collection = DayData["collections"][number]
type Order = Collection["orders"][number]

const height = 374
/** How wide the part of the drawing is that is past. */
const night = 250
const rail = 338
const top = 230
const spineHeight = rail - top

/** The day's band: night at the left up to now, a post with its door for each truck, orders planned backwards from it. */
export function DayBand({
  day,
  coming,
  scale,
  now,
  zone,
  next,
  chosen,
}: {
  day: DayData
  coming: readonly Collection[]
  scale: Stretch
  now: Date
  zone: string
  next: number | null
  chosen: number | null
}) {
  const at = now.getTime()
  const hours = hoursBetween(at - 70 * 60_000, coming.at(-1)?.cutOff.getTime() ?? at, zone)
  const last = day.collections.filter((one) => one.column === null).at(-1)
  return (
    <div className="day-band">
      <svg
        viewBox={`0 0 1280 ${height}`}
        preserveAspectRatio="none"
        role="img"
        aria-label={say("day.chart")}
        className="day-drawing"
      >
        <defs>
          <pattern id="hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="6" height="6" fill="#F7F4EE" />
            <rect width="3" height="6" fill="#1A1814" />
          </pattern>
          <marker
            id="arrow"
            viewBox="0 0 8 8"
            refX="7"
            refY="4"
            markerWidth="8"
            markerHeight="8"
            orient="auto-start-reverse"
          >
            <path d="M1 1 L7 4 L1 7" fill="none" stroke="#1A1814" />
          </marker>
        </defs>
        <rect x="0" y="0" width={night} height={height} className="night" />
        <rect x={night} y={rail - 2} width={1280 - night} height="4" className="ink" />
        <rect x="0" y={rail - 1} width={night} height="2" className="gone" />
        <Hours hours={hours} scale={scale} at={at} />
        {coming.map((one, index) => (
          <TruckColumn
            key={one.id}
            one={one}
            before={coming[index - 1]}
            column={scale.columns[index] as Column}
            striped={index % 2 === 1}
            scale={scale}
            at={at}
            next={next}
            chosen={chosen}
          />
        ))}
        <Breaks day={day} scale={scale} at={at} until={coming.at(-1)?.cutOff.getTime() ?? at} />
        {day.stopped.map((order) =>
          order.solveBy && scale.x(order.solveBy.getTime()) > 4 ? (
            <path key={order.id} d={triangle(Math.max(8, scale.x(order.solveBy.getTime())))} className="triangle">
              <title>{`${order.orderNumber} ${clock(order.solveBy, zone)}`}</title>
            </path>
          ) : null,
        )}
      </svg>
      <div className="day-night" style={{ width: `${(night / 1280) * 100}%` }}>
        <p>{longDay(localDate(now, zone))}</p>
        <p className="clock">{clock(now, zone)}</p>
        {last && !day.advice ? (
          <div className="day-last">
            <p>
              <b>{last.carrier}</b>
              <br />
              {last.closedAt ? say("day.closed", { time: clock(last.closedAt, zone) }) : say("day.past")}
              <br />
              {packagesWords(last.packages)}
            </p>
            <Link to={`/dock/${last.id}`} className={last.closedAt ? "plate-gone" : "plate-gone open"}>
              {last.door}
            </Link>
          </div>
        ) : null}
      </div>
      {coming.length === 0 ? <Evening day={day} zone={zone} left={night / 1280} /> : null}
      {coming.map((one, index) => (
        <ColumnHead
          key={one.id}
          one={one}
          column={scale.columns[index] as { left: number; width: number }}
          now={now}
          zone={zone}
        />
      ))}
      {!day.any && coming.length > 0 ? (
        <p className="day-nothing on-posts" style={{ left: `${(night / 1280) * 100 + 2}%`, top: 196 }}>
          {say("day.empty")}
        </p>
      ) : null}
    </div>
  )
}

type Column = { left: number; width: number }

/** The axis: hours, and the quarters between them. */
function Hours({ hours, scale, at }: { hours: ReturnType<typeof hoursBetween>; scale: Stretch; at: number }) {
  return (
    <>
      {hours.map((hour) => (
        <g key={hour.at}>
          <rect
            x={scale.x(hour.at)}
            y={rail}
            width="2"
            height={hour.whole ? 12 : 6}
            className={hour.at <= at ? "gone" : "ink"}
          />
          {hour.whole && scale.x(hour.at) > 24 && Math.abs(scale.x(hour.at) - night) > 14 ? (
            <text x={scale.x(hour.at)} y={rail + 30} className={hour.at <= at ? "axis on-night" : "axis"}>
              {hour.label}
            </text>
          ) : null}
        </g>
      ))}
    </>
  )
}

/** What is done for one truck, laid back from its post; and the time that is free before it. */
function TruckColumn({
  one,
  before,
  column,
  striped,
  scale,
  at,
  next,
  chosen,
}: {
  one: Collection
  before: Collection | undefined
  column: Column
  striped: boolean
  scale: Stretch
  at: number
  next: number | null
  chosen: number | null
}) {
  const post = column.left + column.width
  const free = one.column && before ? freeBefore(one, before) : one.column ? freeFrom(one, at) : 0
  const firstX = one.column?.bars[0] ? scale.x(one.column.bars[0].from.getTime()) : post
  return (
    <g>
      <rect x={post - 2} y="0" width="4" height={rail} className="ink" />
      {striped && one.column?.bars.length ? (
        <rect x={firstX} y={top - 4} width={Math.max(0, post - firstX)} height="4" className="rule" />
      ) : null}
      {one.column?.bars.map((bar) => {
        const order = one.orders.find((candidate) => candidate.id === bar.orderId)
        return order ? (
          <OrderBar
            key={bar.orderId}
            order={order}
            from={scale.x(bar.from.getTime())}
            to={scale.x(bar.to.getTime())}
            night={night}
            miss={one.column?.willMiss.includes(order.id) ?? false}
            next={order.id === next}
            chosen={order.id === chosen}
          />
        ) : null
      })}
      <StackDoor door={one.door} end={endsBefore(one, scale, post)} />
      {free >= 5 && firstX - Math.max(column.left, night) > 44 ? (
        <g className="free">
          <text x={(Math.max(column.left, night) + firstX) / 2} y={rail - 38} className="figure">
            {Math.floor(free)}
          </text>
          <text x={(Math.max(column.left, night) + firstX) / 2} y={rail - 24} className="word">
            {say("day.free")}
          </text>
          <line
            x1={Math.max(column.left, night) + 6}
            x2={firstX - 6}
            y1={rail - 14}
            y2={rail - 14}
            markerStart="url(#arrow)"
            markerEnd="url(#arrow)"
          />
        </g>
      ) : null}
    </g>
  )
}

/** Times in which nobody works. */
function Breaks({ day, scale, at, until }: { day: DayData; scale: Stretch; at: number; until: number }) {
  return (
    <>
      {day.breaks
        .filter((rest) => rest.from.getTime() >= at && rest.to.getTime() <= until)
        .map((rest) => {
          const [from, to] = [scale.x(rest.from.getTime()), scale.x(rest.to.getTime())]
          return (
            <g key={rest.from.getTime()}>
              <rect x={from} y={top} width={to - from} height={spineHeight} className="break" />
              <text
                transform={`translate(${(from + to) / 2 + 5} ${top + spineHeight / 2}) rotate(-90)`}
                className="break-word"
              >
                {say("day.break")}
              </text>
            </g>
          )
        })}
    </>
  )
}

/** The day when no truck is left: what became of each, and what still waits for somebody. */
function Evening({ day, zone, left }: { day: DayData; zone: string; left: number }) {
  return (
    <div className="day-evening" style={{ left: `${left * 100}%` }}>
      <h2>{day.collections.length === 0 ? say("day.no-collections") : say("day.no-truck-left")}</h2>
      <ul>
        {day.collections.map((one) => (
          <li key={one.id}>
            <Link to={`/dock/${one.id}`} className={one.closedAt ? "plate-gone" : "plate-gone open"}>
              {one.door}
            </Link>
            <p>
              <b>{one.carrier}</b>
              <br />
              {one.closedAt
                ? `${say("day.closed", { time: clock(one.closedAt, zone) })}, ${packagesWords(one.packages)}`
                : one.labelledPackages > 0
                  ? say("day.still-here", { n: packagesWords(one.labelledPackages) })
                  : say("day.past-empty", { time: clock(one.cutOff, zone) })}
            </p>
          </li>
        ))}
      </ul>
    </div>
  )
}

const packagesWords = (n: number): string => say("day.packages", { n })

function ColumnHead({
  one,
  column,
  now,
  zone,
}: {
  one: Collection
  column: { left: number; width: number }
  now: Date
  zone: string
}) {
  const left = Math.max(0, Math.floor((one.cutOff.getTime() - now.getTime()) / 60_000))
  const plan = one.column
  const late = plan !== null && plan.margin < 0
  return (
    <div
      className={late ? "day-head late" : "day-head"}
      style={{ left: `${(column.left / 1280) * 100}%`, width: `${(column.width / 1280) * 100}%` }}
    >
      <Link to={`/dock/${one.id}`} className="day-door" aria-label={say("dock.go", { door: one.door })}>
        {one.door}
      </Link>
      <p className={one.carrier.split(" ").some((word) => word.length > 8) ? "carrier long" : "carrier"}>
        {one.carrier}
      </p>
      <p className="time">
        {clock(one.cutOff, zone)}
        {one.usual ? <span className="usual">{say("day.usual", { time: clockTime(one.usual) })}</span> : null}
      </p>
      <p className="left">{say("day.left", { time: duration(left) })}</p>
      <p className="packed">{say("day.packed", { labelled: one.labelledPackages, togo: one.orders.length })}</p>
      {plan && one.orders.length > 0 ? (
        <div className="margin">
          <span>{signed(plan.margin)}</span>
          <p>
            <b>
              {plan.willMiss.length > 0 ? say("day.minutes-miss", { n: plan.willMiss.length }) : say("day.minutes")}
            </b>
            <br />
            {say("day.needs", { needs: Math.ceil(plan.needs), has: Math.floor(plan.has) })}
            <br />
            {say(plan.startBy < now ? "day.start-was" : "day.start-by", { time: clock(plan.startBy, zone) })}
          </p>
        </div>
      ) : null}
    </div>
  )
}

/** One order: a spine with a lower cell for picking and an upper one for packing; what lies in the night is hot. */
function OrderBar({
  order,
  from,
  to,
  night,
  miss,
  next,
  chosen,
}: {
  order: Order
  from: number
  to: number
  night: number
  miss: boolean
  next: boolean
  chosen: boolean
}) {
  const width = Math.max(1.5, to - from)
  const cell = spineHeight / 4
  const late = from < night
  const look = (share: number) => (share >= 1 ? "solid" : share > 0 ? "hatch" : "none")
  return (
    <g>
      <rect x={from} y={top} width={width} height={spineHeight} className={late ? "spine hot" : "spine"} />
      {late && to > night ? <rect x={night} y={top} width={to - night} height={spineHeight} className="spine" /> : null}
      {width > 6 ? (
        <>
          <rect x={from} y={rail - cell} width={width} height={cell} className={`cell ${look(order.picked)}`} />
          <rect x={from} y={rail - 2 * cell} width={width} height={cell} className={`cell ${look(order.packed)}`} />
        </>
      ) : null}
      {width > 13 ? (
        <text transform={`translate(${from + width / 2 + 5} ${top + 50}) rotate(-90)`} className="spine-name">
          {order.orderNumber}
        </text>
      ) : null}
      {miss ? <rect x={from} y={top - 8} width={width} height="6" className="hot" /> : null}
      {chosen ? <rect x={from} y={rail + 1} width={width} height="5" className="chosen" /> : null}
      {next ? (
        <path d={`M${from + 1} ${top - 4} V${top - 12} H${from + width - 1} V${top - 4}`} className="bracket" />
      ) : null}
    </g>
  )
}

const triangle = (x: number) => `M${x} ${rail + 4} L${x + 6.5} ${rail + 15} L${x - 6.5} ${rail + 15} Z`

/** The door of a stack that ends before its own post. */
function StackDoor({ door, end }: { door: string; end: number | null }) {
  if (end === null) return null
  return (
    <>
      <rect x={end - 17} y={top} width="17" height="21" className="ink" />
      <text x={end - 8.5} y={top + 17} className="stack-name">
        {door}
      </text>
    </>
  )
}

/** Where a collection's work ends, when that is not at its own post: later trucks push it forward. Null otherwise. */
function endsBefore(one: Collection, scale: Stretch, post: number): number | null {
  const last = one.column?.bars.at(-1)
  if (!last) return null
  const end = scale.x(last.to.getTime())
  return post - end > 8 ? end : null
}

function freeBefore(one: Collection, earlier: Collection): number {
  const first = one.column?.bars[0]
  if (!first) return 0
  return (first.from.getTime() - earlier.cutOff.getTime()) / 60_000
}

const freeFrom = (one: Collection, now: number): number => {
  const first = one.column?.bars[0]
  return first ? (first.from.getTime() - now) / 60_000 : 0
}

function hoursBetween(from: number, to: number, zone: string): { at: number; whole: boolean; label: string }[] {
  const quarter = 15 * 60_000
  const ticks = []
  for (let at = Math.ceil(from / quarter) * quarter; at <= to; at += quarter) {
    const text = clock(new Date(at), zone)
    const [hour = "", minute] = text.split(":")
    ticks.push({ at, whole: minute === "00", label: hour })
  }
  return ticks.filter((tick) => tick.whole || clock(new Date(tick.at), zone).endsWith(":30"))
}
