# Sourced by ./run: what takes longer. Ends with "N passed, N failed".

SOAK_MOST=25m # whatever is asked for

run_soak() { # [DURATION]: ten minutes unless told otherwise
  mkdir -p "$LOCAL"
  export PORCH_TEST=1 PORCH_SOAK=${1:-10m}
  build_ui
  trap stop_all EXIT INT TERM
  rm -rf "$LOCAL/soak"
  PG_EXTRA=$'fsync = off\nsynchronous_commit = off\nfull_page_writes = off' start_postgres soak
  say "soaking for $PORCH_SOAK"
  local code=0
  go test -json -count=1 -timeout "$SOAK_MOST" ./soak >"$LOCAL/soak-test.json" 2>"$LOCAL/soak-test.err" || code=$?
  # What is killed a few times in every test run is killed often here.
  go test -json -count=1 -timeout 5m ./cmd/vividporch -run 'Killed|Standby' >>"$LOCAL/soak-test.json" 2>>"$LOCAL/soak-test.err" || code=$?
  cat "$LOCAL/soak-test.err"
  node scripts/tally.mjs "$LOCAL/soak-test.json" >"$LOCAL/soak-test.txt" || true
  node -e 'for (const l of require("fs").readFileSync(process.argv[1], "utf8").split("\n")) { try { const e = JSON.parse(l); if (e.Action === "output" && /_test\.go:\d+: /.test(e.Output)) process.stdout.write(e.Output.trim() + "\n"); } catch {} }' "$LOCAL/soak-test.json"
  cat "$LOCAL/soak-test.txt"
  return $code
}
