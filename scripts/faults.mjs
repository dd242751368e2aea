import { spawnSync } from "node:child_process"

/**
 * The fault tests in their longer form: 200 labels, the database and a worker killed four times; and a shipping run of
 * 200 whose worker is killed ten times; and the closing of doors with as many deaths.
 */
const done = spawnSync(
  "node_modules/.bin/vitest",
  [
    "run",
    "--project",
    "server",
    "tests/server/faults.test.ts",
    "tests/server/runFaults.test.ts",
    "tests/server/dockFaults.test.ts",
  ],
  {
    stdio: "inherit",
    env: {
      ...process.env,
      VARNOK_FAULT_LABELS: process.env.VARNOK_FAULT_LABELS ?? "200",
      VARNOK_FAULT_DEATHS: process.env.VARNOK_FAULT_DEATHS ?? "4",
      VARNOK_RUN_SHIPMENTS: process.env.VARNOK_RUN_SHIPMENTS ?? "200",
      VARNOK_DOCK_DEATHS: process.env.VARNOK_DOCK_DEATHS ?? "10",
      VARNOK_RUN_DEATHS: process.env.VARNOK_RUN_DEATHS ?? "10",
    },
  },
)
process.exit(done.status ?? 1)
