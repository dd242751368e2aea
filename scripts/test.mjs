import { spawnSync } from "node:child_process"
import { existsSync, mkdtempSync, readFileSync, rmSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"

/** Runs every check in order, adds up the suites from their reports, and ends with `N passed, N failed`. */
const reports = mkdtempSync(join(tmpdir(), "varnok-reports-"))
const bin = (name) => join("node_modules", ".bin", name)
let passed = 0
let failed = 0

function step(name, command, args, count) {
  process.stdout.write(`\n── ${name}\n`)
  const started = Date.now()
  const done = spawnSync(command, args, {
    stdio: "inherit",
    env: { ...process.env, NODE_ENV: undefined, ...(count?.env ?? {}) },
  })
  process.stdout.write(`── ${name}: ${((Date.now() - started) / 1000).toFixed(1)} s\n`)
  const counted = count && existsSync(count.report) ? count.read(JSON.parse(readFileSync(count.report, "utf8"))) : null
  if (counted) {
    passed += counted.passed
    failed += counted.failed
    // a suite that broke without a failed test counts as one
    if (done.status !== 0 && counted.failed === 0) failed += 1
  } else if (done.status === 0) passed += 1
  else failed += 1
  return done.status === 0
}

/** Unit and server tests side by side, in as many workers as there are processors here. */
function vitest() {
  const report = join(reports, "vitest.json")
  return step(
    "unit and server tests",
    bin("vitest"),
    ["run", "--reporter=default", "--reporter=json", `--outputFile.json=${report}`],
    {
      report,
      read: (json) => ({ passed: json.numPassedTests, failed: json.numFailedTests }),
    },
  )
}

step("types of routes", bin("react-router"), ["typegen"])
step("type check", bin("tsc"), ["--noEmit"])
step("lint and format", bin("biome"), ["check", "."])
vitest()
if (step("build", bin("react-router"), ["build"])) {
  const report = join(reports, "e2e.json")
  step("end to end", bin("playwright"), ["test", "-c", "tests/e2e/playwright.config.ts"], {
    report,
    env: { PLAYWRIGHT_JSON_OUTPUT_FILE: report },
    read: (json) => ({ passed: json.stats.expected, failed: json.stats.unexpected + json.stats.flaky }),
  })
}
rmSync(reports, { recursive: true, force: true })
process.stdout.write(`\n${passed} passed, ${failed} failed\n`)
process.exit(failed > 0 ? 1 : 0)
