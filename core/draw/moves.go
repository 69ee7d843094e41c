package draw

// A draw, and how each step moves it.

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/giveaway"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/room"
)

// State is how far a draw is.
type State string

// The states.
const (
	Sealing   State = "sealing" // its secret is being made
	Open      State = "open"
	Closed    State = "closed"  // nobody can enter any more
	Drawing   State = "drawing" // somebody was drawn, and something is open still
	Over      State = "over"
	Cancelled State = "cancelled"
)

// Running reports whether a draw goes on.
func (s State) Running() bool { return s != "" && s != Over && s != Cancelled }

// Draw is one draw.
type Draw struct {
	ID             string `json:"id"`
	Number         int    `json:"number"`
	giveaway.Terms `json:"terms"`
	By             string   `json:"by,omitempty"` // who asked for it
	State          State    `json:"state"`
	Seq            [2]int64 `json:"seq"`

	Commit string `json:"commit,omitempty"` // SHA-256 of the secret
	Kept   string `json:"kept,omitempty"`   // stands for what has to be guessed
	Sealed []byte `json:"sealed,omitempty"`
	Secret []byte `json:"secret,omitempty"` // once entries are closed

	Called  time.Time `json:"called"`
	Opened  time.Time `json:"opened,omitzero"`
	Closes  time.Time `json:"closes,omitzero"`
	Reminds time.Time `json:"reminds,omitzero"`
	HintAt  time.Time `json:"hintAt,omitzero"`
	Hinted  bool      `json:"hinted,omitempty"`
	Ended   time.Time `json:"ended,omitzero"`
	Again   time.Time `json:"again,omitzero"` // when the edge is asked once more
	Tries   int       `json:"tries,omitempty"`
	Draws   bool      `json:"draws,omitempty"` // it is drawn as soon as it is closed

	Entries []Entry  `json:"entries,omitempty"` // in the order in which they came
	Marks   []string `json:"marks,omitempty"`   // of those in the list that is drawn from, sorted
	Digest  string   `json:"digest,omitempty"`
	Picks   []Pick   `json:"picks,omitempty"`
	Unwon   []int    `json:"unwon,omitempty"` // prizes that nobody has
	Why     string   `json:"why,omitempty"`   // it was closed, or called off

	by map[string]int // account → the first of its entries; made anew from the rest
}

// Entry is one entry. One that is void does not count; of somebody who was forgotten no account is left.
type Entry struct {
	Number   int       `json:"number"`
	Mark     string    `json:"mark"`
	Account  string    `json:"account,omitempty"`
	Accounts []string  `json:"accounts,omitempty"` // all of its person's, as it was known then
	Login    string    `json:"login,omitempty"`
	Name     string    `json:"name,omitempty"`
	At       time.Time `json:"at"`
	Guess    *int64    `json:"guess,omitempty"`
	Void     string    `json:"void,omitempty"`
}

// all are the accounts of an entry's person.
func (e *Entry) all() []string { return append([]string{e.Account}, e.Accounts...) }

func (e *Entry) key(d *Draw) string { return fmt.Sprintf("%s/%d/%s", d.ID, e.Number, e.Mark) }

// PickState is what became of a pick.
type PickState string

// What becomes of a pick.
const (
	Pending PickState = "pending" // they have to say something
	Claimed PickState = "claimed"
	Passed  PickState = "passed" // over, for a reason
)

// Pick is one pick from the list. N counts those by chance, from 0; the others have -1.
type Pick struct {
	N        int       `json:"n"`
	Prize    int       `json:"prize"`
	Number   int       `json:"number"` // of the entry
	Mark     string    `json:"mark"`
	Account  string    `json:"account,omitempty"`
	Accounts []string  `json:"accounts,omitempty"`
	Login    string    `json:"login,omitempty"`
	Name     string    `json:"name,omitempty"`
	At       time.Time `json:"at"`
	Ends     time.Time `json:"ends,omitzero"`
	State    PickState `json:"state"`
	Why      string    `json:"why,omitempty"`
}

// moved is what a step has of its own. Whose it is stands in the decision: a forgetting takes it out from there.
type moved struct {
	Terms  *giveaway.Terms `json:"terms,omitempty"`
	Number int             `json:"number,omitempty"`
	By     string          `json:"by,omitempty"`
	Commit string          `json:"commit,omitempty"`
	Kept   string          `json:"kept,omitempty"`
	Sealed []byte          `json:"sealed,omitempty"`
	Secret []byte          `json:"secret,omitempty"`
	Guess  *int64          `json:"guess,omitempty"`
	Login  string          `json:"login,omitempty"`
	Why    string          `json:"why,omitempty"`
	Marks  []string        `json:"marks,omitempty"`
	Digest string          `json:"digest,omitempty"`
	Draws  bool            `json:"draws,omitempty"`
	Hinted bool            `json:"hinted,omitempty"`
	Ends   *time.Time      `json:"ends,omitempty"`
}

// The steps of a draw.
const (
	stepCalled    = "called"
	stepAwaits    = "awaits" // the edge was asked once more
	stepOpened    = "opened"
	stepEntered   = "entered"
	stepVoid      = "void"
	stepReminded  = "reminded"
	stepClosed    = "closed"
	stepAsked     = "asked" // it is to be drawn as soon as it can be
	stepUnsealed  = "unsealed"
	stepDrawn     = "drawn"
	stepClaimed   = "claimed"
	stepPassed    = "passed"
	stepExtended  = "extended"
	stepUnwon     = "unwon"
	stepOver      = "over"
	stepCancelled = "cancelled"
	stepBarred    = "barred"
)

// How often the edge is asked for a secret, and how long each time.
const (
	askAgain  = 5 * time.Second
	mostTries = 6
)

// began is a draw that was just called.
func began(id string, x *hall.Decision, now time.Time, seq int64) *Draw {
	var is moved
	_ = json.Unmarshal(x.Body, &is) // of what nobody can read nothing comes: it has no terms, and is called off
	d := &Draw{ID: id, Number: is.Number, By: is.By, State: Sealing, Called: now, Again: now.Add(askAgain), Seq: [2]int64{seq, seq}}
	if is.Terms != nil {
		d.Terms = *is.Terms
	} else {
		d.State = Cancelled
	}
	return d
}

// after is a moment so many minutes on; never for none.
func after(now time.Time, n float64) time.Time {
	if n <= 0 {
		return time.Time{}
	}
	return now.Add(room.Seconds(60 * n))
}

// move moves a draw on by one step.
func (d *Draw) move(x *hall.Decision, now time.Time) {
	var is moved
	_ = json.Unmarshal(x.Body, &is) // what a forgetting took out tells nothing
	at := strings.Split(x.Line, "/")
	switch x.Output {
	case stepAwaits:
		d.Again, d.Tries = now.Add(askAgain), d.Tries+1
	case stepOpened:
		d.State, d.Commit, d.Kept, d.Sealed, d.Opened, d.Tries, d.Again = Open, is.Commit, is.Kept, is.Sealed, now, 0, time.Time{}
		d.Closes, d.Reminds = after(now, d.CloseIn), after(now, d.RemindIn)
		if d.Hint != "" {
			d.HintAt = after(now, d.HintIn)
		}
	case stepEntered:
		if len(at) == 3 {
			n, _ := strconv.Atoi(at[1])
			d.add(Entry{Number: n, Mark: at[2], Account: x.Person, Accounts: accountsOf(x), Login: is.Login, Name: x.Name, At: now, Guess: is.Guess})
		}
	case stepVoid:
		if e := d.numbered(at); e != nil {
			e.Void, d.by = is.Why, nil
		}
	case stepReminded:
		d.Reminds = after(now, d.RemindIn)
		if is.Hinted {
			d.HintAt, d.Hinted = time.Time{}, true
		}
	case stepClosed:
		d.State, d.Marks, d.Digest, d.Draws, d.Why = Closed, is.Marks, is.Digest, is.Draws, is.Why
		d.Closes, d.Reminds, d.HintAt, d.Again = time.Time{}, time.Time{}, time.Time{}, now.Add(askAgain)
	case stepAsked:
		d.Draws = true
	case stepUnsealed:
		d.Secret, d.Sealed, d.Again = is.Secret, nil, time.Time{}
	case stepDrawn:
		if p, ok := d.drawn(x, &is, at, now); ok {
			if d.State == Closed || d.State == Over {
				d.State = Drawing
			}
			d.Picks = append(d.Picks, p)
		}
	case stepClaimed, stepPassed:
		if p := d.picked(at); p != nil {
			p.Why, p.Ends, p.State = is.Why, time.Time{}, Passed
			if x.Output == stepClaimed {
				p.State = Claimed
			} else if d.State == Over {
				d.State = Drawing
			}
		}
	case stepExtended:
		for i := range d.Picks {
			if p := &d.Picks[i]; p.State == Pending {
				p.Ends = now.Add(room.Seconds(d.ClaimIn))
			}
		}
	case stepUnwon:
		if len(at) == 2 {
			n, _ := strconv.Atoi(at[1])
			d.Unwon = append(d.Unwon, n)
		}
	case stepOver:
		d.State, d.Ended = Over, now
	case stepCancelled:
		d.State, d.Why, d.Ended, d.Again = Cancelled, is.Why, now, time.Time{}
		d.Closes, d.Reminds, d.HintAt = time.Time{}, time.Time{}, time.Time{}
	}
}

func accountsOf(x *hall.Decision) []string {
	if x.Known == nil {
		return nil
	}
	return x.Known.Accounts
}

func (d *Draw) drawn(x *hall.Decision, is *moved, at []string, now time.Time) (p Pick, ok bool) {
	if len(at) != 5 { // draw, which pick, prize, number, mark
		return p, false
	}
	n, _ := strconv.Atoi(at[1])
	prize, _ := strconv.Atoi(at[2])
	number, _ := strconv.Atoi(at[3])
	p = Pick{N: n, Prize: prize, Number: number, Mark: at[4], Account: x.Person, Accounts: accountsOf(x), Login: is.Login, Name: x.Name, At: now, State: Claimed, Why: is.Why}
	if is.Ends != nil || d.ClaimIn > 0 && d.ByChance() && len(x.Body) == 0 { // what was blanked is over since long
		p.State = Pending
	}
	if is.Ends != nil {
		p.Ends = *is.Ends
	}
	return p, true
}

func (d *Draw) numbered(at []string) *Entry {
	if len(at) < 2 {
		return nil
	}
	n, _ := strconv.Atoi(at[1])
	if n < 1 || n > len(d.Entries) || d.Entries[n-1].Number != n {
		return nil
	}
	return &d.Entries[n-1]
}

// picked finds a pick by the number of its entry: a person is picked once.
func (d *Draw) picked(at []string) *Pick {
	if len(at) < 2 {
		return nil
	}
	n, _ := strconv.Atoi(at[1])
	for i := len(d.Picks) - 1; i >= 0; i-- {
		if d.Picks[i].Number == n {
			return &d.Picks[i]
		}
	}
	return nil
}

func (d *Draw) add(e Entry) {
	d.Entries = append(d.Entries, e)
	if d.by != nil {
		d.note(len(d.Entries) - 1)
	}
}

func (d *Draw) note(i int) {
	e := &d.Entries[i]
	if e.Void != "" {
		return
	}
	for _, k := range e.all() {
		if _, has := d.by[k]; k != "" && !has {
			d.by[k] = i
		}
	}
}

// entryOf is the first entry that counts of somebody with some accounts, or nil.
func (d *Draw) entryOf(accounts []string) *Entry {
	if d.by == nil {
		d.by = make(map[string]int, 2*len(d.Entries))
		for i := range d.Entries {
			d.note(i)
		}
	}
	for _, k := range accounts {
		if i, ok := d.by[k]; ok {
			return &d.Entries[i]
		}
	}
	return nil
}

// winOf is the last pick of an account that holds, or nil.
func (d *Draw) winOf(account string) *Pick {
	for i := len(d.Picks) - 1; i >= 0; i-- {
		if p := &d.Picks[i]; p.State != Passed && (p.Account == account || slices.Contains(p.Accounts, account)) {
			return p
		}
	}
	return nil
}

func (d *Draw) parted(account string) {
	d.by = nil
	without := func(list []string) []string {
		return slices.DeleteFunc(slices.Clone(list), func(k string) bool { return k == account })
	}
	for i := range d.Entries {
		if e := &d.Entries[i]; e.Account != account {
			e.Accounts = without(e.Accounts)
		} else {
			e.Accounts = nil
		}
	}
}

// count is how many entries count.
func (d *Draw) count() (n int64) {
	for i := range d.Entries {
		if d.Entries[i].counts() {
			n++
		}
	}
	return n
}

// counts reports whether an entry is in the list that is drawn from.
func (e *Entry) counts() bool { return e.Void == "" && e.Account != "" }

// Told is what happenings tell of a draw.
func (d *Draw) Told() happening.DrawTold { return d.told(0) }

// told is the same; more are entries that come with the very event.
func (d *Draw) told(more int64) happening.DrawTold {
	return happening.DrawTold{Draw: d.ID, Prizes: d.Prizes, Word: d.Word, Minutes: d.Minutes, Ask: d.Ask, Entries: d.count() + more, Commit: d.Commit}
}

// copied is a draw that can be moved on without the memory.
func (d *Draw) copied() *Draw {
	out := *d
	out.Entries, out.Picks, out.Unwon, out.by = slices.Clone(d.Entries), slices.Clone(d.Picks), slices.Clone(d.Unwon), nil
	return &out
}
