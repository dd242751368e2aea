import { readFileSync } from "node:fs"
import { createRequire } from "node:module"
import { Configuration } from "ts-edifact/lib/configuration.js"
import { Parser } from "ts-edifact/lib/parser.js"
import { type MessageType, Tracker } from "ts-edifact/lib/tracker.js"
import { expect } from "vitest"

/** A segment as an independent reader found it: its tag, and its elements with their components. */
export type ReadSegment = readonly [tag: string, elements: string[][]]

/** The segments of an interchange as the independent parser ts-edifact reads them. */
export function readEdifact(text: string): ReadSegment[] {
  const found: [string, string[][]][] = []
  const parser = new Parser(new Configuration({ charset: "UNOC" }))
  parser.onOpenSegment = (name: string) => void found.push([name, []])
  parser.onElement = () => void found.at(-1)?.[1].push([])
  parser.onComponent = (value: string) => void found.at(-1)?.[1].at(-1)?.push(value)
  parser.write(text)
  parser.end()
  return found.filter(([name]) => name !== "UNA")
}

/**
 * Holds a message against the segment table of directory D.01B that the package ts-edifact ships, and counts its
 * segments: UNT names those from UNH to itself (ISO 9735).
 */
export function expectStructure(found: readonly ReadSegment[], type: "IFTMIN" | "DESADV"): void {
  const table = JSON.parse(
    readFileSync(createRequire(import.meta.url).resolve(`ts-edifact/lib/messageSpec/${type}.struct.json`), "utf8"),
  ) as MessageType[]
  const tracker = new Tracker(table)
  for (const [tag] of found) if (tag !== "UNB" && tag !== "UNZ") expect(() => tracker.accept(tag), tag).not.toThrow()
  expect(found.find(([tag]) => tag === "UNT")?.[1][0]).toEqual([String(found.length - 2)])
  expect(found.find(([tag]) => tag === "UNZ")?.[1][0]).toEqual(["1"])
}

/** The elements of each segment of a tag. */
export const segmentsOf = (found: readonly ReadSegment[], tag: string): string[][][] =>
  found.filter(([name]) => name === tag).map(([, elements]) => elements)
