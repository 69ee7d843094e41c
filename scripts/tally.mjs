// Counts the tests in the output of "go test -json", or of vitest's JSON reporter, and shows what failed with its output.
import { readFileSync } from "node:fs";

let passed = 0;
let failed = 0;
const output = new Map();
const text = readFileSync(process.argv[2], "utf8");
if (text.startsWith('{"numTotal')) {
  for (const file of JSON.parse(text).testResults) {
    if (file.status === "failed" && file.assertionResults.length === 0) {
      failed++;
      console.log(`FAIL ${file.name}\n${file.message}`);
    }
    for (const t of file.assertionResults) {
      if (t.status === "passed") passed++;
      else if (t.status === "failed") {
        failed++;
        console.log(`FAIL ${t.title}\n${t.failureMessages.join("\n").slice(0, 4000)}`);
      } else console.log(`skipped: ${t.title}`);
    }
  }
} else
  for (const line of text.split("\n")) {
    if (!line.startsWith("{")) continue;
    const e = JSON.parse(line);
    const key = `${e.Package} ${e.Test ?? ""}`;
    if (e.Action === "output" || e.Action === "build-output") output.set(key, (output.get(key) ?? "") + e.Output);
    if (e.Action === "skip" && e.Test) console.log(`skipped: ${key}`);
    if (e.Action === "pass" && e.Test) passed++;
    if (e.Action === "fail" && (e.Test || !e.FailedBuild)) {
      if (e.Test) failed++;
      console.log(`FAIL ${key}\n${(output.get(key) ?? "").slice(-4000)}`);
    }
    if (e.Action === "fail" && !e.Test && e.FailedBuild) {
      failed++;
      console.log(`FAIL ${e.Package} does not build`);
    }
  }
console.log(`${passed} passed, ${failed} failed`);
