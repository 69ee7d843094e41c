# Sourced by ./run: the benchmarks, on a database that keeps every promise it makes.
run_bench() {
  mkdir -p "$LOCAL"
  need_debian chromium chromium
  need_node e2e
  trap stop_all EXIT INT TERM
  build
  go build -o "$LOCAL/bench" ./bench
  rm -rf "$LOCAL/bench-data"
  start_postgres bench-data
  "$LOCAL/bench" "$LOCAL/vividporch" "$@"
}
