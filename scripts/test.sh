# Sourced by ./run: every check, counted. Ends with "N passed, N failed".

PASSED=0
FAILED=0

check() { # NAME COMMAND…: one check; its output is shown when it fails
  local name=$1 out; shift
  if out=$("$@" 2>&1); then
    PASSED=$((PASSED + 1)); echo "ok    $name"
  else
    FAILED=$((FAILED + 1)); echo "FAIL  $name"; printf '%s\n' "$out" | tail -60 | sed 's/^/      /'
  fi
}

tally() { # NAME FILE: a runner's own counts, from its last line "N passed, N failed"
  local line; line=$(tail -1 "$2")
  if [[ $line =~ ^([0-9]+)\ passed,\ ([0-9]+)\ failed$ ]] && [ "${BASH_REMATCH[1]}" -gt 0 ]; then
    PASSED=$((PASSED + BASH_REMATCH[1])); FAILED=$((FAILED + BASH_REMATCH[2]))
    echo "$([ "${BASH_REMATCH[2]}" = 0 ] && echo 'ok  ' || echo FAIL)  $1: $line"
  else
    FAILED=$((FAILED + 1)); echo "FAIL  $1 did not finish"
  fi
}

formatted() { local l; l=$(gofmt -l $(git ls-files '*.go')); [ -z "$l" ] || { echo "not formatted: $l; run ./run fmt"; return 1; }; }

fresh_types() { # what is made from other files is what making it again gives
  local tmp; tmp=$(mktemp -d)
  cp spec/spec.gen.go ui/src/api/*.gen.ts docs/contract/* demo/*.jsonl "$tmp"
  types
  for f in spec/spec.gen.go ui/src/api/*.gen.ts docs/contract/* demo/*.jsonl; do
    cmp -s "$f" "$tmp/$(basename "$f")" || { echo "$f is stale: commit what ./run types makes"; return 1; }
  done
}

ui_types() { (cd ui && npx tsc --noEmit); }
ui_lint() { (cd ui && npx eslint . --max-warnings 0); }
ui_format() { (cd ui && npx prettier --log-level warn --config .prettierrc.json --check src '*.ts' '*.js' '*.html' '../e2e/*.mjs' '../scripts/*.mjs'); }

first_load() { # the Porch's first load: at most 220 kB of gzipped JavaScript
  local total=0 f
  for f in $(grep -o 'assets/[^"]*\.js' ui/dist/app/index.html | sort -u); do total=$((total + $(gzip -9c "ui/dist/app/$f" | wc -c))); done
  echo "the Porch loads $total bytes of gzipped JavaScript"
  [ "$total" -gt 20000 ] && [ "$total" -le 220000 ]
}

# A failing input is written down. On a busy machine the go command may instead fail by its own deadline
# while it stops the workers; that found nothing, and is run again.
fuzz() { # PACKAGE NAME [TIME]
  local out turn
  for turn in 1 2 3; do
    out=$(go test "$1" -run='^$' -fuzz="^$2\$" -fuzztime="${3:-5s}" -parallel=2 2>&1) && return
    echo "$out"
    [[ $out == *"context deadline exceeded"* && $out != *"Failing input"* ]] || return 1
  done
  return 1
}

run_tests() {
  mkdir -p "$LOCAL"
  export PORCH_TEST=1
  need_sound
  need_debian ngircd ngircd
  need_debian prosody prosody
  need_debian chromium chromium
  [ -e /usr/lib/python3/dist-packages/icalendar ] || { say "installing python3-icalendar"; install_debian python3-icalendar; } # a second reader of what we write
  need_node ui
  need_node e2e
  trap stop_all EXIT INT TERM
  # Tests make and drop many databases; what they write need not outlive a power cut.
  rm -rf "$LOCAL/test" "$LOCAL"/*-test.json
  PG_EXTRA=$'fsync = off\nsynchronous_commit = off\nfull_page_writes = off' start_postgres test

  check "Go is formatted" formatted
  check "Go vets" go vet ./...
  check "generated files are fresh" fresh_types
  check "TypeScript types" ui_types
  check "TypeScript is formatted" ui_format
  check "TypeScript lints" ui_lint
  check "interface builds" build
  check "first load of the Porch" first_load

  (cd ui && npx vitest run --reporter=json --outputFile="$LOCAL/ui-test.json") >"$LOCAL/ui-test.err" 2>&1 || true
  node scripts/tally.mjs "$LOCAL/ui-test.json" >"$LOCAL/ui-test.txt" || cat "$LOCAL/ui-test.err"
  grep -v ' passed, ' "$LOCAL/ui-test.txt" || true
  tally "interface modules" "$LOCAL/ui-test.txt"

  go test -json ./... >"$LOCAL/go-test.json" 2>"$LOCAL/go-test.err" || true
  node scripts/tally.mjs "$LOCAL/go-test.json" >"$LOCAL/go-test.txt" || true
  grep -v ' passed, ' "$LOCAL/go-test.txt" || true
  cat "$LOCAL/go-test.err"
  tally "Go tests" "$LOCAL/go-test.txt"

  check "fuzz: IRC codec" fuzz ./doors/irc FuzzWhatIsReadIsWrittenTheSame
  check "fuzz: line splitting" fuzz ./doors/irc FuzzSplittingCutsNoCharacter
  check "fuzz: wordings" fuzz ./core/wording FuzzAnyWordingIsReadOrRefusedWithoutHarm
  check "fuzz: media" fuzz ./formats/media FuzzAnyFileIsReadOrRefused
  check "fuzz: lines of chat" fuzz ./core/spoken FuzzALineIsReadWithoutHarm
  check "fuzz: lists of commands" fuzz ./formats/commands FuzzAnyFileIsReadOrRefused
  check "fuzz: calendars" fuzz ./formats/ics FuzzACalendarIsReadOrItsEventsAreRefused
  check "fuzz: lists of points" fuzz ./formats/pearls FuzzAnyListIsReadOrRefused
  check "fuzz: readings" fuzz ./core/reading FuzzAMessage 10s
  check "fuzz: rules of the guard" fuzz ./core/trouble FuzzNoLineUpsetsARule
  check "fuzz: words in disguise" fuzz ./core/wordlist FuzzWhateverIsWrittenTheListTellsOfItself
  check "fuzz: what fittings are told" fuzz ./core/fitting FuzzWhateverAProfileSaysABodyIsJSON

  (cd e2e && PORCH_BIN="$LOCAL/vividporch" node run.mjs "$@") >"$LOCAL/e2e.txt" 2>&1 || true
  grep -v '^ok' "$LOCAL/e2e.txt" | grep -v ' passed, ' || true
  tally "in the browser" "$LOCAL/e2e.txt"

  echo "$PASSED passed, $FAILED failed"
  [ "$FAILED" = 0 ]
}
