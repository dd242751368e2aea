import { defineConfig } from "@playwright/test"

export default defineConfig({
  testDir: ".",
  globalSetup: "./start.ts",
  workers: 2,
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
    // a trace costs a fifth of the time; a failure leaves what the page said in any case
    trace: process.env.VARNOK_TRACE ? "retain-on-failure" : "off",
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
