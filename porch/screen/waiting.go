package screen

import (
	"cmp"
	"fmt"
	"time"

	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/spec"
)

func waiting(s *house.State, plan *room.Plan) []spec.Waiting {
	out := []spec.Waiting{}
	for _, it := range s.Waiting {
		w := spec.Waiting{Item: it.ID, Kind: it.Kind, Why: it.Why, Since: it.Since, Count: it.Count, Name: it.Name, Acts: []string{"done"}}
		switch it.Kind {
		case "raid", "late":
			w.Title = fmt.Sprintf("Unthanked: %s", it.Name)
			if it.Viewers > 0 {
				w.Title = fmt.Sprintf("%s brought %d, not thanked", it.Name, it.Viewers)
			}
			w.Acts = []string{"thank", "done"}
			if w.Of = happening.Called(it.Type); it.Viewers > 0 {
				w.Of = fmt.Sprintf("%s with %d", w.Of, it.Viewers)
			}
			if it.Person != nil {
				w.Account = it.Person.Key()
			}
		case "day":
			w.Title, w.Acts = it.Name+" has a day", []string{"celebrate", "done"}
			if it.Person != nil {
				w.Account = it.Person.Key()
			}
		case "regular":
			if w.Title = it.Name + " is a regular now"; it.Count > 1 {
				w.Title = fmt.Sprintf("%d new regulars: %s", it.Count, it.Name)
			}
		case "line":
			w.Title = "Not said on " + plain.Titled(it.Place)
			if it.Text != "" {
				w.Why = "“" + it.Text + "” · " + it.Why
			}
		case "act":
			w.Title = plain.Titled(it.Place) + " refused: " + it.Text
			if f := plan.Settings.FittingNamed(it.Place); f != nil && f.Title != "" {
				w.Title = f.Title + " refused: " + it.Text
			}
		case "social":
			w.Title, w.Why, w.Acts = it.Name+" asks to post", it.Text, []string{}
			if it.Person != nil {
				w.Account = it.Person.Key()
			}
		case "held":
			w.Title, w.Why, w.Acts, w.Of = it.Name+" wrote", it.Text, []string{}, it.Why
			if it.Person != nil {
				w.Account = it.Person.Key()
			}
		case "note":
			w.Title, w.Why = it.Name+" left a note", "“"+it.Text+"”"
			if it.Person != nil {
				w.Account = it.Person.Key()
			}
		case "aside":
			w.Title, w.Acts = "Set aside: "+happening.Called(it.Name), []string{"again", "done"}
		case "book":
			w.Title = "Left out of the guest book: " + happening.Called(it.Name)
		case "forget":
			w.Title, w.Acts = it.Name+" asks to be forgotten", []string{"forget", "done"}
		case "signin":
			w.Title = it.Name + ": " + it.Text + " is signed in no more"
		case "host":
			w.Title = "Reaches " + it.Name
		case "settings":
			w.Title = "Left out of the settings: " + it.Name
		case "post":
			title := it.Place
			if p := plan.Settings.PlaceNamed(it.Place); p != nil && p.Title != "" {
				title = p.Title
			}
			w.Title = title + " does not take the post"
			if it.Final {
				w.Acts = []string{"again", "done"}
			} else if t, err := time.Parse(time.RFC3339, it.Text); err == nil {
				w.Next = t
			}
		}
		out = append(out, w)
	}
	return append(out, unallowed(s)...)
}

// unallowed are the words that are read aloud once a member allows it.
func unallowed(s *house.State) (out []spec.Waiting) {
	for i := range s.Queue.Lines {
		if l := &s.Queue.Lines[i]; l.Unallowed() {
			out = append(out, spec.Waiting{Item: "allow/" + l.ID, Kind: "allow", Title: l.Name + ": to be read aloud", Why: l.Text, Since: l.Made, Count: 1, Name: l.Name, Account: cmp.Or(l.Asker, l.Person), Ends: l.Expires, Acts: []string{}})
		}
	}
	return out
}
