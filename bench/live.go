package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"os"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/demo"
	"vividporch/porch"
	"vividporch/standin"
	"vividporch/store"
	"vividporch/store/log"
)

// running starts a house without gap, delay and network limit, in a chat of its
// own.
func running(channel string) (*porch.House, *store.Store, *standin.Chat, func(), error) {
	ctx := context.Background()
	st, err := store.Open(ctx, os.Getenv("PORCH_DATABASE"))
	if err != nil {
		return nil, nil, nil, nil, err
	}
	chat := &standin.Chat{Room: "#tidepool_hours", Tags: standin.ChatTags{ID: "quayside/account-id", Name: "quayside/name", Roles: "quayside/roles"}}
	if err := chat.Listen("127.0.0.1:0"); err != nil {
		return nil, nil, nil, nil, err
	}
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		return nil, nil, nil, nil, err
	}
	s.Pace = housefile.Pace{}
	s.Doors = s.Doors[:1]
	s.Doors[0].Address, s.Profiles[0].Chat.Lines = chat.Address(), 0
	s.Courtesy = s.Courtesy[1:3] // the two greetings
	for i := range s.Courtesy {
		s.Courtesy[i].Do[0].DelaySeconds = 0
	}
	raw, err := json.Marshal(s)
	if err != nil {
		return nil, nil, nil, nil, err
	}
	h, stop, err := porch.Start(ctx, porch.Config{Store: st, Channel: channel, Defaults: raw})
	if err != nil {
		return nil, nil, nil, nil, err
	}
	for len(chat.Here()) == 0 {
		time.Sleep(5 * time.Millisecond)
	}
	_, err = h.Hand(ctx, &event.StreamDeclared{Act: "new"})
	return h, st, chat, func() { stop(); chat.Close(); st.Close() }, err
}

const (
	replyRate  = 1000 // lines a second
	replyFor   = 10 * time.Second
	replyEvery = 20 // one line in so many is an arrival and is answered
)

// replyTime is the way of a line from the chat through the log and back into the
// chat, as a viewer's client sees it, beside a bare loop of commit and socket
// write.
func replyTime() ([]figure, error) {
	_, _, chat, stop, err := running("bench-reply")
	if err != nil {
		return nil, err
	}
	var mu sync.Mutex
	sent := map[string]time.Time{}
	total := int(replyFor.Seconds()) * replyRate
	begin := time.Now()
	for i := range total {
		if d := time.Until(begin.Add(time.Duration(i) * time.Second / replyRate)); d > 0 {
			time.Sleep(d)
		}
		who := "regular"
		if i%replyEvery == 0 {
			who = fmt.Sprintf("guest%05d", i)
			mu.Lock()
			sent[who] = time.Now()
			mu.Unlock()
		}
		chat.Say(standin.Viewer{ID: who, Login: who}, "that is the biggest dog whelk I have ever seen")
	}
	var took []time.Duration
	for end := time.Now().Add(10 * time.Second); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		if len(chat.Heard("porchlamp", begin)) > total/replyEvery { // the guests, and the regular's own arrival
			break
		}
	}
	for _, h := range chat.Heard("porchlamp", begin) {
		for who, at := range sent {
			if contains(h.Text, who) {
				took = append(took, h.At.Sub(at))
				delete(sent, who)
				break
			}
		}
	}
	stop()
	if len(took) < total/replyEvery {
		return nil, fmt.Errorf("only %d of %d replies came", len(took), total/replyEvery)
	}
	bare, err := bareLoop()
	if err != nil {
		return nil, err
	}
	return []figure{
		{what: "bare loop of commit and socket write: p99", got: at(bare, 0.99), unit: "ms"},
		{what: "chat line in → reply, 1,000 lines/s, durable: p50", got: at(took, 0.5), unit: "ms"},
		{what: "chat line in → reply, 1,000 lines/s, durable: p99", got: at(took, 0.99), aim: 4 * at(bare, 0.99), unit: "ms", alongside: "4 × the bare loop"},
	}, nil
}

func contains(s, part string) bool {
	for i := 0; i+len(part) <= len(s); i++ {
		if s[i:i+len(part)] == part {
			return true
		}
	}
	return false
}

func bareLoop() ([]time.Duration, error) {
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, os.Getenv("PORCH_DATABASE"))
	if err != nil {
		return nil, err
	}
	defer conn.Close(ctx)
	if _, err := conn.Exec(ctx, "CREATE TABLE IF NOT EXISTS bare (id bigserial PRIMARY KEY, line text)"); err != nil {
		return nil, err
	}
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	defer ln.Close()
	go func() {
		if c, err := ln.Accept(); err == nil {
			io.Copy(io.Discard, c)
		}
	}()
	sock, err := net.Dial("tcp", ln.Addr().String())
	if err != nil {
		return nil, err
	}
	defer sock.Close()
	var took []time.Duration
	for range 2000 {
		start := time.Now()
		if _, err := conn.Exec(ctx, "INSERT INTO bare (line) VALUES ('Welcome, tidewrack! Mind the wet boots.')"); err != nil {
			return nil, err
		}
		if _, err := sock.Write([]byte("PRIVMSG #tidepool_hours :Welcome, tidewrack! Mind the wet boots.\r\n")); err != nil {
			return nil, err
		}
		took = append(took, time.Since(start))
	}
	return took, nil
}

const (
	logLines  = 60_000
	logPeople = 3_000
	logBatch  = 512
)

// logSpeed is how many lines a second go into the log, with repeats found, people
// updated and decisions kept, beside COPY of the same rows.
func logSpeed() ([]figure, error) {
	h, st, _, stop, err := running("bench-log")
	if err != nil {
		return nil, err
	}
	defer stop()
	ctx := context.Background()
	make1 := func(i int) event.Event {
		d := &happening.ChatSaid{Text: "that is the biggest dog whelk I have ever seen", MessageID: fmt.Sprint("m", i)}
		d.Person = event.Person{Platform: "quayside", ID: fmt.Sprint(i % logPeople), Login: fmt.Sprint("viewer_", i%logPeople)}
		return event.Event{Door: "quayside-chat", Source: "#tidepool_hours", ID: fmt.Sprint("m", i), Type: d.Type(), Data: d}
	}
	start := time.Now()
	var wg sync.WaitGroup
	slots := make(chan bool, 4) // a few batches wait while one is written, as under load
	for i := 0; i < logLines; i += logBatch {
		evs := make([]event.Event, 0, logBatch)
		for j := i; j < min(i+logBatch, logLines); j++ {
			evs = append(evs, make1(j))
		}
		slots <- true
		wg.Go(func() { h.Submit(ctx, evs); <-slots })
	}
	wg.Wait()
	house := float64(logLines) / time.Since(start).Seconds()

	conn, err := pgx.Connect(ctx, os.Getenv("PORCH_DATABASE"))
	if err != nil {
		return nil, err
	}
	defer conn.Close(ctx)
	if _, err := conn.Exec(ctx, "DROP TABLE IF EXISTS copied; CREATE TABLE copied (LIKE events INCLUDING ALL)"); err != nil {
		return nil, err
	}
	var rows [][]any
	if err := st.Log.Since(ctx, h.ID, 0, 0, func(en log.Entry) error {
		e := &en.Event
		if e.Type == "porch.chat.said" {
			rows = append(rows, []any{h.ID, e.Seq, e.Door, e.Source, e.ID, e.Type, e.Time, e.Logged, e.Ahead, e.Who().Key(), string(e.Raw)})
		}
		return nil
	}); err != nil {
		return nil, err
	}
	if len(rows) != logLines {
		return nil, fmt.Errorf("%d lines in the log, not %d", len(rows), logLines)
	}
	start = time.Now()
	for i := 0; i < len(rows); i += logBatch {
		if _, err := conn.CopyFrom(ctx, pgx.Identifier{"copied"}, []string{"channel", "seq", "door", "source", "id", "type", "time", "logged", "ahead", "person", "data"}, pgx.CopyFromRows(rows[i:min(i+logBatch, len(rows))])); err != nil {
			return nil, err
		}
	}
	copied := float64(len(rows)) / time.Since(start).Seconds()
	return []figure{
		{what: "COPY of the same rows, same index, batches and commits", got: copied, unit: "/s"},
		{what: "lines a second into the log, with all that hangs on them", got: house, aim: 0.2 * copied, unit: "/s", least: true, alongside: fmt.Sprintf("%.2f of COPY", house/copied)},
	}, nil
}
