// Counts the tests in the output of "go test -json" and shows what failed with its output.
import { readFileSync } from "node:fs";

let passed = 0;
let failed = 0;
const output = new Map();
for (const line of readFileSync(process.argv[2], "utf8").split("\n")) {
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
