package store_test

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"testing"

	"vividporch/core/event"
	"vividporch/store/storetest"
)

// countedRight compares what is kept of the counts of all streams with what is counted from the start.
func (b *book) countedRight(after string) {
	b.t.Helper()
	ctx, streams := b.t.Context(), make([]int, 60)
	for i := range streams {
		streams[i] = i + 1
	}
	kept, err := b.s.Find.Turnouts(ctx, b.channel, streams)
	if err != nil {
		b.t.Fatal(err)
	}
	if _, err := b.s.SQL.Exec("DELETE FROM turnouts WHERE channel = $1", b.channel); err != nil {
		b.t.Fatal(err)
	}
	fresh, err := b.s.Find.Turnouts(ctx, b.channel, streams)
	if err != nil {
		b.t.Fatal(err)
	}
	if !reflect.DeepEqual(kept, fresh) {
		b.t.Fatalf("after %s: kept\n%+v\nand counted anew\n%+v", after, kept, fresh)
	}
}

func TestWhatIsCountedOfAStreamStaysTrueWhateverComes(t *testing.T) {
	s := storetest.Open(t)
	for seed := range uint64(12) {
		r := rand.New(rand.NewPCG(seed, 5))
		b := open(t, s, fmt.Sprint("counted-", seed))
		for n := 1; n <= 6; n++ {
			if _, err := s.SQL.Exec("INSERT INTO streams (channel, number, opened, closed) VALUES ($1, $2, $3, $4)", b.channel, n, opened(n), opened(n).Add(2e12)); err != nil {
				t.Fatal(err)
			}
		}
		evs := someEvening(r)
		r.Shuffle(len(evs), func(i, j int) { evs[i], evs[j] = evs[j], evs[i] }) // most come late
		merged, gone := map[int64]bool{}, map[string]bool{}
		for i := 0; i < len(evs); {
			did := "nothing"
			switch k := 1 + r.Int64N(4); {
			case r.IntN(4) == 0 && b.person >= 4 && len(merged) == 0 && len(gone) == 0:
				kept := 1 + k%4
				b.does(&event.BookMerged{Kept: kept, Gone: k})
				merged[k], did = true, fmt.Sprintf("merging %d into %d", k, kept)
			case r.IntN(4) == 0 && len(merged) > 0:
				for id := range merged {
					b.does(&event.BookParted{Part: id})
					did = fmt.Sprint("parting ", id)
				}
				clear(merged)
			case r.IntN(12) == 0 && b.person >= 4 && len(gone) == 0:
				key := fmt.Sprint("quayside:p", k-1)
				var person int64
				if err := s.SQL.QueryRow("SELECT coalesce((SELECT person FROM accounts WHERE channel = $1 AND key = $2), 0)", b.channel, key).Scan(&person); err != nil {
					t.Fatal(err)
				}
				if person == 0 {
					continue
				}
				b.does(&event.BookForgotten{Person: person, Keys: []string{key}})
				gone[fmt.Sprint("p", k-1)], did = true, "forgetting "+key
			default:
				e := evs[i]
				i++
				if gone[e.Event.Who().ID] {
					continue
				}
				b.happens(e)
				did = fmt.Sprintf("%s of %s in stream %d", e.Event.Type, e.Event.Who().ID, e.Stream)
			}
			if r.IntN(2) == 0 { // else two changes come between
				b.countedRight(fmt.Sprintf("%s (seed %d)", did, seed))
			}
		}
		b.countedRight(fmt.Sprintf("the whole of it (seed %d)", seed))
	}
}

func TestAStreamThatIsCountedWhileItChangesIsCountedAgain(t *testing.T) {
	s := storetest.Open(t)
	b := open(t, s, "counted-meanwhile")
	r := rand.New(rand.NewPCG(3, 9))
	for n := 1; n <= 6; n++ {
		if _, err := s.SQL.Exec("INSERT INTO streams (channel, number, opened, closed) VALUES ($1, $2, $3, $4)", b.channel, n, opened(n), opened(n).Add(2e12)); err != nil {
			t.Fatal(err)
		}
	}
	over, counting := make(chan bool), make(chan error)
	for range 3 {
		go func() {
			for {
				select {
				case <-over:
					counting <- nil
					return
				default:
				}
				if _, err := s.Find.Turnouts(t.Context(), b.channel, []int{1, 2, 3, 4, 5, 6}); err != nil {
					counting <- err
					return
				}
			}
		}()
	}
	for i := range 120 {
		stream := 1 + r.IntN(6)
		b.happens(line(fmt.Sprint("p", r.IntN(30)), "p", opened(stream), stream), line(fmt.Sprint("p", i), "p", opened(stream), stream))
	}
	close(over)
	for range 3 {
		if err := <-counting; err != nil {
			t.Fatal(err)
		}
	}
	b.countedRight("all of them have counted at once")
}

func TestStreamsThatAFileBringsVisitsToAreCountedAgainAndOnceMoreWhenItIsTakenBack(t *testing.T) {
	s := storetest.Open(t)
	world := sampleWorld(t, s, "counted-world")
	b := open(t, s, "counted-import")
	// The streams are there already, with somebody of its own at each.
	if _, err := s.SQL.Exec("INSERT INTO streams (channel, number, opened, closed) SELECT $1, number, opened, closed FROM streams WHERE channel = $2", b.channel, world.channel); err != nil {
		t.Fatal(err)
	}
	for n := 1; n <= 60; n++ {
		b.happens(line("own", "of_its_own", opened(1), n))
	}
	if _, err := s.SQL.Exec("UPDATE channels SET people = 100 WHERE id = $1", b.channel); err != nil { // numbers that are given
		t.Fatal(err)
	}
	people := func() (n int) {
		all, err := s.Find.Turnouts(t.Context(), b.channel, []int{58, 59, 60})
		if err != nil {
			t.Fatal(err)
		}
		for _, turnout := range all {
			n += turnout.People
		}
		return n
	}
	b.countedRight("each has one")
	if n := people(); n != 3 {
		t.Fatalf("%d people at three streams", n)
	}
	im, _ := b.stage("jsonl", world.export("jsonl"))
	if _, err := s.Imports.Apply(t.Context(), b.channel, im.ID, &b.k); err != nil {
		t.Fatal(err)
	}
	if n := people(); n < 30 {
		t.Errorf("%d people at three streams after many were brought in", n)
	}
	b.countedRight("a people file was brought in")
	if _, err := s.Imports.TakeBack(t.Context(), b.channel, im.ID, &b.k); err != nil {
		t.Fatal(err)
	}
	b.countedRight("it was taken back")
	if n := people(); n != 3 {
		t.Errorf("%d people at three streams after it was taken back", n)
	}
}
