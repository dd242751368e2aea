import type { Place } from "core/address/index.ts"
import { planRound } from "core/round/index.ts"
import { adviseMany } from "../advice/many.ts"
import { mergePdfs } from "../pdf/merge.ts"
import { cleanPdf } from "../pdf/ownPaper.ts"
import { compareMany } from "../rating/batch.ts"
import { tryTariff } from "../rating/trial.ts"
import { runsWanted, suggest } from "./tasks.ts"

/** Where a round begins and ends, and the places between. */
export interface RoundWanted {
  readonly from: Place | null
  readonly stops: readonly (Place | null)[]
}

/** What workers of the pool compute, by name. */
const tasks = {
  runsWanted,
  suggest,
  tryTariff,
  compareMany,
  adviseMany,
  mergePdfs,
  cleanPdf,
  round: ({ from, stops }: RoundWanted) => planRound(from, stops),
} as const

export type TaskName = keyof typeof tasks
export type Tasks = typeof tasks

export default ({ task, input }: { task: TaskName; input: Parameters<Tasks[TaskName]>[0] }): unknown =>
  (tasks[task] as (input: unknown) => unknown)(input)
