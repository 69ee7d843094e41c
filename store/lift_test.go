package store_test

import (
	"testing"

	"vividporch/store/jobs"
	"vividporch/store/storetest"
)

func TestPostsOfOldThatWereOnTheirWayAreTakenOver(t *testing.T) {
	st := storetest.Open(t)
	for _, q := range []string{
		`CREATE TABLE posts (channel bigint, line text, place text, state text NOT NULL, attempts bigint NOT NULL, reason text NOT NULL DEFAULT '', changed timestamptz NOT NULL, PRIMARY KEY (channel, line, place))`,
		`INSERT INTO posts VALUES (1, 'a', 'news', 'delayed', 3, 'the place does not answer', now()), (1, 'b', 'news', 'trying', 1, '', now()), (1, 'c', 'news', 'delivered', 1, '', now()), (1, 'd', 'news', 'failed', 14, 'gone', now())`,
		`INSERT INTO decisions (channel, seq, n, kind, courtesy, slot, line, person, body) VALUES (1, 9, 0, 'relay', 'announce', 's', 'd', '', '{"place": "news", "body": {"text": "the lamp is lit"}}')`,
		`INSERT INTO river_job (kind, queue, args, max_attempts, state, created_at) SELECT 'relay', 'channel_1', jsonb_build_object('channel', 1, 'line', l, 'place', 'news', 'body', jsonb_build_object('text', l), 'about', jsonb_build_array('quayside:7')), 14, 'available', now()
			FROM unnest(ARRAY['a', 'b', 'c', 'e']) AS l`,
		`UPDATE tables_shape SET shape = 'of old'`,
	} {
		if _, err := st.SQL.Exec(q); err != nil {
			t.Fatal(err)
		}
	}
	if err := st.Migrate(t.Context()); err != nil {
		t.Fatal(err)
	}
	list, err := st.Jobs.Find(t.Context(), 1, jobs.Search{Most: 10})
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]jobs.Delivery{}
	for _, d := range list {
		got[d.Line] = d
	}
	for line, want := range map[string]jobs.State{"a": jobs.Waiting, "b": jobs.Trying, "c": jobs.Delivered, "d": jobs.Failed, "e": jobs.Waiting} {
		if got[line].State != want {
			t.Errorf("%s is %q, want %q", line, got[line].State, want)
		}
	}
	if a := got["a"]; a.Attempts != 3 || a.Reason != "the place does not answer" || string(a.Body) != `{"text": "a"}` || len(a.About) != 1 {
		t.Errorf("%+v", a)
	}
	if len(list) != 5 || len(got["d"].Body) == 0 {
		t.Errorf("%d deliveries; what failed can be sent again: %s", len(list), got["d"].Body)
	}
	var old int
	if err := st.SQL.QueryRow(`SELECT count(*) FROM river_job WHERE kind = 'relay'`).Scan(&old); err != nil || old != 0 {
		t.Errorf("%d jobs of old are left: %v", old, err)
	}
	if err := st.Migrate(t.Context()); err != nil {
		t.Errorf("a second time: %v", err)
	}
}
