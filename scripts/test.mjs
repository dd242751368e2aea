import { spawnSync } from "node:child_process"
import { existsSync, mkdtempSync, readFileSync, rmSync } from "node:fs"
import { tmpdir } from "node:os"
import { join, relative } from "node:path"

/** Runs every check in order, adds up the suites from their reports, and ends with `N passed, N failed`. */
const reports = mkdtempSync(join(tmpdir(), "varnok-reports-"))
const bin = (name) => join("node_modules", ".bin", name)
let passed = 0
let failed = 0
/** What failed and its first words, said again at the end, where a long log is still read. */
const failures = []

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
    failures.push(...counted.failures)
    // a suite that broke without a failed test counts as one
    if (done.status !== 0 && counted.failed === 0) {
      failed += 1
      failures.push(`${name} (no single test)`)
    }
  } else if (done.status === 0) passed += 1
  else {
    failed += 1
    failures.push(name)
  }
  return done.status === 0
}

/** The first three lines of a message, without colors, in one. */
function firstWords(message) {
  const plain = String(message ?? "").replace(/\u001b\[[0-9;]*m/g, "")
  return plain.split("\n").filter(Boolean).slice(0, 3).join(" | ").slice(0, 500)
}

/** The failed tests of a suite of the browser's report and of those within it. */
function brokenIn(suite) {
  const own = (suite.specs ?? [])
    .filter((spec) => !spec.ok || spec.tests.some((one) => one.status === "flaky"))
    .map((spec) => {
      const results = spec.tests.flatMap((one) => one.results)
      return `${spec.file}: ${spec.title}: ${firstWords(results.find((one) => one.error)?.error.message)}`
    })
  return [...own, ...(suite.suites ?? []).flatMap(brokenIn)]
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
      read: (json) => ({
        passed: json.numPassedTests,
        failed: json.numFailedTests,
        failures: json.testResults.flatMap((file) => {
          const broken = file.assertionResults.filter((one) => one.status === "failed")
          const name = relative(process.cwd(), file.name)
          // a file that could not even be read has no test of its own
          if (broken.length === 0 && file.status === "failed") return [`${name}: ${firstWords(file.message)}`]
          return broken.map((one) => `${name}: ${one.fullName}: ${firstWords(one.failureMessages[0])}`)
        }),
      }),
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
    read: (json) => ({
      passed: json.stats.expected,
      failed: json.stats.unexpected + json.stats.flaky,
      failures: json.suites.flatMap(brokenIn),
    }),
  })
}
rmSync(reports, { recursive: true, force: true })
if (failures.length > 0) process.stdout.write(`\n── what failed\n${failures.slice(0, 40).join("\n")}\n`)
process.stdout.write(`\n${passed} passed, ${failed} failed\n`)
process.exit(failed > 0 ? 1 : 0)
