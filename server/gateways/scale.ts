import { connect } from "node:net"
import { accepted, coded, type Outcome, reason, refused } from "core/refusal/index.ts"
import { type Mass, mass } from "core/units/index.ts"
import { connectionTrouble } from "./reach.ts"

/** What a scale shows. */
export type Reading =
  | { readonly state: "stable" | "moving"; readonly figure: string; readonly unit: "lb" | "kg" }
  | { readonly state: "over" | "under" }

/** A scale that does not answer, or not as scales do. */
export class ScaleDown extends Error {}

/** The line that a scale answers with, read; null for anything else. */
export function readLine(line: string): Reading | null {
  const text = line.trim()
  if (text === "over" || text === "under") return { state: text }
  const shown = /^(stable|moving) (\d{1,5}(?:\.\d{1,3})?) (lb|kg)$/.exec(text)
  if (!shown) return null
  return { state: shown[1] as "stable" | "moving", figure: shown[2] as string, unit: shown[3] as "lb" | "kg" }
}

/** Asks a scale once over TCP. Throws ScaleDown. */
export function askScale(host: string, port: number, timeLimitMs = 1_500): Promise<Reading> {
  return new Promise((resolve, reject) => {
    const socket = connect({ host, port })
    let heard = ""
    const end = (error: Error) => {
      socket.destroy()
      reject(error)
    }
    socket.setTimeout(timeLimitMs, () => end(new ScaleDown(coded(reason("reach.late")))))
    socket.on("connect", () => socket.write("WEIGH\r\n"))
    socket.on("error", (error) => end(new ScaleDown(connectionTrouble(error))))
    socket.on("close", () => end(new ScaleDown(coded(reason("reach.broken")))))
    socket.on("data", (part) => {
      heard += part.toString("ascii")
      if (heard.length > 200) return end(new ScaleDown(coded(reason("reach.other-answer"))))
      const at = heard.indexOf("\n")
      if (at < 0) return
      const reading = readLine(heard.slice(0, at))
      if (!reading) return end(new ScaleDown(coded(reason("reach.other-answer"))))
      socket.removeAllListeners("close")
      socket.end()
      resolve(reading)
    })
  })
}

/**
 * The weight on a scale once it has come to rest: asked again while it moves, for as long as a person waits. Refused for
 * a scale that stays in motion, is overloaded, shows less than nothing or nothing at all, or does not answer.
 */
export async function weighOnce(
  host: string,
  port: number,
  { tries = 4, pauseMs = 300, timeLimitMs = 1_500 } = {},
): Promise<Outcome<{ weight: Mass; unit: "lb" | "kg" }>> {
  for (let attempt = 1; ; attempt += 1) {
    let reading: Reading
    try {
      reading = await askScale(host, port, timeLimitMs)
    } catch (error) {
      if (!(error instanceof ScaleDown)) throw error
      return refused(reason("scale.no-answer", { why: error.message }))
    }
    if (!("figure" in reading)) return refused(reason(`scale.${reading.state}`))
    const { figure, unit, state } = reading
    if (state === "stable" && Number(figure) === 0) return refused(reason("scale.empty"))
    if (state === "stable") return accepted({ weight: mass(figure, unit), unit })
    if (attempt >= tries) return refused(reason("scale.moving", { shown: `${figure} ${unit}` }))
    await new Promise((resolve) => setTimeout(resolve, pauseMs))
  }
}
