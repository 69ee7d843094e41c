// Package pearls reads how many points people have, as CSV (RFC 4180): UTF-8, commas, semicolons or tabs, with a heading. A row that is broken
// is refused with its number and the reason; the rows round it are read.
package pearls

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"vividporch/core/event"
	"vividporch/core/plain"
)

// Row is a row of the file: N is its number, the heading's being 1. Account is a key ("quayside:8841") where the file has one, else Login is
// looked for, on Platform where one is named.
type Row struct {
	N        int
	Account  string
	Platform string
	Login    string
	Points   int64
}

// Refused is a row that is not read, and why.
type Refused struct {
	N    int
	Text string
	Why  string
}

// MostRows bounds a file.
const MostRows = 200_000

var meanings = map[string][]string{
	"account":  {"account", "accounts", "key"},
	"platform": {"platform", "site", "service"},
	"login":    {"login", "user", "username", "handle", "nick", "name", "viewer", "displayname"},
	"points":   {"points", "amount", "balance", "currency", "total", "pearls", "coins", "score"},
}

// Read reads a file. The error is an [event.FieldError] where nothing of it can be read.
func Read(raw []byte) (rows []Row, refused []Refused, err error) {
	raw = bytes.TrimPrefix(raw, []byte("\ufeff"))
	first, _, _ := strings.Cut(string(raw), "\n")
	r := csv.NewReader(bytes.NewReader(raw))
	r.FieldsPerRecord, r.LazyQuotes, r.TrimLeadingSpace = -1, true, true
	for _, c := range []rune{',', ';', '\t'} {
		if strings.Count(first, string(c)) > strings.Count(first, string(r.Comma)) {
			r.Comma = c
		}
	}
	head, err := r.Read()
	if err != nil {
		return nil, nil, &event.FieldError{Field: "csv", Remedy: "holds nothing that can be read; send a heading and a row for each person"}
	}
	at := map[string]int{}
	for i, h := range head {
		h = strings.ToLower(strings.Join(strings.Fields(strings.TrimSpace(h)), ""))
		for what, names := range meanings {
			if _, has := at[what]; !has && slices.Contains(names, h) {
				at[what] = i
			}
		}
	}
	_, account := at["account"]
	_, login := at["login"]
	if _, points := at["points"]; !points || !account && !login {
		return nil, nil, &event.FieldError{Field: "csv", Remedy: `lacks a column; head one "login" or "account", and one "points"`}
	}
	for n := 2; ; n++ {
		rec, err := r.Read()
		if errors.Is(err, io.EOF) {
			return rows, refused, nil
		}
		if n > MostRows+1 {
			return nil, nil, &event.FieldError{Field: "csv", Remedy: fmt.Sprintf("has more than %d rows; send it in parts", MostRows)}
		}
		no := func(why string) {
			refused = append(refused, Refused{n, event.Cut(strings.Join(rec, ", "), 200), why})
		}
		if err != nil {
			no("cannot be read: mend its quotes")
			continue
		}
		cell := func(what string) string {
			if i, ok := at[what]; ok && i < len(rec) {
				return strings.TrimSpace(plain.Line(rec[i]))
			}
			return ""
		}
		x := Row{N: n, Account: cell("account"), Platform: strings.ToLower(cell("platform")), Login: strings.TrimPrefix(cell("login"), "@")}
		points := strings.NewReplacer(" ", "", "'", "", ",", "", "\u00a0", "").Replace(cell("points"))
		points = strings.TrimSuffix(strings.TrimSuffix(points, ".00"), ".0")
		p, perr := strconv.ParseInt(points, 10, 64)
		switch {
		case x.Account == "" && x.Login == "":
			no("names nobody: write a login or an account")
		case perr != nil:
			no("has no whole number of points")
		case p < 1:
			no("has nothing to give: 1 point at least")
		case p > event.MostPoints:
			no("has more points than anybody can")
		default:
			x.Points = p
			rows = append(rows, x)
		}
	}
}
