import { defineConfig } from "@playwright/test";
import { execSync } from "node:child_process";

const asRoot = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"];

export default defineConfig({
  testDir: ".",
  workers: 1, // one workspace at a time: each spec has its own
  timeout: 40_000,
  expect: { timeout: 8_000 },
  reporter: [["list"]],
  outputDir: process.env.SNUG_E2E_OUT ?? "/tmp/snug-e2e",
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: execSync("command -v chromium").toString().trim(), args: asRoot },
  },
});
