declare module "virtual:react-router/server-build" {
  import type { ServerBuild } from "react-router"
  export const routes: ServerBuild["routes"]
}

declare module "*.woff2?url" {
  const href: string
  export default href
}
