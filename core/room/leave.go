package room

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/pace"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// amounts writes sums of several currencies: "22.50 EUR and 5 USD".
func amounts(lines []pace.Line) string {
	sums := map[string]float64{}
	var order []string
	for _, l := range lines {
		if _, ok := sums[l.Currency]; !ok {
			order = append(order, l.Currency)
		}
		sums[l.Currency] += l.Number
	}
	var out []string
	for _, c := range order {
		n := strconv.FormatFloat(sums[c], 'f', 2, 64)
		if whole := strconv.FormatFloat(sums[c], 'f', -1, 64); len(whole) < len(n)-2 {
			n = whole
		}
		out = append(out, n+" "+c)
	}
	return plain.List(out, "and")
}

// withEffect makes a decision about a line that is no line of chat what it is.
func withEffect(d *hall.Decision, l *pace.Line, names []string) {
	if l.Effect == "" {
		return
	}
	d.Kind, d.Body = hall.Kind(l.Effect), Told(l, names)
	if d.Kind == hall.Relay {
		d.Place, d.Platform = l.Platform, ""
	}
}

// ReleaseIfDue lets leave at once what this event made and need not wait; what
// was waiting before has its own wake.
func (t *Turn) ReleaseIfDue() {
	for i := range t.added {
		if l := &t.added[i]; l.Ask == "" && t.State.Queue.MayLeave(l, t.Now, t.Plan.rules) {
			t.Release(t.State.Hush)
			return
		}
	}
}

// Release lets leave what may leave now.
func (t *Turn) Release(hush bool) {
	q := t.State.Queue
	if len(t.dropped) > 0 {
		q.Lines = slices.DeleteFunc(slices.Clone(q.Lines), func(l pace.Line) bool { return t.dropped[l.Key()] })
	}
	for _, o := range q.Release(t.added, t.Now, hush, t.Plan.rules) {
		switch {
		case o.Drop != "":
			l := o.Lines[0]
			t.TakeBack(&l, o.Drop)
			t.unthanked(&l, o.Drop)
		case o.Joined:
			t.leaveJoined(o)
		default:
			t.Leave(&o.Lines[0])
		}
	}
}

// TakeBack drops a line that was coming up.
func (t *Turn) TakeBack(l *pace.Line, why string) {
	if t.dropped == nil {
		t.dropped = map[string]bool{}
	}
	t.dropped[l.Key()] = true
	t.Decide(hall.Decision{Kind: hall.Drop, Courtesy: l.Courtesy, Output: l.Output, Line: l.ID, Platform: l.Platform, Text: l.Text, Event: l.Event, EventID: l.EventID,
		Person: l.Person, Name: l.Name, Because: append(slices.Clone(l.Because), why)})
}

// Leave lets one line leave: it is said, or done.
func (t *Turn) Leave(l *pace.Line) {
	because := slices.Clone(l.Because)
	if l.Ask != "" {
		why := "was said before the platform answered: without link and category"
		if !t.Now.Before(l.AskEnds) {
			why = fmt.Sprintf("the platform did not answer within %s: said without link and category", l.AskEnds.Sub(l.Made))
		}
		because = append(because, why)
	}
	if l.Hurried && l.Courtesy != "desk" { // what is written there never waits
		because = append(because, "hurried at the desk")
	}
	x := hall.Decision{Kind: hall.Say, Courtesy: l.Courtesy, Output: l.Output, Line: l.ID, Platform: l.Platform, Text: l.Text, Event: l.Event, EventID: l.EventID,
		Person: l.Person, Name: l.Name, ByHand: l.Priority == pace.ByHand, Try: l.Try, Because: because, Saying: hall.Saying{As: l.As, Asker: l.Asker, Pieces: t.pieces(l), Stirs: l.Stirs || t.calls(l)}}
	withEffect(&x, l, nil)
	for i := range t.Decided {
		if p := &t.Decided[i]; p.Kind == hall.Planned && p.Line == l.ID && p.Platform == l.Platform {
			x.Plan, x.Alt, x.Of, x.Ladder = p.Plan, p.Alt, p.Of, p.Ladder
			t.Decided = slices.Delete(t.Decided, i, i+1)
			break
		}
	}
	t.Decide(x)
	t.keepShout(l)
	t.keepDays(l)
}

// otherSigns are what other assistants may take for the beginning of a command, beside the signs of
// the house's own.
const otherSigns = "!?~+$&*=#.-"

// calls reports whether a line of chat may be the command of another assistant.
func (t *Turn) calls(l *pace.Line) bool {
	return l.Effect == "" && l.Text != "" && len(t.Plan.Neighbours) > 0 && strings.ContainsRune(otherSigns+t.Plan.AllSigns(), []rune(l.Text)[0])
}

// pieces is how many lines the network makes of a line of chat; 0 is one.
func (t *Turn) pieces(l *pace.Line) int {
	if n := t.Plan.rules.Limits[l.Platform].Pieces(l.Text); l.Effect == "" && n > 1 {
		return n
	}
	return 0
}

// leaveJoined turns several that wait into one. When all are of one courtesy its
// own joined words are used, else the house's; what has no words is done once.
func (t *Turn) leaveJoined(o pace.Out) {
	first := o.Lines[0]
	words, key, output := t.Plan.joined, "joined", "joined"
	same := first.Burst != "" || first.Effect == ""
	for _, l := range o.Lines {
		same = same && l.Courtesy == first.Courtesy
	}
	if r := t.Find(first.Courtesy); r != nil && (same || len(words) == 0) {
		for i := range r.Outputs {
			if r.Outputs[i].ID == first.Output && len(r.Outputs[i].Joined) > 0 {
				words, key = r.Outputs[i].Joined, first.Courtesy
				if first.Burst != "" {
					output = first.Output + " joined"
				}
			}
		}
	}
	wordless := first.Effect != "" && first.Text == ""
	if len(words) == 0 && !wordless { // the courtesy was taken away while they waited
		for i := range o.Lines {
			t.Leave(&o.Lines[i])
		}
		return
	}
	most := t.Plan.Pace.JoinNames
	if most < 1 {
		most = 6
	}
	names, more := pace.Names(o.Lines, most)
	args := t.Args()
	args["platform"] = wording.Str(plain.Titled(o.Platform))
	args["names"] = wording.Value{Text: names}
	args["more"] = wording.Num(int64(more))
	args["count"] = wording.Num(int64(len(o.Lines)))
	what := "greetings were waiting for " + plain.Titled(o.Platform) + ": joined into one line"
	if first.Burst != "" {
		key, what = first.Courtesy, "came in quick succession: joined into one"
		if first.Currency != "" {
			args["total"] = wording.Str(amounts(o.Lines))
		} else {
			sum := 0.0
			for _, l := range o.Lines {
				sum += l.Number
			}
			args["total"] = wording.Value{Num: sum, IsNum: true}
		}
	}
	x := hall.Decision{Kind: hall.Say, Courtesy: key, Output: output, Line: first.ID + ".joined", Platform: o.Platform, Saying: hall.Saying{As: first.As}, Because: []string{fmt.Sprintf("%d %s", len(o.Lines), what)}}
	if !wordless {
		i, mark := wording.Choose(words, nil, args, t.State.Used[key+"/"+output], wording.Seed(t.Plan.Seed, first.ID, key, output+o.Platform))
		x.Alt, x.Of = mark, len(words)
		if x.Text = words[i].Render(args); first.Effect == "" {
			x.Text = t.fillIn(words[i], args, o.Platform)
		}
		if strings.TrimSpace(x.Text) == "" { // these words say nothing of so many
			for i := range o.Lines {
				t.Leave(&o.Lines[i])
			}
			return
		}
	}
	first.Text = x.Text
	x.Pieces = t.pieces(&first)
	var all []string
	for _, l := range o.Lines {
		if !slices.Contains(all, l.Name) {
			all = append(all, l.Name)
		}
	}
	withEffect(&x, &first, all)
	for _, l := range o.Lines {
		x.Joined = append(x.Joined, hall.JoinedOne{Event: l.Event, EventID: l.EventID, Person: l.Person, Name: l.Name, Line: l.ID})
	}
	t.Decide(x)
	for i := range o.Lines {
		t.keepDays(&o.Lines[i])
	}
}

// unthanked puts a raid whose thanks came to nothing before the streamer.
func (t *Turn) unthanked(l *pace.Line, why string) {
	if l.Priority != pace.Thanks || l.Try {
		return
	}
	for _, r := range t.State.Raids {
		if r.Event == l.Event {
			t.Waits(r.Person, l.Name, "raid", happening.RaidCameType, why, r.Viewers)
		}
	}
}

// Answered fills the answer to an ask into the lines that wait for it.
func (t *Turn) Answered(data *event.LookupAnswered) {
	if q := t.State.Question(data.Ask); q != nil {
		t.resume(q, data)
		t.ReleaseIfDue()
	}
	var q pace.Queue
	q.Gates, q.Spoken = t.State.Queue.Gates, t.State.Queue.Spoken
	for _, l := range t.State.Queue.Lines {
		if l.Ask != data.Ask {
			continue
		}
		why := "the platform knew nothing more"
		args := wording.Args{}
		for k, v := range l.Args {
			args[k] = v
		}
		if data.Found {
			why = "the platform told link and last category"
			args.Maybe("link", wording.Str(data.Link))
			args.Maybe("category", wording.Str(data.Category))
		}
		text := l.Text
		if w, err := wording.Parse(l.Source); err == nil && data.Found {
			if again := t.fillIn(w, args, l.Platform); strings.TrimSpace(again) != "" {
				text = tried(l.Try, again)
			}
		}
		t.Decide(hall.Decision{Kind: hall.Reword, Courtesy: l.Courtesy, Output: l.Output, Line: l.ID, Platform: l.Platform, Person: l.Person, Name: l.Name, Text: text, Because: []string{why}})
	}
	// What was waiting for nothing else leaves with this event.
	q.Lines = slices.Clone(t.State.Queue.Lines)
	for i := range q.Lines {
		if l := &q.Lines[i]; l.Ask == data.Ask {
			for _, x := range t.Decided {
				if x.Kind == hall.Reword && x.Line == l.ID {
					l.Text, l.Ask, l.Because = x.Text, "", append(slices.Clone(l.Because), x.Because...)
				}
			}
		}
	}
	for _, o := range q.Release(nil, t.Now, t.State.Hush, t.Plan.rules) {
		if o.Drop == "" && !o.Joined && slices.ContainsFunc(t.Decided, func(x hall.Decision) bool { return x.Kind == hall.Reword && x.Line == o.Lines[0].ID }) {
			t.Leave(&o.Lines[0])
		}
	}
}
