package book

import (
	"cmp"
	"encoding/json"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/store/log"
	"vividporch/store/record"
	"vividporch/store/tables"
)

// touch is what a batch changes about one account.
type touch struct {
	p           *event.Person // as it was named last; nil when nobody named it
	told        time.Time
	roles       string
	first, last time.Time
	lines       int64
	followed    *time.Time
	logins      map[[2]string]*touch // login and name → between which moments
	settled     bool                 // nothing is new but a further line
}

func (t *touch) note(at time.Time) {
	if t.first.IsZero() || at.Before(t.first) {
		t.first = at
	}
	if at.After(t.last) {
		t.last = at
	}
}

// name notes under which name an account was seen. The latest word holds,
// whatever order words come in; of two at one moment the greater one does.
func (t *touch) name(p *event.Person, at time.Time) {
	if p.Login == "" && p.Name == "" {
		return
	}
	k := [2]string{p.Login, p.Shown()}
	if t.logins[k] == nil {
		t.logins[k] = &touch{}
	}
	t.logins[k].note(at)
	roles := record.RolesText(p.Roles)
	if t.p == nil || cmp.Or(at.Compare(t.told), strings.Compare(p.Login, t.p.Login), strings.Compare(p.Shown(), t.p.Shown()), strings.Compare(roles, t.roles)) > 0 {
		t.p, t.told, t.roles = p, at, roles
	}
}

// known notes somebody of whom the house itself says something. It knows their name from the book, so
// that theirs stands there already; only an account that is new is called so.
func (t *touch) known(p *event.Person) {
	if t.p == nil {
		t.p, t.roles = p, record.RolesText(p.Roles)
	}
}

type visitKey struct {
	key    string
	stream int
}

// gathered is what a batch changes about people.
type gathered struct {
	touched  map[string]*touch
	visits   map[visitKey]*touch
	raids    []tables.Raid
	supports []tables.Support
	thanked  []int64  // numbers of raids that were thanked
	waived   []string // accounts whose raids a member thanked or let pass
	spoken   []tables.Spoken
	fetched  map[string]*event.LookupAnswered
	fetchAt  map[string]time.Time
	kept     people.Kept
	ledger   []tables.Ledger
	reset    bool // of points: everybody's sums are others
}

func (w writer) people(b *log.Batch) error {
	g := gathered{touched: map[string]*touch{}, visits: map[visitKey]*touch{}, fetched: map[string]*event.LookupAnswered{}, fetchAt: map[string]time.Time{}}
	for i := range b.Entries {
		g.entry(&b.Entries[i], b)
		for j := range b.Entries[i].Decisions {
			g.decision(&b.Entries[i].Event, &b.Entries[i].Decisions[j], j)
		}
	}
	further, other := map[string]*touch{}, map[string]*touch{}
	for k, t := range g.touched {
		if t.settled {
			further[k] = t
		} else {
			other[k] = t
		}
	}
	for _, step := range []func() error{
		func() error { return w.further(further) },
		func() error { return w.accounts(other, b.Fresh, b.Claims) },
		func() error { return w.visits(g.visits) },
		func() error { return w.raids(g.raids, g.thanked, g.waived) },
		func() error { return w.given(g.supports) },
		func() error { return w.spoken(g.spoken) },
		func() error { return w.fetched(g.fetched, g.fetchAt) },
		func() error { return w.kept(g.kept) },
		func() error { return w.ledger(&g, b) },
	} {
		if err := step(); err != nil {
			return err
		}
	}
	// Raids that are told late may turn out to be what newcomers came with.
	keys := slices.Collect(maps.Keys(other))
	keys = slices.AppendSeq(keys, maps.Keys(g.fetched))
	keys = append(keys, g.waived...)
	for _, u := range g.supports {
		keys = append(keys, u.Key)
	}
	persons, err := w.cameWith(g.raids)
	if err != nil {
		return err
	}
	if len(g.thanked) > 0 {
		for _, r := range g.raids {
			keys = append(keys, r.Key)
		}
		more, err := w.raiders(g.thanked)
		if err != nil {
			return err
		}
		persons = append(persons, more...)
	}
	return record.Refresh(w.Ctx, w.SQL, w.Channel, &b.Reckoning, persons, keys)
}

// entry gathers what an event says about people by itself.
func (g *gathered) entry(en *log.Entry, b *log.Batch) {
	e := &en.Event
	switch d := e.Data.(type) {
	case *event.LookupAnswered:
		if d.Account != "" && d.Failed == "" {
			g.fetched[d.Account], g.fetchAt[d.Account] = d, e.Logged
		}
	case *event.DeskAsked:
		if d.Act == "thank" && slices.ContainsFunc(en.Decisions, func(x hall.Decision) bool { return x.Kind != hall.Refuse }) {
			g.waived = append(g.waived, d.Person.Key())
		}
	case *event.WaitingDone:
		if kind, rest, ok := strings.Cut(d.Item, "/"); ok && (kind == "raid" || kind == "late") {
			if _, key, ok := strings.Cut(rest, "/"); ok {
				g.waived = append(g.waived, key)
			}
		}
	}
	who := e.Who()
	if who == nil || event.IsOwn(e.Type) {
		return
	}
	key := who.Key()
	t := g.touched[key]
	if t == nil {
		t = &touch{logins: map[[2]string]*touch{}, settled: true}
		g.touched[key] = t
	}
	t.note(e.Time)
	if e.Door == "house" {
		t.known(who)
	} else {
		t.name(who, e.Time)
	}
	t.settled = t.settled && !b.Unsettled[key]
	book := happening.OfData(e.Data).Book
	if book.Line {
		t.lines++
	}
	if book.Raid != "" {
		t.settled = false
		g.raids = append(g.raids, tables.Raid{Seq: e.Seq, Key: key, Stream: en.Stream, Way: book.Raid, Viewers: book.Viewers(e.Data), At: e.Time, Thanked: book.Raid == "went"})
	}
	if book.Follow {
		at := e.Time
		t.settled = false
		if t.followed == nil || at.Before(*t.followed) {
			t.followed = &at
		}
	}
	if book.Was != nil {
		t.settled = false
		if login := book.Was(e.Data); login != "" && login != who.Login {
			was := &touch{}
			was.note(e.Time)
			t.logins[[2]string{login, login}] = was
		}
	}
	if book.Support != nil {
		u := book.Support(e.Data)
		g.supports = append(g.supports, tables.Support{Seq: e.Seq, Key: key, Stream: en.Stream, Kind: u.Kind, Amount: cmp.Or(u.Amount, "0"), Currency: u.Currency, Count: u.Count, What: u.What, At: e.Time})
	}
	if en.Stream == 0 || !book.Visit { // presence and the like is no visit
		return
	}
	k := visitKey{key, en.Stream}
	v := g.visits[k]
	if v == nil {
		v = &touch{}
		g.visits[k] = v
	}
	v.note(e.Time)
	if book.Line {
		v.lines++
	}
}

// decision gathers what the house said to or about people.
func (g *gathered) decision(e *event.Event, d *hall.Decision, n int) {
	g.points(e, d, n)
	d.EachKept(func(account string, value json.RawMessage) { g.kept.Keep(account, d.Room, value) })
	if d.Kind == hall.Refuse && d.Output == "thanks" && d.Passed {
		g.thanked = append(g.thanked, e.Seq)
	}
	if d.Kind != hall.Say {
		return
	}
	if d.Event > 0 {
		g.thanked = append(g.thanked, d.Event)
	}
	say := func(key string) {
		if key != "" && d.Courtesy != "privacy" {
			g.spoken = append(g.spoken, tables.Spoken{Key: key, Seq: e.Seq, Line: d.Line + "@" + d.Platform, Courtesy: d.Courtesy, Text: d.Text, At: e.Logged})
		}
	}
	say(d.Person)
	for _, j := range d.Joined {
		say(j.Person)
	}
}

// further counts lines of accounts about which nothing else is new: nearly all
// there are.
func (w writer) further(touched map[string]*touch) error {
	if len(touched) == 0 {
		return nil
	}
	keys := slices.Sorted(maps.Keys(touched))
	last, lines := make([]time.Time, len(keys)), make([]int64, len(keys))
	for i, k := range keys {
		last[i], lines[i] = touched[k].last, touched[k].lines
	}
	// The channel comes out of u, not from $1: told that every row is one channel's, of which it
	// may know nothing yet, the planner would read all of the channel's once a row.
	return w.Exec(`WITH u AS MATERIALIZED (SELECT $1::bigint AS channel, * FROM unnest($2::text[], $3::timestamptz[], $4::bigint[]) AS u(key, last, lines)),
			a AS (UPDATE accounts a SET last_seen = greatest(a.last_seen, u.last), told = greatest(a.told, u.last), lines = a.lines + u.lines FROM u WHERE a.channel = u.channel AND a.key = u.key RETURNING a.channel, a.person, u.lines)
		INSERT INTO tallies (channel, person, lines) SELECT channel, person, sum(lines) FROM a GROUP BY channel, person HAVING sum(lines) > 0 ORDER BY person
			ON CONFLICT (channel, person) DO UPDATE SET lines = tallies.lines + excluded.lines`, w.Channel, keys, last, lines)
}

func (w writer) accounts(touched map[string]*touch, fresh map[string]int64, claims map[string]string) error {
	if len(touched) == 0 {
		return nil
	}
	keys := slices.Sorted(maps.Keys(touched)) // one order for everybody keeps row locks from crossing
	n := len(keys)
	persons, lines := make([]int64, n), make([]int64, n)
	platforms, ids, logins, names, roles, nicks := make([]string, n), make([]string, n), make([]string, n), make([]string, n), make([]string, n), make([]bool, n)
	first, last, told, followed := make([]time.Time, n), make([]time.Time, n), make([]time.Time, n), make([]*time.Time, n)
	var newPersons []int64
	var nKeys, nLogins, nNames []string
	var nFirst, nLast []time.Time
	for i, k := range keys {
		t := touched[k]
		persons[i], lines[i] = fresh[k], t.lines
		platforms[i], ids[i], _ = strings.Cut(k, ":") // see event.Person.Key
		if t.p != nil {
			logins[i], names[i], roles[i], told[i], nicks[i] = t.p.Login, t.p.Shown(), t.roles, t.told, t.p.Nick
		}
		first[i], last[i], followed[i] = t.first, t.last, t.followed
		if id, ok := fresh[k]; ok && claims[k] == "" {
			newPersons = append(newPersons, id)
		}
		for l, at := range t.logins {
			nKeys, nLogins, nNames, nFirst, nLast = append(nKeys, k), append(nLogins, l[0]), append(nNames, l[1]), append(nFirst, at.first), append(nLast, at.last)
		}
	}
	if len(newPersons) > 0 {
		if err := w.Exec(`INSERT INTO people (channel, id, root, created) SELECT $1, p, p, now() FROM unnest($2::bigint[]) AS p ON CONFLICT DO NOTHING`, w.Channel, newPersons); err != nil {
			return err
		}
	}
	if len(nKeys) > 0 {
		if err := w.Exec(`INSERT INTO account_logins (channel, key, login, name, first, last)
			SELECT $1, * FROM unnest($2::text[], $3::text[], $4::text[], $5::timestamptz[], $6::timestamptz[]) ORDER BY 2, 3, 4
			ON CONFLICT (channel, key, login, name) DO UPDATE SET first = least(account_logins.first, excluded.first), last = greatest(account_logins.last, excluded.last)`,
			w.Channel, nKeys, nLogins, nNames, nFirst, nLast); err != nil {
			return err
		}
	}
	const later = "(excluded.told, excluded.login, excluded.name, excluded.roles) >= (accounts.told, accounts.login, accounts.name, accounts.roles)"
	if err := w.Exec(`INSERT INTO accounts (channel, key, person, home, platform, id, login, name, roles, told, first_seen, last_seen, lines, followed, nick)
		SELECT $1, u.key, coalesce(h.person, u.person), coalesce(h.home, u.person), u.platform, u.id, u.login, u.name, u.roles, u.told, u.first, u.last, u.lines, u.followed, u.nick
		FROM unnest($2::text[], $3::bigint[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::timestamptz[], $10::timestamptz[], $11::timestamptz[], $12::bigint[], $13::timestamptz[], $14::text[], $15::bool[])
			AS u(key, person, platform, id, login, name, roles, told, first, last, lines, followed, claims, nick)
		LEFT JOIN accounts h ON h.channel = $1 AND h.key = u.claims AND u.claims <> ''
		ON CONFLICT (channel, key) DO UPDATE SET
			login = CASE WHEN `+later+` THEN excluded.login ELSE accounts.login END, name = CASE WHEN `+later+` THEN excluded.name ELSE accounts.name END,
			roles = CASE WHEN `+later+` THEN excluded.roles ELSE accounts.roles END, told = greatest(accounts.told, excluded.told),
			nick = CASE WHEN excluded.login <> '' AND `+later+` THEN excluded.nick ELSE accounts.nick END,
			first_seen = least(accounts.first_seen, excluded.first_seen), last_seen = greatest(accounts.last_seen, excluded.last_seen),
			lines = accounts.lines + excluded.lines, followed = least(accounts.followed, excluded.followed)`,
		w.Channel, keys, persons, platforms, ids, logins, names, roles, told, first, last, lines, followed, claimsOf(keys, claims), nicks); err != nil {
		return err
	}
	if len(claims) == 0 {
		return nil
	}
	// An account that was known by its login only has turned out to be this one.
	ks := slices.Sorted(maps.Keys(claims))
	return w.Exec(`UPDATE accounts a SET claimed = u.key FROM unnest($2::text[], $3::text[]) AS u(key, was) WHERE a.channel = $1 AND a.key = u.was AND a.claimed = ''`, w.Channel, ks, claimsOf(ks, claims))
}

func claimsOf(keys []string, claims map[string]string) []string {
	out := make([]string, len(keys))
	for i, k := range keys {
		out[i] = claims[k]
	}
	return out
}

func (w writer) visits(visits map[visitKey]*touch) error {
	if len(visits) == 0 {
		return nil
	}
	ks := slices.SortedFunc(maps.Keys(visits), func(a, b visitKey) int { return cmp.Or(strings.Compare(a.key, b.key), a.stream-b.stream) })
	n := len(ks)
	keys, streams, lines := make([]string, n), make([]int32, n), make([]int64, n)
	first, last := make([]time.Time, n), make([]time.Time, n)
	for i, k := range ks {
		v := visits[k]
		keys[i], streams[i], lines[i], first[i], last[i] = k.key, int32(k.stream), v.lines, v.first, v.last
	}
	return w.Exec(`WITH counts AS (`+record.Marks+`$1::bigint, s FROM unnest($3::int[]) AS s)
		INSERT INTO visits (channel, key, stream, lines, first, last) SELECT $1, * FROM unnest($2::text[], $3::int[], $4::bigint[], $5::timestamptz[], $6::timestamptz[])
		ON CONFLICT (channel, key, stream) DO UPDATE SET lines = visits.lines + excluded.lines,
			first = least(visits.first, excluded.first), last = greatest(visits.last, excluded.last)`,
		w.Channel, keys, streams, lines, first, last)
}

// raids keeps raids, and which of them were thanked or passed over on purpose.
func (w writer) raids(raids []tables.Raid, thanked []int64, waived []string) error {
	for _, r := range raids {
		if err := w.Exec(`INSERT INTO raids (channel, seq, key, stream, way, viewers, at, thanked) VALUES ($1,$2,$3,$4,$5,$6,$7,$8)`,
			w.Channel, r.Seq, r.Key, r.Stream, r.Way, r.Viewers, r.At, r.Thanked); err != nil {
			return err
		}
	}
	if len(thanked)+len(waived) == 0 {
		return nil
	}
	return w.Exec(`UPDATE raids SET thanked = true WHERE channel = $1 AND NOT thanked AND (seq = ANY($2::bigint[]) OR key = ANY($3::text[]))`, w.Channel, thanked, waived)
}

// raiders are the people behind raids.
func (w writer) raiders(seqs []int64) ([]int64, error) {
	return w.Numbers(`SELECT DISTINCT a.person FROM raids r JOIN accounts a ON a.channel = r.channel AND a.key = r.key WHERE r.channel = $1 AND r.seq = ANY($2::bigint[])`, seqs)
}

// cameWith are the newcomers who may have come with one of these raids.
func (w writer) cameWith(raids []tables.Raid) ([]int64, error) {
	var at []time.Time
	for _, r := range raids {
		if r.Way == "came" {
			at = append(at, r.At)
		}
	}
	if len(at) == 0 {
		return nil, nil
	}
	return w.Numbers(`SELECT p.id FROM unnest($2::timestamptz[]) AS r(at) JOIN people p ON p.channel = $1 AND p.listed AND p.first_seen BETWEEN r.at AND r.at + interval '10 minutes'`, at)
}

func (w writer) given(list []tables.Support) error {
	for _, s := range list {
		if err := w.Exec(`INSERT INTO supports (channel, seq, key, stream, kind, amount, currency, count, what, at) VALUES ($1,$2,$3,$4,$5,$6::text::numeric,$7,$8,$9,$10)`,
			w.Channel, s.Seq, s.Key, s.Stream, s.Kind, s.Amount, s.Currency, s.Count, s.What, s.At); err != nil {
			return err
		}
	}
	return nil
}

func (w writer) spoken(list []tables.Spoken) error {
	if len(list) == 0 {
		return nil
	}
	n := len(list)
	keys, lines, courtesies, texts, seqs, at := make([]string, n), make([]string, n), make([]string, n), make([]string, n), make([]int64, n), make([]time.Time, n)
	for i, s := range list {
		keys[i], lines[i], courtesies[i], texts[i], seqs[i], at[i] = s.Key, s.Line, s.Courtesy, s.Text, s.Seq, s.At
	}
	return w.Exec(`INSERT INTO spoken (channel, key, seq, line, courtesy, text, at)
		SELECT $1, * FROM unnest($2::text[], $3::bigint[], $4::text[], $5::text[], $6::text[], $7::timestamptz[]) ON CONFLICT DO NOTHING`, w.Channel, keys, seqs, lines, courtesies, texts, at)
}

// kept writes down what rooms keep of accounts from now on.
func (w writer) kept(list people.Kept) error {
	if len(list) == 0 {
		return nil
	}
	keys := slices.Sorted(maps.Keys(list))
	docs := make([]string, len(keys))
	for i, key := range keys {
		raw, err := json.Marshal(list[key])
		if err != nil {
			return err
		}
		docs[i] = string(raw)
	}
	return w.Exec(`UPDATE accounts a SET kept = (COALESCE(a.kept::jsonb, '{}') || u.doc::jsonb)::json FROM unnest($2::text[], $3::text[]) AS u(key, doc) WHERE a.channel = $1 AND a.key = u.key`, w.Channel, keys, docs)
}

// fetched keeps what platforms told of accounts.
func (w writer) fetched(list map[string]*event.LookupAnswered, at map[string]time.Time) error {
	for _, key := range slices.Sorted(maps.Keys(list)) {
		d := list[key]
		if err := w.Exec(`UPDATE accounts SET fetched = json_build_object('link', $3::text, 'category', $4::text, 'title', $5::text, 'streams', $6::bool, 'at', $7::timestamptz)
			WHERE channel = $1 AND key = $2`, w.Channel, key, d.Link, d.Category, d.Title, d.Streams, at[key]); err != nil {
			return err
		}
	}
	return nil
}
