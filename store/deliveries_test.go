package store_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"vividporch/store"
	"vividporch/store/jobs"
	"vividporch/store/storetest"
)

// delivered writes deliveries to the pier, one of each state, that ended so many days ago.
func delivered(t *testing.T, st *store.Store, days ...int) {
	t.Helper()
	tx, err := st.SQL.BeginTx(t.Context(), nil)
	if err != nil {
		t.Fatal(err)
	}
	states := []jobs.State{jobs.Waiting, jobs.Delivered, jobs.Dropped, jobs.Failed, jobs.Unclear}
	var list []jobs.Delivery
	for _, n := range days {
		for _, s := range states {
			list = append(list, jobs.Delivery{Channel: 1, Place: "pier", Line: fmt.Sprintf("%s %d", s, n), Text: "100% kelp", Body: []byte(`{}`), Made: time.Now()})
		}
	}
	if err := jobs.Deliver(t.Context(), tx, list); err != nil {
		t.Fatal(err)
	}
	if err := tx.Commit(); err != nil {
		t.Fatal(err)
	}
	for _, n := range days {
		for _, s := range states[1:] {
			if _, err := st.SQL.Exec(`UPDATE deliveries SET state = $1, ended = now() - make_interval(days => $2) WHERE line = $3`, string(s), n, fmt.Sprintf("%s %d", s, n)); err != nil {
				t.Fatal(err)
			}
		}
	}
}

func lines(list []jobs.Delivery) (out []string) {
	for _, d := range list {
		out = append(out, d.Line)
	}
	slices.Sort(out)
	return out
}

func TestWhatArrivedIsKeptForAMonthWhatDidNotLongerAndWhatIsOnItsWayAlways(t *testing.T) {
	st := storetest.Open(t)
	delivered(t, st, 1, 40, 200)
	n, err := st.Jobs.Prune(t.Context(), 1, time.Now().AddDate(0, 0, -30), time.Now().AddDate(0, 0, -90))
	if err != nil || n != 6 {
		t.Errorf("%d taken out, %v", n, err)
	}
	list, err := st.Jobs.Find(t.Context(), 1, jobs.Search{Most: 100})
	want := []string{"delivered 1", "dropped 1", "failed 1", "failed 40", "unclear 1", "unclear 40", "waiting 1", "waiting 200", "waiting 40"}
	if got := lines(list); err != nil || !slices.Equal(got, want) {
		t.Errorf("%v %q", err, got)
	}
	if n, _ := st.Jobs.Prune(t.Context(), 2, time.Now(), time.Now()); n != 0 {
		t.Errorf("another channel's: %d", n)
	}
}

func TestDeliveriesAreFoundByPlaceStateAndText(t *testing.T) {
	st := storetest.Open(t)
	delivered(t, st, 1)
	for name, c := range map[string]struct {
		q    jobs.Search
		want int
	}{
		"all":                   {jobs.Search{}, 5},
		"of a place":            {jobs.Search{Place: "pier"}, 5},
		"of another":            {jobs.Search{Place: "news"}, 0},
		"what did not arrive":   {jobs.Search{States: []jobs.State{jobs.Failed, jobs.Unclear}}, 2},
		"a text as it is":       {jobs.Search{Text: "100% K"}, 5},
		"a sign is no wildcard": {jobs.Search{Text: "1%kelp"}, 0},
	} {
		c.q.Most = 10
		if list, err := st.Jobs.Find(t.Context(), 1, c.q); err != nil || len(list) != c.want {
			t.Errorf("%s: %d, %v", name, len(list), err)
		}
	}
	of, err := st.Jobs.Standings(t.Context(), 1, time.Now().AddDate(0, 0, -2))
	if s := of["pier"]; err != nil || s.Waiting != 1 || s.Bad != 2 || s.Tonight != 1 || s.Last == nil {
		t.Errorf("%v %+v", err, s)
	}
}
