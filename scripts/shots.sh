# Sourced by ./run: the pictures in docs/screenshots, from the demo data.
run_shots() {
  mkdir -p "$LOCAL" docs/screenshots
  need_debian chromium chromium
  need_node e2e
  trap stop_all EXIT INT TERM
  build
  rm -rf "$LOCAL/shots"
  start_postgres shots
  (cd e2e && PORCH_BIN="$LOCAL/vividporch" node shots.mjs)
}
