declare module "*/scripts/database.mjs" {
  interface Running {
    readonly url: string
    readonly port: number
    readonly pid: number
    readonly socket: string
    stop(): Promise<void>
    kill(): void
  }
  export function startDatabase(
    folder: string,
    options?: { firstPort?: number; volatile?: boolean; port?: number },
  ): Promise<Running>
  export function sql(socket: string, text: string): string
  export function removeDatabase(folder: string): void
}
declare module "*/scripts/stack.mjs" {
  export interface Program {
    readonly name: string
    readonly pid: number
    readonly started: Promise<string | undefined>
    readonly ended: Promise<number | null>
    stop(): Promise<number | null>
    kill(): Promise<number | null>
  }
  export function start(
    name: string,
    command: string,
    args: readonly string[],
    options: { env?: Record<string, string>; logs: string; ready?: RegExp },
  ): Program
  export function startStandins(
    folder: string,
    firstPort: number,
    taken?: Set<number>,
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
    }
    programs: Program[]
  }>
}

declare module "*/data.mjs" {
  export function backup(socket: string, file: string, name?: string): Promise<void>
  export function restore(socket: string, file: string, name?: string): Promise<void>
}
