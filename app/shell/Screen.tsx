import type { ReactNode } from "react"
import { Ribbon } from "./Ribbon.tsx"
import { Sill, type SillProps } from "./Sill.tsx"
import { TopLine } from "./TopLine.tsx"

/** The frame of every screen. The day itself has no ribbon: it is the ribbon. */
export function Screen({
  ribbon,
  sill,
  name,
  children,
}: {
  ribbon?: { order?: number; door?: string } | null
  sill: SillProps
  name: string
  children: ReactNode
}) {
  return (
    <div className={ribbon ? "screen" : "screen bare"}>
      <TopLine />
      {ribbon ? <Ribbon {...ribbon} /> : null}
      <main className={`place ${name}`}>{children}</main>
      <Sill {...sill} />
    </div>
  )
}
