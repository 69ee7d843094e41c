package main

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"time"

	"vividporch/api"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/store"
	"vividporch/store/keys"
)

const (
	bookPeople    = 100_000
	hereNow       = 2_000
	eveningEvents = 20_000
)

// processFigures starts the built program: how long until it is ready with an
// evening behind it, and how much memory it holds with a full book.
func processFigures(bin string) ([]figure, error) {
	ctx := context.Background()
	h, st, _, stop, err := running("bench-process")
	if err != nil {
		return nil, err
	}
	if _, err := st.SQL.Exec(`INSERT INTO people (channel, id, root, created, listed) SELECT $1, 1000000 + g, 1000000 + g, now(), true FROM generate_series(1, $2::bigint) g`, h.ID, bookPeople); err != nil {
		return nil, err
	}
	if _, err := st.SQL.Exec(`INSERT INTO accounts (channel, key, person, home, platform, id, login, name, first_seen, last_seen)
		SELECT $1, 'quayside:b' || g, 1000000 + g, 1000000 + g, 'quayside', 'b' || g, 'booked_' || g, 'booked_' || g, now(), now() FROM generate_series(1, $2::bigint) g`, h.ID, bookPeople); err != nil {
		return nil, err
	}
	for i := 0; i < eveningEvents; i += 500 {
		var evs []event.Event
		for j := i; j < i+500; j++ {
			d := &happening.ChatSaid{Text: "look at it go"}
			d.Person = event.Person{Platform: "quayside", ID: fmt.Sprint("b", 1+j%hereNow), Login: fmt.Sprint("booked_", 1+j%hereNow)}
			evs = append(evs, event.Event{Door: "quayside-chat", Source: "bench", ID: fmt.Sprint("p", j), Type: d.Type(), Data: d})
		}
		if _, err := h.Submit(ctx, evs); err != nil {
			return nil, err
		}
	}
	_, ok, err := st.Log.SettingsNow(ctx, h.ID)
	if err != nil {
		return nil, err
	}
	if !ok { // the house ran on its defaults; the program needs them in the database
		raw, err := os.ReadFile("demo/house.json")
		if err != nil {
			return nil, err
		}
		if err := st.Log.FirstSettings(ctx, h.ID, raw); err != nil {
			return nil, err
		}
	}
	stop()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	addr := ln.Addr().String()
	ln.Close()
	start := time.Now()
	cmd := exec.Command(bin, "serve", "--channel", "bench-process", "--listen", addr)
	if err := cmd.Start(); err != nil {
		return nil, err
	}
	defer func() { cmd.Process.Kill(); cmd.Wait() }()
	for {
		if res, err := http.Get("http://" + addr + "/readyz"); err == nil {
			res.Body.Close()
			if res.StatusCode == http.StatusOK {
				break
			}
		}
		if time.Since(start) > 30*time.Second {
			return nil, fmt.Errorf("the house was not ready within thirty seconds")
		}
		time.Sleep(5 * time.Millisecond)
	}
	ready := time.Since(start)
	time.Sleep(3 * time.Second) // let it settle: this is a reading, not a wait for a condition
	kb, err := resident(cmd.Process.Pid)
	if err != nil {
		return nil, err
	}
	feed, grew, err := feedFigures(ctx, st, h.ID, addr, cmd.Process.Pid, kb)
	if err != nil {
		return nil, err
	}
	return []figure{
		{what: "calendar of 100,000 people, first read", got: feed.Seconds(), unit: "s"},
		{what: "memory it took beyond that", got: grew / 1024, aim: 60, unit: "MB"},
		{what: "start to ready, 20,000 events behind it", got: ready.Seconds(), aim: 1, unit: "s"},
		{what: "memory of serve, 100,000 people in the book, 2,000 here", got: kb / 1024, aim: 150, unit: "MB"},
	}, nil
}

// resident is how much memory a process holds, in kB.
func resident(pid int) (kb float64, err error) {
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0, err
	}
	for _, l := range strings.Split(string(raw), "\n") {
		if rest, ok := strings.CutPrefix(l, "VmRSS:"); ok {
			kb, _ = strconv.ParseFloat(strings.Fields(rest)[0], 64)
		}
	}
	return kb, nil
}

// feedFigures reads the calendar of everybody's birthdays: how long it takes, and how much memory the
// house takes beyond what it held, in kB, at the most while it is read.
func feedFigures(ctx context.Context, st *store.Store, channel int64, addr string, pid int, before float64) (took time.Duration, grew float64, err error) {
	if _, err := st.SQL.Exec(`UPDATE people SET birth_month = 1 + id % 12, birth_day = 1 + id % 28, name = 'booked_' || id WHERE channel = $1`, channel); err != nil {
		return 0, 0, err
	}
	if err := st.Keys.Make(ctx, keys.Key{Channel: channel, Of: keys.Dates, Hash: api.Hash("bench"), Made: time.Now()}); err != nil {
		return 0, 0, err
	}
	begun := time.Now()
	res, err := http.Get("http://" + addr + "/dates.ics?key=bench")
	if err != nil {
		return 0, 0, err
	}
	defer res.Body.Close()
	n, most := 0, before
	buf := make([]byte, 1<<20)
	for {
		k, err := res.Body.Read(buf)
		n += bytes.Count(buf[:k], []byte("BEGIN:VEVENT"))
		if kb, _ := resident(pid); kb > most {
			most = kb
		}
		if err == io.EOF {
			break
		}
		if err != nil {
			return 0, 0, err
		}
	}
	if n < bookPeople*9/10 { // one that two reads share is counted by neither
		return 0, 0, fmt.Errorf("the calendar has %d days of %d", n, bookPeople)
	}
	return time.Since(begun), most - before, nil
}
