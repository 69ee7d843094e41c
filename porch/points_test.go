package porch

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/output"
	"vividporch/core/points"
	"vividporch/store"
	"vividporch/store/log"
	"vividporch/store/storetest"
)

// rewarding is a house in which points are gathered and spent.
func rewarding(t *testing.T, st *store.Store) (h *House, stop func()) {
	t.Helper()
	s := housetest.Base()
	wish := housetest.Asked("wish", output.Output{ID: "say", Do: &output.Say{}, Alternatives: []string{"A wish of {name}."}})
	wish.Cost = 7
	s.Courtesy = append(s.Courtesy, wish, housetest.Asked("stone", output.Output{Do: &output.Stone{}}), housetest.Asked("give", output.Output{Do: &output.Give{}}))
	s.Rooms = map[string]json.RawMessage{points.Name: json.RawMessage(`{"on": true, "one": "pearl", "evening": 1000}`)}
	cfg := Config{Store: st, Channel: "tidepool_hours", Defaults: asJSON(t, s), Shut: true}
	id, err := st.Channel(t.Context(), cfg.Channel)
	if err == nil {
		err = st.Log.FirstSettings(t.Context(), id, cfg.Defaults)
	}
	if err != nil {
		t.Fatal(err)
	}
	if h, stop, err = Start(t.Context(), cfg); err != nil {
		t.Fatal(err)
	}
	return h, stop
}

// sums are what everybody has, by the ledger and by the list of ranks.
func sums(t *testing.T, h *House) (ledger, ranks map[string]int64) {
	t.Helper()
	read := func(q string) map[string]int64 {
		rows, err := h.store.Find.SQL.QueryContext(t.Context(), q, h.ID)
		if err != nil {
			t.Fatal(err)
		}
		defer rows.Close()
		out := map[string]int64{}
		for rows.Next() {
			var who string
			var n int64
			if err := rows.Scan(&who, &n); err != nil {
				t.Fatal(err)
			}
			if n != 0 {
				out[who] = n
			}
		}
		return out
	}
	return read(`SELECT a.person::text, sum(l.amount) FROM ledger l JOIN accounts a ON a.channel = l.channel AND a.key = l.key WHERE l.channel = $1 GROUP BY 1`), read(`SELECT person::text, has FROM ranks WHERE channel = $1`)
}

func TestBalancesAreWhatTheLedgerSaysThroughMergesRestartsAndAForgetting(t *testing.T) {
	st := storetest.Open(t)
	h, stop := rewarding(t, st)
	r := rand.New(rand.NewPCG(1, 2))
	hand := func(d event.Data) {
		t.Helper()
		if _, err := h.Hand(t.Context(), d); err != nil {
			t.Fatal(err)
		}
	}
	who := func(i int) event.Person {
		return event.Person{Platform: "quayside", ID: fmt.Sprint("p", i), Login: fmt.Sprint("p", i)}
	}
	for i := range 6 {
		ev := saying(fmt.Sprint("p", i), "hello")
		if _, err := h.Submit(t.Context(), []event.Event{ev}); err != nil {
			t.Fatal(err)
		}
	}
	for n := range 60 {
		i := r.IntN(6)
		if r.IntN(2) == 0 {
			hand(&event.PointsGranted{Person: who(i), Amount: int64(1 + r.IntN(30)), Member: "Odalys Brine"})
			continue
		}
		ev := saying(fmt.Sprint("p", i), []string{"!wish", "!stone 3"}[r.IntN(2)])
		ev.ID = fmt.Sprint("line", n)
		ev.Data.(*happening.ChatSaid).MessageID = ev.ID
		if _, err := h.Submit(t.Context(), []event.Event{ev}); err != nil {
			t.Fatal(err)
		}
	}
	same := func(when string) {
		t.Helper()
		if ledger, ranks := sums(t, h); fmt.Sprint(ledger) != fmt.Sprint(ranks) || len(ranks) < 3 {
			t.Fatalf("%s: %v by the ledger, %v by the list", when, ledger, ranks)
		}
	}
	same("after an evening")
	known := func(i int) int64 {
		k, err := h.Known(t.Context(), who(i).Key())
		if err != nil || k == nil {
			t.Fatal(err, k)
		}
		return k.Person
	}
	kept, gone := known(0), known(1)
	hand(&event.BookMerged{Kept: kept, Gone: gone, Accounts: []string{who(0).Key(), who(1).Key()}})
	same("merged")
	hand(&event.BookParted{Part: gone, Account: who(1).Key()})
	same("parted")
	stop()
	h, stop = rewarding(t, st)
	defer stop()
	same("after a restart")
	hand(&event.PointsReset{Member: "Odalys Brine"})
	if _, ranks := sums(t, h); len(ranks) > 0 {
		t.Errorf("after a reset: %v", ranks)
	}
	hand(&event.PointsReset{Undo: true, Member: "Odalys Brine"})
	same("taken back")
}

// lived is the state as the log makes it, from nothing.
func lived(t *testing.T, h *House) *house.State {
	t.Helper()
	out := house.NewState()
	if err := h.store.Log.Since(t.Context(), h.ID, 0, 0, func(en log.Entry) error { out.Evolve(&en.Event, en.Decisions); return nil }); err != nil {
		t.Fatal(err)
	}
	return out
}

func TestWhatSomebodyWasGivenStaysTheirsWhenTheGiverIsForgotten(t *testing.T) {
	h, stop := rewarding(t, storetest.Open(t))
	defer stop()
	lena, moss := event.Person{Platform: "quayside", ID: "lena", Login: "loginlena"}, event.Person{Platform: "quayside", ID: "moss", Login: "loginmoss"}
	for _, text := range [][2]string{{"lena", "hello"}, {"moss", "hello"}} {
		if _, err := h.Submit(t.Context(), []event.Event{saying(text[0], text[1])}); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := h.Hand(t.Context(), &event.PointsGranted{Person: lena, Amount: 50, Member: "Odalys Brine"}); err != nil {
		t.Fatal(err)
	}
	ev := saying("lena", "!give loginmoss 20")
	ev.ID = "gives"
	ev.Data.(*happening.ChatSaid).MessageID = ev.ID
	if _, err := h.Submit(t.Context(), []event.Event{ev}); err != nil {
		t.Fatal(err)
	}
	before := string(lived(t, h).Kept[moss.Key()][points.Name])
	if !strings.Contains(before, `"has":20`) {
		t.Fatalf("moss has %s", before)
	}
	forgets(t, h, lena.Key())
	if after := string(lived(t, h).Kept[moss.Key()][points.Name]); after != before {
		t.Errorf("after the giver was forgotten the log says %q, before it said %s", after, before)
	}
}

// What a reset asks for stays known when whoever gathered first is forgotten: the state that the log makes, and so a restart, says the same.
func TestWhetherAnybodyGatheredSinceAResetStaysKnownThroughAForgetting(t *testing.T) {
	lena := event.Person{Platform: "quayside", ID: "lena", Login: "loginlena"}
	for name, gathers := range map[string]func(h *House) error{
		"by hand": func(h *House) error {
			_, err := h.Hand(t.Context(), &event.PointsGranted{Person: lena, Amount: 50, Member: "Odalys Brine"})
			return err
		},
		"nothing": func(h *House) error { return nil },
	} {
		t.Run(name, func(t *testing.T) {
			h, stop := rewarding(t, storetest.Open(t))
			defer stop()
			if _, err := h.Submit(t.Context(), []event.Event{saying("lena", "hello")}); err != nil {
				t.Fatal(err)
			}
			for _, season := range []bool{false, true} {
				if _, err := h.Hand(t.Context(), &event.PointsReset{Season: season, Member: "Odalys Brine"}); err != nil {
					t.Fatal(err)
				}
			}
			if err := gathers(h); err != nil {
				t.Fatal(err)
			}
			before := points.MemoryOf(lived(t, h).Rooms)
			if isNew := name == "nothing"; before.All.New != isNew || before.Season.New != isNew {
				t.Fatalf("before: %+v %+v", before.All, before.Season)
			}
			forgets(t, h, lena.Key())
			after := points.MemoryOf(lived(t, h).Rooms)
			if !reflect.DeepEqual(before.All, after.All) || !reflect.DeepEqual(before.Season, after.Season) {
				t.Errorf("%+v and %+v; after the forgetting %+v and %+v", before.All, before.Season, after.All, after.Season)
			}
		})
	}
}
