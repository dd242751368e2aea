import { scaleLinear } from "d3-scale"
import { clock, signed } from "words/format.ts"
import { say } from "words/index.ts"
import { useNow, useShell } from "./useNow.ts"

const width = 1280
const height = 50

/** The whole day in one line: night up to now, posts with their doors, work laid back; the order or door in hand marked. */
export function Ribbon({ order, door }: { order?: number; door?: string }) {
  const { ribbon, shift, zone } = useShell()
  const now = useNow()
  const first = Math.min(shift.from.getTime(), now.getTime())
  const last = Math.max(shift.to.getTime(), ...ribbon.map((one) => one.cutOff.getTime()), now.getTime() + 60_000)
  const x = scaleLinear([first, last], [0, width - 14])
  const at = x(now.getTime())
  const clockX = Math.min(at + 8, width - 70)
  const ahead = ribbon.filter((one) => !one.closed && one.cutOff > now).slice(0, 3)
  return (
    <>
      {/* a phone has no width for the whole day: the clock and the trucks that come next */}
      <p className="ribbon-short" aria-hidden="true">
        <b>{clock(now, zone)}</b>
        {ahead.map((one) => (
          <span key={one.id} className={one.margin !== null && one.margin < 0 ? "late" : undefined}>
            <i className="plate-small">{one.door}</i> {clock(one.cutOff, zone)}
            {one.margin === null ? "" : ` ${signed(one.margin)}`}
          </span>
        ))}
      </p>
      <svg
        className="ribbon"
        viewBox={`0 0 ${width} ${height}`}
        preserveAspectRatio="none"
        role="img"
        aria-label={say("ribbon.label")}
      >
        <rect width={at} height={height} className="night" />
        {ribbon.map((one, index) => {
          const post = x(one.cutOff.getTime())
          const before = ribbon[index - 1]
          // minutes only where they do not run into the post before
          const room = !before || post - x(before.cutOff.getTime()) > 74
          const night = post <= at
          return (
            <g key={one.id}>
              <Bars bars={one.bars.filter(([id]) => id !== order)} x={x} className="bar" />
              <Bars bars={one.bars.filter(([id]) => id === order)} x={x} className="bar done" />
              {/* what is behind its time already */}
              <Bars bars={one.bars.filter(([, from]) => from < now.getTime())} x={x} until={at} className="bar hot" />
              <rect x={post - 2} y={0} width={3} height={height} className={night ? "gone" : "ink"} />
              <rect x={post - 28} y={2} width={26} height={28} className={one.closed ? "gone-plate" : "ink"} />
              <text x={post - 15} y={25} className={one.closed ? "plate gone" : "plate"}>
                {one.door}
              </text>
              {one.door === door && !one.closed ? (
                <rect x={post - 28} y={31} width={26} height={3} className={night ? "bone" : "ink"} />
              ) : null}
              {one.margin !== null && !one.closed && room ? (
                <text x={post - 34} y={24} className={one.margin < 0 ? "margin late" : "margin"}>
                  {signed(one.margin)}
                </text>
              ) : null}
            </g>
          )
        })}
        <text x={at > 90 ? at - 8 : clockX} y={31} className={at > 90 ? "clock on-night" : "clock"}>
          {clock(now, zone)}
        </text>
      </svg>
    </>
  )
}

type Bar = readonly [orderId: number, from: number, to: number]

/** The work of many orders as one shape: three hundred of their own would cost every page a third of its time. */
function Bars({
  bars,
  x,
  until = Number.POSITIVE_INFINITY,
  className,
}: {
  bars: readonly Bar[]
  x: (time: number) => number
  until?: number
  className: string
}) {
  if (bars.length === 0) return null
  const d = bars
    .map(([, from, to]) => {
      const wide = Math.max(1, Math.min(x(to), until) - x(from)).toFixed(1)
      return `M${x(from).toFixed(1)} 34h${wide}v13h-${wide}z`
    })
    .join("")
  return <path d={d} className={className} />
}
