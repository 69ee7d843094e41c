package onscreen

import (
	"encoding/json"
	"hash/fnv"
	"math"
	"slices"
	"time"

	"vividporch/core/event"
	"vividporch/core/guard"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/room"
)

// Line is a line of chat as overlays show it.
type Line struct {
	ID       int64   `json:"id"`
	Sort     string  `json:"sort"` // of [vividporch/core/box.LineSorts]
	Platform string  `json:"platform"`
	Mark     string  `json:"mark"` // the platform's
	Name     string  `json:"name"`
	Tint     int     `json:"tint"` // of the name: one of the page's, the same for one account
	Text     string  `json:"text"`
	Emotes   []Emote `json:"emotes,omitempty"`

	account, message string
}

// tints is how many colours names have.
const tints = 8

// chatRing keeps the last lines.
type chatRing struct {
	list []Line
	last int64
}

// after are the lines after one, for a page that has the rest.
func (r *chatRing) after(id int64) []Line {
	if id == math.MaxInt64 {
		return nil
	}
	at := max(0, len(r.list)-linesKept)
	for at < len(r.list) && r.list[at].ID <= id {
		at++
	}
	return slices.Clone(r.list[at:])
}

func (r *chatRing) add(l Line) Line {
	r.last = max(r.last+1, time.Now().UnixMilli()) // beyond those of the process before this one
	l.ID = r.last
	if r.list = append(r.list, l); len(r.list) > 4*linesKept {
		r.list = slices.Clone(r.list[len(r.list)-2*linesKept:])
	}
	return l
}

// drop takes lines out, and tells which.
func (r *chatRing) drop(of func(*Line) bool) []int64 {
	var ids []int64
	r.list = slices.DeleteFunc(r.list, func(l Line) bool {
		if of(&l) {
			ids = append(ids, l.ID)
			return true
		}
		return false
	})
	return ids
}

// Lived tells pages what was said in chat, and what is to be seen no more. It does not wait.
func (s *Screens) Lived(ev *event.Event, ds []hall.Decision, plan *room.Plan) {
	switch data := ev.Data.(type) {
	case *happening.ChatSaid:
		if _, late := ev.Late(); !late && !guard.Withheld(ds) {
			s.writes(data, plan)
		}
	case *event.HeldDecided:
		if data := guard.Admitted(ds); data != nil {
			s.writes(data, plan)
		}
	case *happening.ChatRemoved:
		s.drop(func(l *Line) bool {
			return l.message != "" && l.message == data.MessageID && l.Platform == data.Person.Platform
		})
	case *happening.PersonBanned:
		s.Forget([]string{data.Person.Key()})
	case *happening.PersonTimedOut:
		s.Forget([]string{data.Person.Key()})
	case *event.SettingsChanged:
		s.settle()
	case *event.Silenced:
		s.everywhere(frame(map[string]string{"do": "silence"}))
	}
	_, late := ev.Late()
	s.whisper(ds, plan, late)
	for i := range ds {
		s.removes(&ds[i])
		if d := &ds[i]; d.Kind == hall.Say && !d.Try {
			name := plan.Settings.Name
			if d.As == output.AsStreamer || name == "" {
				name = plan.Channel
			}
			s.line(Line{Sort: "the house", Platform: d.Platform, Mark: mark(d.Platform), Name: plain.Name(name), Tint: 0, Text: plain.Text(d.Text)})
		}
	}
}

// writes shows a line of chat.
func (s *Screens) writes(data *happening.ChatSaid, plan *room.Plan) {
	l := said(data, plan)
	l.Emotes = s.emotes.in(l.Text, l.Platform)
	s.line(l)
}

// removes takes away a line that its platform is asked to take out, without waiting for its answer.
func (s *Screens) removes(d *hall.Decision) {
	var told output.Told
	if d.Kind != hall.Kind(output.KindPlatform) || json.Unmarshal(d.Body, &told) != nil {
		return
	}
	if deed, ok := told.Do.(*output.Deed); ok && deed.Act == output.DeleteLine && deed.Message != "" {
		s.drop(func(l *Line) bool { return l.message == deed.Message && l.Platform == d.Platform })
	}
}

func said(data *happening.ChatSaid, plan *room.Plan) Line {
	who := data.Person
	l := Line{Sort: "viewers", Platform: who.Platform, Mark: mark(who.Platform), Name: plain.Name(who.Shown()), Tint: tintOf(who.Key()), Text: plain.Text(data.Text), account: who.Key(), message: data.MessageID}
	switch {
	case plan.IsNeighbour(who):
		l.Sort = "neighbours"
	case plan.Hears(data.Text, who.Platform).Any():
		l.Sort = "commands"
	}
	return l
}

// mark is how a platform is marked beside what is said there.
func mark(platform string) string {
	for _, r := range plain.Titled(platform) {
		return string(r)
	}
	return ""
}

func tintOf(account string) int {
	h := fnv.New32a()
	h.Write([]byte(account))
	return int(h.Sum32() % tints)
}

func (s *Screens) line(l Line) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l = s.chat.add(l)
	f := []byte(nil)
	for _, sc := range s.of {
		if len(sc.pages) > 0 {
			if f == nil {
				f = frame(map[string]any{"do": "line", "line": l})
			}
			sc.all(f)
		}
	}
}

func (s *Screens) drop(of func(*Line) bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if ids := s.chat.drop(of); len(ids) > 0 {
		f := frame(map[string]any{"do": "unline", "ids": ids})
		for _, sc := range s.of {
			sc.all(f)
		}
	}
}

// Forget takes the lines of some accounts from all pages.
func (s *Screens) Forget(accounts []string) {
	s.drop(func(l *Line) bool { return l.account != "" && slices.Contains(accounts, l.account) })
}

// ForgetTheirs takes all that is of some accounts from all pages, what is on just now too, and lets go of what was
// fetched of people.
func (s *Screens) ForgetTheirs(accounts []string) {
	s.Forget(accounts)
	s.forgetTheirs()
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, sc := range s.of {
		if sc.on != "" && slices.ContainsFunc(sc.whose, func(key string) bool { return slices.Contains(accounts, key) }) {
			sc.all(frame(map[string]string{"do": "drop", "show": sc.on}))
			sc.on, sc.onSince, sc.whose = "", time.Time{}, nil
		}
	}
}

func (s *Screens) everywhere(f []byte) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, sc := range s.of {
		sc.all(f)
	}
}
