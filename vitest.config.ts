import { defineConfig } from "vitest/config"

export default defineConfig({
  resolve: { tsconfigPaths: true },
  test: {
    // stand-ins of tests are on loopback
    env: {
      VARNOK_REACHABLE: "127.0.0.0/8",
      VARNOK_LOCK_ORDER: "1",
      VARNOK_KEY: "dGhlIGtleSBvZiB0aGUgdGVzdHMsIDMyIGJ5dGVzIS4=",
    },
    projects: [
      {
        extends: true,
        test: {
          name: "unit",
          // generous: a loaded machine is slow, and no test is about time
          testTimeout: 60_000,
          isolate: false,
          // as many as the others, so that both run side by side
          maxWorkers: 2,
          include: [
            "core/**/*.test.ts",
            "server/**/*.unit.test.ts",
            "standins/**/*.test.ts",
            "tests/unit/**/*.test.ts",
            "app/**/*.test.ts",
          ],
        },
      },
      {
        extends: true,
        test: {
          name: "server",
          include: ["server/**/*.db.test.ts", "tests/server/**/*.test.ts"],
          globalSetup: ["tests/database/global.ts"],
          // modules are read once for all files of a worker: whatever they keep is kept by the name of the database
          isolate: false,
          testTimeout: 90_000,
          hookTimeout: 120_000,
          maxWorkers: 2,
        },
      },
    ],
  },
})
