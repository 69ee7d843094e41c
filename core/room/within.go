package room

import (
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Doing is an output that a room does: for a cause, by a courtesy, with the fill-ins as they are so far, on some platforms.
type Doing struct {
	Cause     who.Cause
	Courtesy  *courtesy.Ready
	Output    *courtesy.ReadyOutput
	Args      wording.Args // what is told to the outputs after it goes in here
	Platforms []string
}

// Not says why it is not done.
func (d *Doing) Not(t *Turn, why string) { t.not(d.Cause, d.Courtesy, d.Output, "", why) }

// byRoom has whichever room does outputs of a kind do one; false where none does.
func (t *Turn) byRoom(kind output.Kind, d *Doing) bool {
	for i := range t.rooms {
		if f := t.rooms[i].does[kind]; f != nil {
			was := t.room
			t.room = t.rooms[i].Name
			f(t, d)
			t.room = was
			return true
		}
	}
	return false
}

// Bill is what somebody is to pay for something that a courtesy does. Before it is done it is asked whether they can; once it is, it
// is paid. Nothing is paid for what was not done.
type Bill struct {
	Person   event.Person
	Known    *people.Known
	Amount   int64
	Courtesy string
	Output   string // of a courtesy as a whole: none
	Done     bool   // it is done: to be paid now
}

// costs does something that costs, if whoever caused it can pay. A member's hand and a try pay nothing.
func (t *Turn) costs(c who.Cause, b Bill, refuse func(why string), do func()) {
	if b.Amount <= 0 || t.Hand || t.Try {
		do()
		return
	}
	who := t.Event.Who() // whoever asked, whomever it is done to
	if who == nil || who.ID == "" {
		refuse("it costs something, and nobody asked for it who could pay")
		return
	}
	b.Person, b.Known = *who, t.Known
	if why := t.pays(&b); why != "" {
		refuse(why)
		return
	}
	from := len(t.Decided)
	do()
	for i := from; i < len(t.Decided); i++ {
		if k := t.Decided[i].Kind; k != hall.Refuse && k != hall.Ask {
			b.Done = true
			t.pays(&b)
			return
		}
	}
}

func (t *Turn) pays(b *Bill) string {
	for i := range t.rooms {
		if f := t.rooms[i].pays; f != nil {
			was := t.room
			t.room = t.rooms[i].Name
			why := f(t, b)
			t.room = was
			return why
		}
	}
	return "there is nothing to pay with"
}
