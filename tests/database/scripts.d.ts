declare module "*/scripts/database.mjs" {
  interface Running {
    readonly url: string
    readonly port: number
    readonly pid: number
    readonly socket: string
    readonly ended: Promise<number | string | null>
    stop(): Promise<void>
    kill(): void
  }
  export function startDatabase(
    folder: string,
    options?: { firstPort?: number; volatile?: boolean; schemas?: boolean; port?: number },
  ): Promise<Running>
  export function sql(socket: string, text: string): string
  export function column(socket: string, text: string): string[]
  export function secretOf(folder: string): { readonly root: string; readonly app: string }
  export function removeDatabase(folder: string): void
}
declare module "*/scripts/stack.mjs" {
  export interface Program {
    readonly name: string
    readonly pid: number
    readonly started: Promise<string | undefined>
    readonly ended: Promise<number | string | null>
    again(args?: readonly string[], env?: Record<string, string>): Program
    stop(): Promise<number | string | null>
    kill(): Promise<number | string | null>
  }
  export function keepRunning(
    program: Program,
    say: (text: string) => void,
    again?: (dead: Program) => Program | Promise<Program>,
  ): { readonly name: string; stop(): Promise<number | string | null> }
  export function reachable(addresses: Readonly<Record<string, string>>): string
  export function start(
    name: string,
    command: string,
    args: readonly string[],
    options: { env?: Record<string, string>; logs: string; ready?: RegExp },
  ): Program
  export function startStandins(
    folder: string,
    firstPort: number,
    orders?: string,
    shipAfter?: number,
  ): Promise<{
    addresses: {
      carriers: string
      printer: string
      orderSource: string
      addressService: string
      outsideWarehouse: string
      scale: string
      mail: string
      text: string
    }
    /** Where mail that can't be delivered comes back to. */
    returns: number
    programs: Program[]
  }>
}

declare module "*/data.mjs" {
  export function backup(socket: string, file: string, name?: string): Promise<void>
  export function restore(socket: string, file: string, name?: string): Promise<void>
}
