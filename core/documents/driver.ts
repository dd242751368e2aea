import type { Strokes } from "../signature/index.ts"

/** Who took goods over, as it stands on papers; all text ready to print, empty where it is not known. */
export interface DriverOnPaper {
  readonly name: string
  readonly strokes: Strokes
  /** Handling units that he counted, and why there are others than we have. */
  readonly units: string
  readonly reason: string
  readonly seal: string
  readonly trailer: string
  readonly arrived: string
  readonly departed: string
}
