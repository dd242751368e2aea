import { say } from "words/index.ts"

interface Cart {
  readonly code: string
  readonly name: string
  readonly totes: number
  readonly busyWith?: number | null
}

/** A cart as one chooses it: with its totes, or with the run that it is out with. */
export function cartWords({ code, name, totes, busyWith = null }: Cart): string {
  if (busyWith !== null) return say("runs.cart-busy", { code, name, run: busyWith })
  return totes > 0 ? say("runs.cart-totes", { code, name, totes }) : say("runs.cart-plain", { code, name })
}
