package housefile

import (
	"bytes"
	"cmp"
	"encoding/json"
	"slices"

	"vividporch/core/happening"
	"vividporch/core/plain"
	"vividporch/core/profile"
	"vividporch/core/who"
)

// Format is the format of the house files that this house writes. It reads older ones, too.
// In format 1 a command answered the people of its who and nobody else, unless "staff" let
// moderators and the streamer in. Up to format 2 each door held what it knew of its platform.
const Format = 3

// ReadsFormats is the remedy for a file of another format.
const ReadsFormats = "this house reads formats 1 to 3"

// Lift makes a house file of an older format one of the newest; what is no house file
// stays as it is, for whoever reads it to refuse.
func Lift(raw []byte) []byte {
	var head struct {
		Format int `json:"format"`
	}
	if json.Unmarshal(raw, &head) != nil || head.Format < 1 || head.Format >= Format {
		return raw
	}
	var doc map[string]json.RawMessage
	if json.Unmarshal(raw, &doc) != nil {
		return raw
	}
	lift(doc, head.Format)
	doc["format"], _ = json.Marshal(Format)
	out, err := json.Marshal(doc)
	if err != nil {
		return raw
	}
	return out
}

// lift lifts the sections of a file of some format.
func lift(doc map[string]json.RawMessage, format int) {
	if format < 2 {
		liftCommands(doc)
	}
	if format < 3 {
		liftDoors(doc)
	}
}

func liftCommands(doc map[string]json.RawMessage) {
	dec := json.NewDecoder(bytes.NewReader(doc["courtesies"]))
	dec.UseNumber()
	var list []map[string]any
	if dec.Decode(&list) != nil {
		return
	}
	for _, c := range list {
		if c["when"] != happening.Command {
			continue
		}
		staff, said := c["staff"].(bool)
		if said {
			delete(c, "staff")
		}
		if !staff && narrowsPeople(c["who"]) {
			c["only"] = true
		}
	}
	if out, err := json.Marshal(list); err == nil {
		doc["courtesies"] = out
	}
}

// oldDoor is what a door held of its platform.
type oldDoor struct {
	Kind     string            `json:"kind"`
	Platform string            `json:"platform"`
	As       string            `json:"as"`
	Lookup   string            `json:"lookup"`
	Acts     string            `json:"acts"`
	Cannot   map[string]string `json:"cannot"`
	Profile  struct {
		profile.Chat
		Link string `json:"link"`
	} `json:"profile"`
}

// liftDoors makes what doors held of their platforms a profile each: of the chat what the house's
// own door there held, of all else what the first door says. It is carried even where one
// ships, so that nothing changes for the house; a platform of which only happenings came
// in, and which nothing was known of, needs none.
func liftDoors(doc map[string]json.RawMessage) {
	var olds []oldDoor
	var list []map[string]json.RawMessage
	if json.Unmarshal(doc["doors"], &olds) != nil || json.Unmarshal(doc["doors"], &list) != nil {
		return
	}
	var profiles []*profile.Profile
	chat := map[string]bool{}
	for i, old := range olds {
		for _, key := range []string{"lookup", "acts", "cannot", "profile"} {
			delete(list[i], key)
		}
		if old.Platform == "" {
			continue
		}
		at := slices.IndexFunc(profiles, func(p *profile.Profile) bool { return p.Platform == old.Platform })
		if at < 0 {
			at = len(profiles)
			profiles = append(profiles, &profile.Profile{Format: profile.Format, Platform: old.Platform, Title: plain.Titled(old.Platform)})
		}
		p := profiles[at]
		if own := old.Kind == "irc" && old.As == ""; own && !chat[old.Platform] {
			p.Chat, chat[old.Platform] = old.Profile.Chat, true
		}
		p.Link = cmp.Or(p.Link, old.Profile.Link)
		p.Acts.Address = cmp.Or(p.Acts.Address, old.Acts)
		if len(p.Acts.Cannot) == 0 {
			p.Acts.Cannot = old.Cannot
		}
		if p.Lookup == nil && old.Lookup != "" {
			p.Lookup = &profile.Lookup{Address: old.Lookup + "?id={id}&login={login}"}
		}
	}
	profiles = slices.DeleteFunc(profiles, func(p *profile.Profile) bool {
		return !chat[p.Platform] && p.Link == "" && p.Acts.Address == "" && len(p.Acts.Cannot) == 0 && p.Lookup == nil
	})
	doors, err := json.Marshal(list)
	if err != nil {
		return
	}
	doc["doors"] = doors
	if raw, err := json.Marshal(profiles); err == nil && len(profiles) > 0 {
		doc["profiles"] = raw
	}
}

// narrowsPeople reports whether the who of a document leaves anybody out.
func narrowsPeople(doc any) bool {
	raw, err := json.Marshal(doc)
	if err != nil {
		return false
	}
	var w who.Who
	return json.Unmarshal(raw, &w) == nil && w.AboutPeople()
}
