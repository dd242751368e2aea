import { join } from "node:path"
import { reactRouter } from "@react-router/dev/vite"
import { defineConfig, type Plugin } from "vite"

/** The router's plugin hashes the names of server files; these must be known to the start command. */
const serverFileNames: Plugin = {
  name: "varnok:server-file-names",
  enforce: "post",
  configEnvironment: {
    order: "post",
    handler(name, config) {
      if (name !== "ssr") return
      const output = config.build?.rollupOptions?.output
      if (output && !Array.isArray(output)) output.entryFileNames = "[name].js"
    },
  },
}

/**
 * The router's package gives its development build, with its warnings, to whoever imports it by name; what is built for
 * use takes the other one, in the browser and on the server.
 */
const routerForUse: Plugin = {
  name: "varnok:router-for-use",
  apply: "build",
  enforce: "pre",
  resolveId(source) {
    const file = { "react-router": "index.mjs", "react-router/dom": "dom-export.mjs" }[source]
    return file && join(import.meta.dirname, "node_modules/react-router/dist/production", file)
  },
}

export default defineConfig({
  plugins: [routerForUse, reactRouter(), serverFileNames],
  resolve: { tsconfigPaths: true },
  // no data: addresses, so that the content security policy can forbid them
  build: { assetsInlineLimit: 0 },
  environments: {
    ssr: {
      resolve: {
        noExternal: [
          /^@chakra-ui\//,
          /^@ark-ui\//,
          /^@zag-js\//,
          /^@internationalized\//,
          "lucide-react",
          "react-router",
          /^@react-router\//,
        ],
      },
      build: {
        rollupOptions: {
          input: {
            index: "server/http/main.ts",
            worker: "server/worker/main.ts",
            migrate: "server/db/migrate.main.ts",
            demo: "demo/load.main.ts",
            compute: "server/compute/worker.ts",
            reconcile: "server/shipping/reconcile.main.ts",
          },
        },
      },
    },
  },
})
