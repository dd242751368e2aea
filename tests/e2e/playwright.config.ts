import { defineConfig } from "@playwright/test"

export default defineConfig({
  testDir: ".",
  globalSetup: "./start.ts",
  workers: 1,
  fullyParallel: false,
  forbidOnly: !!process.env.CI,
  retries: 0,
  timeout: 300_000,
  expect: { timeout: 30_000 },
  outputDir: "../../test-results",
  reporter: process.env.PLAYWRIGHT_JSON_OUTPUT_FILE ? [["list"], ["json"]] : [["list"]],
  use: {
    browserName: "chromium",
    viewport: { width: 1280, height: 800 },
    timezoneId: "Asia/Tokyo",
    trace: "retain-on-failure",
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
  },
})
