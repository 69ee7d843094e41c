package forget

import (
	"encoding/json"
	"regexp"
	"strings"

	"vividporch/core/lookback"
	"vividporch/core/plain"
	"vividporch/store/pg"
)

// inLookbacks puts what stands in an account's place into what became of old streams: they stay counted. What was
// asked for in vain may be a name.
func (w writer) inLookbacks(mine, anon, names []string) error {
	for i, key := range mine {
		if err := w.Exec(`UPDATE lookbacks SET doc = replace(doc::text, $2, $3)::json WHERE channel = $1 AND position($2 IN doc::text) > 0`, w.Channel, quoted(key), quoted(anon[i])); err != nil {
			return err
		}
	}
	rows, err := w.SQL.QueryContext(w.Ctx, `SELECT stream, doc FROM lookbacks WHERE channel = $1 AND lower(doc::text) LIKE ANY($2::text[])`, w.Channel, within(names))
	if err != nil {
		return err
	}
	defer rows.Close()
	changed := map[int]string{}
	for rows.Next() {
		var stream int
		var doc []byte
		var e lookback.Evening
		if err := rows.Scan(&stream, &doc); err != nil {
			return err
		}
		if json.Unmarshal(doc, &e) != nil {
			continue
		}
		e.Without(func(text string) string { return plain.Without(text, names) })
		raw, err := json.Marshal(&e)
		if err != nil {
			return err
		}
		changed[stream] = string(raw)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for stream, doc := range changed {
		if err := w.Exec(`UPDATE lookbacks SET doc = $3 WHERE channel = $1 AND stream = $2`, w.Channel, stream, doc); err != nil {
			return err
		}
	}
	return nil
}

// within are patterns for whatever holds one of some names, in lower case.
func within(names []string) []string {
	out := []string{}
	for _, n := range names {
		if n != "" {
			out = append(out, "%"+pg.Begins(strings.ToLower(n)))
		}
	}
	return out
}

// unwrite takes people out of written evenings: whoever wrote one may have put them in.
func (w writer) unwrite(names, keys []string) error {
	for _, key := range keys {
		_, id, _ := strings.Cut(key, ":")
		if err := w.Exec(`UPDATE evenings SET script = replace(script, $2, '"id":"somebody"'), tried = 0 WHERE channel = $1 AND position($2 IN script) > 0`, w.Channel, `"id":`+quoted(id)); err != nil {
			return err
		}
	}
	for _, name := range names {
		if plain.Without(name, []string{name}) == name {
			continue
		}
		if err := w.Exec(`UPDATE evenings SET script = regexp_replace(script, $2, 'somebody', 'gi'), tried = 0 WHERE channel = $1 AND script ~* $2`, w.Channel, `\m`+regexp.QuoteMeta(name)+`\M`); err != nil {
			return err
		}
	}
	return nil
}

// quoted is a text as JSON has it.
func quoted(s string) string {
	raw, _ := json.Marshal(s)
	return string(raw)
}
