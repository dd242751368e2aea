import { type PackBox, type PackLoad, packInto, suggestPacking, type UsableBox } from "core/packing/index.ts"

/** What the screen asks: a suggestion for goods, or how the contents of one carton can lie in it. */
export type PackingAsked =
  | {
      readonly id: number
      readonly ask: "suggest"
      readonly loads: readonly PackLoad[]
      readonly boxes: readonly UsableBox[]
    }
  | { readonly id: number; readonly ask: "into"; readonly box: PackBox; readonly loads: readonly PackLoad[] }

self.addEventListener("message", ({ data }: MessageEvent<PackingAsked>) => {
  const answer =
    data.ask === "suggest" ? suggestPacking(data.loads, data.boxes) : (packInto(data.box, data.loads) ?? "none")
  self.postMessage({ id: data.id, answer })
})
