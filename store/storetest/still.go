package storetest

import (
	"testing"

	"vividporch/store"
)

// StandStill lets nothing be written to the log until goOn; it may be read. Waits reports whether something is there to be written.
func StandStill(t testing.TB, st *store.Store) (waits func() bool, goOn func()) {
	t.Helper()
	still, err := st.SQL.Begin()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { still.Rollback() })
	if _, err := still.Exec("LOCK TABLE events IN SHARE MODE"); err != nil {
		t.Fatal(err)
	}
	waits = func() bool {
		var n int
		if err := st.SQL.QueryRow("SELECT count(*) FROM pg_locks WHERE relation = 'events'::regclass AND NOT granted AND database = (SELECT oid FROM pg_database WHERE datname = current_database())").Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n > 0
	}
	return waits, func() { still.Rollback() }
}
