declare module "@sealsystems/ipp" {
  type Group = Record<string, unknown>
  export interface IppMessage {
    version?: string
    operation?: string
    statusCode?: string
    id?: number
    "operation-attributes-tag"?: Group
    "job-attributes-tag"?: Group | Group[]
    "printer-attributes-tag"?: Group
    data?: Buffer
  }
  const ipp: { serialize(message: IppMessage): Buffer; parse(bytes: Buffer): IppMessage }
  export default ipp
}
