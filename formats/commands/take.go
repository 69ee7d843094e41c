package commands

import (
	"reflect"
	"slices"

	"vividporch/core/courtesy"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/prose"
)

// Becomes is what becomes of a row.
type Becomes string

// What can become of one.
const (
	New     Becomes = "new"
	Changed Becomes = "changed"
	Same    Becomes = "same"
	Refused Becomes = "refused"
)

// Incoming is a row held against the commands there are.
type Incoming struct {
	Row
	Becomes Becomes
	of      int // of a changed one: its place among the courtesies
}

// Against tells what would become of each row in a house.
func Against(set *housefile.Settings, rows []Row) []Incoming {
	asked := set.ByName()
	seen := map[string]bool{}
	var out []Incoming
	for _, r := range rows {
		in := Incoming{Row: r, Becomes: New}
		key := ""
		if len(r.Command.Names) > 0 {
			key = set.Bare(r.Command.Names[0])
		}
		at, there := asked[key]
		switch {
		case r.Why != "":
			in.Becomes = Refused
		case key != "" && seen[key]:
			in.Becomes, in.Why = Refused, "stands in the list before this already; leave one of them out"
		case there:
			is, plain := Of(&set.Courtesy[at])
			switch {
			case !plain || set.Bare(is.Names[0]) != key:
				in.Becomes, in.Why = Refused, "another courtesy is asked by “"+r.Name+"”, and does more than this list can say; give it another name, or put that one away"
			case reflect.DeepEqual(is, r.Command) || r.Bare && is.Answer == r.Command.Answer:
				in.Becomes = Same
			default:
				in.Becomes, in.of = Changed, at
			}
		}
		if r.Why == "" {
			seen[key] = true
		}
		out = append(out, in)
	}
	return out
}

// Take takes rows into a house, but for those left out by their numbers; it tells how many came in, and how
// many cannot.
func Take(set *housefile.Settings, rows []Row, without []int) (came, refused int) {
	for _, r := range Against(set, rows) {
		switch {
		case slices.Contains(without, r.N) || r.Becomes == Same:
			continue
		case r.Becomes == Refused:
			refused++
			continue
		case r.Becomes == Changed:
			set.Courtesy[r.of] = taken(&r.Row, set.Courtesy[r.of])
		default:
			made := r.Command.Courtesy()
			made.ID = prose.Answering(set.Courtesy, made.Asks, "").ID
			set.Courtesy = append(set.Courtesy, made)
		}
		came++
	}
	return came, refused
}

// taken is a command with what a list says of it; what the list does not say stays.
func taken(r *Row, was courtesy.Courtesy) courtesy.Courtesy {
	in := r.Command.Courtesy()
	if r.Bare {
		in.On = in.On && was.On
		is := was
		is.On, is.Do = in.On, []output.Output{was.Do[0]}
		is.Do[0].Alternatives = in.Do[0].Alternatives
		return is
	}
	in.ID, in.Do[0].ID, in.OffLine, in.Only = was.ID, was.Do[0].ID, was.OffLine, was.Only
	if was.Asked != nil {
		asked := courtesy.Asking{Resting: was.Asked.Resting, Unlisted: was.Asked.Unlisted, Leaves: was.Asked.Leaves}
		if in.Asked != nil {
			asked.Words, asked.Rest, asked.Person = in.Asked.Words, in.Asked.Rest, in.Asked.Person
		}
		if in.Asked = nil; !asked.IsZero() {
			in.Asked = &asked
		}
	}
	return in
}
