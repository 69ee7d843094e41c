package main

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"sync/atomic"
	"time"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/store"
	"vividporch/store/jobs"
	"vividporch/voices/relay"
)

const (
	relayPlaces = 20
	relayPosts  = 4000
	relayBatch  = 20 // posts in one commit: one happening goes to every place
	relayMost   = 2 * time.Minute
)

// relaySpeed is how many posts a second arrive at twenty places, beside a loop that commits a row and posts, one after
// the other.
func relaySpeed() ([]figure, error) {
	ctx := context.Background()
	st, err := store.Open(ctx, os.Getenv("PORCH_DATABASE"))
	if err != nil {
		return nil, err
	}
	defer st.Close()
	channel, err := st.Channel(ctx, "bench-relays")
	if err != nil {
		return nil, err
	}
	var took atomic.Int64
	place := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		io.Copy(io.Discard, r.Body)
		took.Add(1)
	}))
	defer place.Close()
	client := place.Client()
	client.Transport.(*http.Transport).MaxIdleConnsPerHost = relayPlaces

	loop, err := commitAndPost(ctx, st.SQL, client, place.URL)
	if err != nil {
		return nil, err
	}
	took.Store(0)
	r, err := relay.New(relay.Config{HTTP: client, Channel: channel, Store: st, Log: slog.New(slog.DiscardHandler), Outcome: func(event.Data) {},
		Place: func(name string) *housefile.Place { return &housefile.Place{Name: name, URL: place.URL} }})
	if err != nil {
		return nil, err
	}
	if err := r.Start(ctx); err != nil {
		return nil, err
	}
	defer r.Stop(ctx)
	start := time.Now()
	for i := 0; i < relayPosts; i += relayBatch {
		var list []jobs.Delivery
		for j := range relayBatch {
			list = append(list, jobs.Delivery{Channel: channel, Place: fmt.Sprint("place-", j%relayPlaces), Line: fmt.Sprint("line-", i), Seq: int64(i), Text: "kelpwright came with 37 viewers",
				Body: json.RawMessage(`{"text":"kelpwright came with 37 viewers"}`), Made: time.Now()})
		}
		tx, err := st.SQL.BeginTx(ctx, nil)
		if err != nil {
			return nil, err
		}
		if err := r.Add(ctx, tx, list); err != nil {
			return nil, err
		}
		if err := tx.Commit(); err != nil {
			return nil, err
		}
	}
	for took.Load() < relayPosts {
		if time.Since(start) > relayMost {
			return nil, fmt.Errorf("%d of %d posts arrived within %s", took.Load(), relayPosts, relayMost)
		}
		time.Sleep(5 * time.Millisecond)
	}
	relays := relayPosts / time.Since(start).Seconds()
	return []figure{
		{what: "a loop of commit and POST, one after the other", got: loop, unit: "/s"},
		{what: fmt.Sprintf("relays a second over %d places, written, posted and noted", relayPlaces), got: relays, aim: 0.5 * loop, unit: "/s", least: true, alongside: fmt.Sprintf("%.2f of the loop", relays/loop)},
	}, nil
}

// commitAndPost is how often a second a row is committed and posted.
func commitAndPost(ctx context.Context, db *sql.DB, client *http.Client, url string) (float64, error) {
	if _, err := db.ExecContext(ctx, "DROP TABLE IF EXISTS posted; CREATE TABLE posted (id bigserial PRIMARY KEY, body json NOT NULL)"); err != nil {
		return 0, err
	}
	body := []byte(`{"text":"kelpwright came with 37 viewers"}`)
	const n = relayPosts / 4
	start := time.Now()
	for range n {
		if _, err := db.ExecContext(ctx, "INSERT INTO posted (body) VALUES ($1)", string(body)); err != nil {
			return 0, err
		}
		res, err := client.Post(url, "application/json", bytes.NewReader(body))
		if err != nil {
			return 0, err
		}
		res.Body.Close()
	}
	return n / time.Since(start).Seconds(), nil
}
