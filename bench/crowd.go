package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"runtime"
	"strings"
	"testing/fstest"
	"time"

	"github.com/jackc/pgx/v5"

	"vividporch/api"
	"vividporch/formats"
	"vividporch/porch"
	"vividporch/store"
	"vividporch/store/find"
	"vividporch/store/imports"
	"vividporch/store/tables"
)

const (
	crowdPeople = 1_000_000
	crowdVisits = 10 // a person
	crowdStream = 500
	searches    = 400
	importRows  = 100_000
)

// Words that the crowd's names are put together from.
var (
	crowdA = []string{"kelp", "tide", "moss", "heron", "lamp", "reed", "brine", "shore", "marsh", "dusk", "fern", "wrack", "gull", "otter", "pebble", "sedge"}
	crowdB = []string{"wright", "watch", "wing", "light", "bank", "song", "pool", "stone", "drift", "field", "hollow", "thorn", "brook", "keeper", "walker", "mare"}
	crowdC = []string{"", "_of_the", "_and_", ".", "_", "ly", "er", "ish"}
)

// bookSpeed loads a guest book of a million people and measures what a hand does
// with it.
func bookSpeed() ([]figure, error) {
	ctx := context.Background()
	h, st, _, stop, err := running("bench-book")
	if err != nil {
		return nil, err
	}
	defer stop()
	begun := time.Now()
	if err := loadCrowd(ctx, st, h.ID); err != nil {
		return nil, err
	}
	fmt.Fprintf(os.Stderr, "a book of %d people and %d visits, made in %s\n", crowdPeople, crowdPeople*crowdVisits, time.Since(begun).Round(time.Second))
	ask, done, err := edge(ctx, h, st)
	if err != nil {
		return nil, err
	}
	defer done()
	searching, err := searchFigures(ctx, h, st, ask)
	if err != nil {
		return nil, err
	}
	var sheets []time.Duration
	r := rand.New(rand.NewPCG(3, 4))
	for range 200 {
		t := time.Now()
		if err := ask("GET", fmt.Sprintf("/api/book/people/%d", 1+r.IntN(crowdPeople))); err != nil {
			return nil, err
		}
		sheets = append(sheets, time.Since(t))
	}
	back, err := lookBackFigures(ctx, h, st, ask)
	if err != nil {
		return nil, err
	}
	bringing, err := importFigures(ctx, h, st)
	if err != nil {
		return nil, err
	}
	searching = append(searching, back...)
	return append(append(searching, figure{what: "a person's sheet over HTTP: p95", got: at(sheets, 0.95), aim: 30, unit: "ms"}), bringing...), nil
}

// loadCrowd fills the book with SQL: rows as refresh would have made them.
func loadCrowd(ctx context.Context, st *store.Store, channel int64) error {
	conn, err := st.SQL.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	list := func(words []string) string { return "ARRAY['" + strings.Join(words, "','") + "']" }
	login := fmt.Sprintf(`((%s)[1 + g %% 16] || (%s)[1 + (g / 16) %% 8] || (%s)[1 + (g / 128) %% 16] || (%s)[1 + (g / 2048) %% 16] || CASE WHEN g / 32768 = 0 THEN '' ELSE (g / 32768)::text END)`,
		list(crowdA), list(crowdC), list(crowdA), list(crowdB))
	// The v-th visit of the g-th person is to a stream of its own; streams are two days apart, the last one was on the first of November.
	fill := strings.NewReplacer("@channel", fmt.Sprint(channel), "@people", fmt.Sprint(crowdPeople), "@visits", fmt.Sprint(crowdVisits), "@streams", fmt.Sprint(crowdStream), "@login", login,
		"@came", fmt.Sprintf("(1 + (g * 31 + v * 19) %% %d)", crowdStream), "@opened", fmt.Sprintf("timestamptz '2026-11-01' - %d * interval '2 days' + interval '2 days' *", crowdStream))
	for _, q := range []string{
		"SET maintenance_work_mem = '512MB'", "SET synchronous_commit = off",
		// Indexes are made afterwards, which is quicker; opening the store makes those that lack.
		"DO $$ DECLARE i text; BEGIN FOR i IN SELECT indexname FROM pg_indexes WHERE tablename IN ('people', 'accounts', 'finds', 'find_words') AND indexname !~ 'pkey' AND indexname NOT IN ('accounts_person', 'find_words_person') LOOP EXECUTE 'DROP INDEX ' || i; END LOOP; END $$",
		"ALTER TABLE visits DROP CONSTRAINT visits_pkey", "DROP INDEX visits_stream",
		`INSERT INTO streams (channel, number, opened, closed) SELECT @channel, g, @opened g, @opened g + interval '3 hours' FROM generate_series(1, @streams) g ON CONFLICT DO NOTHING`,
		`INSERT INTO people (channel, id, root, created, listed, name, sort_name, standing, first_seen, last_seen, attended, mask_at, mask_bits, first_stream, second_stream, followed, platforms, support)
			SELECT @channel, g, g, now(), true, @login, @login, CASE WHEN last < now() - interval '30 days' THEN 'long away' ELSE 'returning' END, first, last, @visits, s[@visits],
				(SELECT bit_or(1::bigint << s[@visits] - t) FROM unnest(s) t WHERE s[@visits] - t < 63), s[1], s[2],
				CASE WHEN g % 2 = 0 THEN last - interval '100 days' END, ARRAY['quayside'], CASE WHEN g % 11 = 0 THEN 1 + g % 40 ELSE 0 END
			FROM generate_series(1, @people) g, LATERAL (SELECT array_agg(@came ORDER BY @came) AS s FROM generate_series(1, @visits) v) x,
				LATERAL (SELECT @opened s[1] + g % 10000 * interval '1 second' AS first, @opened s[@visits] + g % 10000 * interval '1 second' AS last) y`,
		`INSERT INTO accounts (channel, key, person, home, platform, id, login, name, told, first_seen, last_seen, lines)
			SELECT p.channel, 'quayside:c' || g, g, g, 'quayside', 'c' || g, p.name, p.name, now(), p.first_seen, p.last_seen, g % 500 FROM people p, LATERAL (SELECT p.id AS g) x WHERE p.channel = @channel AND p.id <= @people`,
		`INSERT INTO tallies (channel, person, lines) SELECT @channel, g, g % 500 FROM generate_series(1, @people) g`,
		`INSERT INTO account_logins (channel, key, login, name, first, last) SELECT @channel, 'quayside:c' || g, @login, '', now(), now() FROM generate_series(1, @people) g`,
		`INSERT INTO visits (channel, key, stream, lines, first, last)
			SELECT @channel, 'quayside:c' || g, @came, 3, @opened @came + g % 10000 * interval '1 second', @opened @came + interval '3 hours' FROM generate_series(1, @people) g, generate_series(1, @visits) v`,
		`INSERT INTO finds (channel, person, text) SELECT @channel, g, @login FROM generate_series(1, @people) g`,
		`INSERT INTO find_words (channel, word, person) SELECT DISTINCT @channel, w, person FROM finds, regexp_split_to_table(text, '[^a-z0-9]+') AS w WHERE channel = @channel AND w <> ''`,
		"ALTER TABLE visits ADD PRIMARY KEY (channel, key, stream)", "CREATE INDEX visits_stream ON visits (channel, stream)",
		"UPDATE channels SET people = @people + 1000 WHERE id = @channel",
		"DELETE FROM tables_shape", // so that it looks for what lacks
		"open the store",
		"VACUUM ANALYZE find_words", "VACUUM ANALYZE people", "VACUUM ANALYZE accounts", "VACUUM ANALYZE account_logins", "VACUUM ANALYZE visits", "VACUUM ANALYZE finds",
	} {
		if q == "open the store" {
			again, err := store.Open(ctx, os.Getenv("PORCH_DATABASE"))
			if err != nil {
				return err
			}
			again.Close()
			continue
		}
		if _, err := conn.ExecContext(ctx, fill.Replace(q)); err != nil {
			return fmt.Errorf("%.80s: %w", q, err)
		}
	}
	return nil
}

// edge serves the house over HTTP and signs somebody in.
func edge(ctx context.Context, h *porch.House, st *store.Store) (ask func(method, path string) error, done func(), err error) {
	srv := httptest.NewServer(api.New(api.Config{House: h, Store: st, UI: fstest.MapFS{"index.html": {Data: []byte("porch")}}}))
	m, err := st.Members.Owner(ctx, h.ID, "owner")
	if err != nil {
		return nil, nil, err
	}
	sum := sha256.Sum256([]byte("bench"))
	if err := st.Members.AddSignIn(ctx, tables.SignIn{Hash: hex.EncodeToString(sum[:]), Member: m.ID, Expires: time.Now().Add(time.Hour)}); err != nil {
		return nil, nil, err
	}
	jar, _ := cookiejar.New(nil)
	client := &http.Client{Jar: jar}
	ask = func(method, path string) error {
		req, err := http.NewRequest(method, srv.URL+path, nil)
		if err != nil {
			return err
		}
		res, err := client.Do(req)
		if err != nil {
			return err
		}
		defer res.Body.Close()
		if body, err := io.ReadAll(res.Body); err != nil || res.StatusCode != http.StatusOK {
			return fmt.Errorf("%s answered %d: %.300s (%v)", path, res.StatusCode, body, err)
		}
		return nil
	}
	return ask, srv.Close, ask("POST", "/enter/bench")
}

// searchFigures types names as a hand does, letter by letter and with slips, and
// runs the same SQL bare.
func searchFigures(ctx context.Context, h *porch.House, st *store.Store, ask func(string, string) error) ([]figure, error) {
	r := rand.New(rand.NewPCG(1, 2))
	var texts []string
	for len(texts) < searches {
		name := crowdA[r.IntN(16)] + crowdC[r.IntN(8)] + crowdA[r.IntN(16)] + crowdB[r.IntN(16)]
		if len(texts)%4 == 3 { // a slip: two letters change places
			i := 1 + r.IntN(3)
			name = name[:i] + name[i+1:i+2] + name[i:i+1] + name[i+2:]
		}
		texts = append(texts, name[:min(len(name), 1+len(texts)%10)])
	}
	once := func(text string) error { return ask("GET", "/api/book/people?limit=100&text="+url.QueryEscape(text)) }
	for _, t := range texts[:40] {
		if err := once(t); err != nil {
			return nil, err
		}
	}
	var over, bare, pages, sorted []time.Duration
	for _, text := range texts {
		t := time.Now()
		if err := once(text); err != nil {
			return nil, err
		}
		over = append(over, time.Since(t))
		t = time.Now()
		if _, err := st.Find.People(ctx, h.ID, find.Query{Filter: find.Filter{Text: text}, Limit: 100}); err != nil {
			return nil, err
		}
		bare = append(bare, time.Since(t))
	}
	for _, sort := range []find.Sort{find.ByName, find.BySeen, find.ByAttended, find.ByFollow, find.ByLines, find.BySupport} {
		next := ""
		for range 20 {
			t := time.Now()
			page, err := st.Find.People(ctx, h.ID, find.Query{Sort: sort, After: next, Limit: 100})
			if err != nil {
				return nil, err
			}
			pages = append(pages, time.Since(t))
			next = page.Next
		}
	}
	for i, text := range texts[:120] {
		t := time.Now()
		if err := ask("GET", "/api/book/people?limit=100&sort="+[]string{"lines", "support", "attended"}[i%3]+"&text="+url.QueryEscape(text)); err != nil {
			return nil, err
		}
		sorted = append(sorted, time.Since(t))
	}
	p95, sql := at(over, 0.95), at(bare, 0.95)
	return []figure{
		{what: "search as typed, a million people, over HTTP: p50", got: at(over, 0.5), unit: "ms"},
		{what: "search as typed, a million people, over HTTP: p95", got: p95, aim: 50, unit: "ms"},
		{what: "the same beside the query alone: p95", got: p95, aim: sql + 5, unit: "ms", alongside: "the query's p95 + 5 ms"},
		{what: "a search sorted by lines, support or visits, over HTTP: p95", got: at(sorted, 0.95), aim: 100, unit: "ms"},
		{what: "a page of the list in any order: p95", got: at(pages, 0.95), aim: 50, unit: "ms"},
	}, nil
}

// importFigures takes a hundred thousand rows in, beside COPY of the same rows into
// the same tables.
func importFigures(ctx context.Context, h *porch.House, st *store.Store) ([]figure, error) {
	var file bytes.Buffer
	file.WriteString("login,platform,note,tags,follows since\n")
	for i := range importRows {
		fmt.Fprintf(&file, "brought_in_%d,fernlight,a note about %d,tea,2030-05-%02d\n", i, i, 1+i%28)
	}
	var before, peak runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	stopped := make(chan bool)
	go func() { // the highest the heap was seen
		var m runtime.MemStats
		for {
			select {
			case <-stopped:
				return
			case <-time.After(20 * time.Millisecond):
				if runtime.ReadMemStats(&m); m.HeapInuse > peak.HeapInuse {
					peak = m
				}
			}
		}
	}()
	begun := time.Now()
	im, _, err := h.Desk.ReadFile(ctx, "bench", "crowd.csv", "csv", &file, formats.Options{})
	if err != nil {
		return nil, err
	}
	preview := time.Since(begun)
	begun = time.Now()
	if _, err := h.Desk.TakeIn(ctx, im.ID, false); err != nil {
		return nil, err
	}
	took := time.Since(begun)
	close(stopped)
	var n imports.Counts
	if err := json.Unmarshal(im.Counts, &n); err != nil || n.New != importRows {
		return nil, fmt.Errorf("%+v came in: %w", n, err)
	}
	copied, err := copyRows(ctx, h.ID)
	if err != nil {
		return nil, err
	}
	return []figure{
		{what: "preview of 100,000 CSV rows", got: preview.Seconds(), unit: "s"},
		{what: "COPY of the same rows into the same tables", got: copied.Seconds(), unit: "s"},
		{what: "taking them in, after the preview", got: took.Seconds(), aim: 10 * copied.Seconds(), unit: "s", alongside: "10 × COPY"},
		{what: "most memory above the start while doing so", got: float64(peak.HeapInuse-min(peak.HeapInuse, before.HeapInuse)) / (1 << 20), aim: 100, unit: "MB"},
	}, nil
}

// copyRows writes the rows that the import made once more, under another channel,
// with COPY, in one transaction.
func copyRows(ctx context.Context, channel int64) (time.Duration, error) {
	conn, err := pgx.Connect(ctx, os.Getenv("PORCH_DATABASE"))
	if err != nil {
		return 0, err
	}
	defer conn.Close(ctx)
	const brought = " WHERE channel = $1 AND import > 0"
	tables := map[string]string{"people": brought, "accounts": brought, "account_logins": brought, "finds": " WHERE channel = $1 AND person IN (SELECT id FROM people WHERE channel = $1 AND import > 0)",
		"find_words": " WHERE channel = $1 AND person IN (SELECT id FROM people WHERE channel = $1 AND import > 0)"}
	rows := map[string][][]any{}
	cols := map[string][]string{}
	for table, where := range tables {
		rs, err := conn.Query(ctx, "SELECT * FROM "+table+where, channel)
		if err != nil {
			return 0, err
		}
		for _, f := range rs.FieldDescriptions() {
			cols[table] = append(cols[table], f.Name)
		}
		for rs.Next() {
			v, err := rs.Values()
			if err != nil {
				return 0, err
			}
			for i, c := range cols[table] {
				if c == "channel" {
					v[i] = channel + 1_000_000
				}
			}
			rows[table] = append(rows[table], v)
		}
		if rs.Err() != nil {
			return 0, rs.Err()
		}
	}
	begun := time.Now()
	tx, err := conn.Begin(ctx)
	if err != nil {
		return 0, err
	}
	defer tx.Rollback(ctx)
	for table := range tables {
		if len(rows[table]) < importRows {
			return 0, fmt.Errorf("%d rows in %s", len(rows[table]), table)
		}
		if _, err := tx.CopyFrom(ctx, pgx.Identifier{table}, cols[table], pgx.CopyFromRows(rows[table])); err != nil {
			return 0, err
		}
	}
	return time.Since(begun), tx.Commit(ctx)
}
