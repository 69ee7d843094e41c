package main

import (
	"context"
	"fmt"
	"os"
	"slices"
	"time"

	"vividporch/core/points"
	"vividporch/store"
	"vividporch/store/record"
)

// A ledger of a million entries, of a hundred thousand people.
const (
	ledgerEntries = 1_000_000
	ledgerPeople  = 100_000
	ledgerLooks   = 400
)

// ledgerSpeed is how long it takes to tell what somebody has, and who leads, beside the statements alone.
func ledgerSpeed() ([]figure, error) {
	ctx := context.Background()
	st, err := store.Open(ctx, os.Getenv("PORCH_DATABASE"))
	if err != nil {
		return nil, err
	}
	defer st.Close()
	id, err := st.Channel(ctx, fmt.Sprint("ledger-", time.Now().UnixNano()))
	if err != nil {
		return nil, err
	}
	began := time.Now()
	for _, q := range []string{
		`INSERT INTO people (channel, id, root, name, sort_name, listed, created) SELECT $1, n, n, 'limpet' || n, 'limpet' || n, true, now() FROM generate_series(1, 100000) n`,
		`INSERT INTO ledger (channel, seq, n, key, amount, why, of, at) SELECT $1, n, 0, 'quayside:' || (1 + n % 100000), 1 + n % 97, 'here', '', now() FROM generate_series(1, 1000000) n`,
		`INSERT INTO accounts (channel, key, person, home, platform, id, login, name, first_seen, last_seen, kept)
			SELECT $1, l.key, split_part(l.key, ':', 2)::bigint, split_part(l.key, ':', 2)::bigint, 'quayside', split_part(l.key, ':', 2), 'limpet', 'limpet', now(), now(),
			json_build_object('points', json_build_object('all', json_build_object('0', json_build_object('has', l.sum, 'gathered', l.sum)), 'season', json_build_object('0', json_build_object('gathered', l.sum))))
			FROM (SELECT key, sum(amount) AS sum FROM ledger WHERE channel = $1 GROUP BY key) l`,
	} {
		if _, err := st.SQL.ExecContext(ctx, q, id); err != nil {
			return nil, err
		}
	}
	made := time.Since(began)
	began = time.Now()
	if err := record.AllRanks(ctx, st.SQL, id, points.Counting{All: []int{0}, Season: []int{0}}); err != nil {
		return nil, err
	}
	all := time.Since(began)
	if _, err := st.SQL.ExecContext(ctx, "ANALYZE ledger, accounts, ranks, people"); err != nil {
		return nil, err
	}
	took := func(f func(n int) error) (float64, error) {
		var ds []time.Duration
		for n := range ledgerLooks {
			at := time.Now()
			if err := f(n); err != nil {
				return 0, err
			}
			ds = append(ds, time.Since(at))
		}
		slices.Sort(ds)
		return float64(ds[len(ds)/2]) / float64(time.Millisecond), nil
	}
	var wrong int
	purse, err := took(func(n int) error {
		r, err := st.Find.Purse(ctx, id, int64(1+n*7%ledgerPeople))
		if r.Has == 0 {
			wrong++
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	bare, err := took(func(n int) error {
		var has int64
		return st.SQL.QueryRowContext(ctx, `SELECT has FROM ranks WHERE channel = $1 AND person = $2`, id, int64(1+n*7%ledgerPeople)).Scan(&has)
	})
	if err != nil {
		return nil, err
	}
	ranks, err := took(func(int) error {
		list, err := st.Find.Ranks(ctx, id, false, 50)
		if len(list) != 50 {
			wrong++
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	bareRanks, err := took(func(int) error {
		rows, err := st.SQL.QueryContext(ctx, `SELECT person, gathered FROM ranks WHERE channel = $1 AND NOT hidden ORDER BY gathered DESC, person LIMIT 50`, id)
		if err != nil {
			return err
		}
		for rows.Next() {
		}
		return rows.Close()
	})
	if err != nil {
		return nil, err
	}
	lines, err := took(func(n int) error {
		_, err := st.Find.PointsOf(ctx, id, int64(1+n*7%ledgerPeople), 0, 60)
		return err
	})
	if err != nil {
		return nil, err
	}
	if wrong > 0 {
		return nil, fmt.Errorf("%d looks at a ledger of %d entries tell nothing", wrong, ledgerEntries)
	}
	return []figure{
		{what: fmt.Sprintf("what somebody has, of %d entries: median", ledgerEntries), got: purse, aim: 1, unit: "ms", alongside: fmt.Sprintf("%.1f of the bare statement", purse/bare)},
		{what: "the list of ranks, fifty of a hundred thousand: median", got: ranks, aim: 20, unit: "ms", alongside: fmt.Sprintf("%.1f of the bare statement", ranks/bareRanks)},
		{what: "the last sixty entries of somebody: median", got: lines, aim: 20, unit: "ms"},
		{what: "everybody's sums worked out anew, after a reset", got: all.Seconds(), aim: 30, unit: "s", alongside: fmt.Sprintf("made in %.0f s", made.Seconds())},
	}, nil
}
