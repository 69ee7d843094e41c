package housefile

import (
	"bytes"
	"encoding/json"

	"vividporch/core/happening"
	"vividporch/core/who"
)

// Format is the format of the house files that this house writes. It reads those of
// format 1, too: there a command answered the people of its who and nobody else, unless
// "staff" let moderators and the streamer in.
const Format = 2

// readsFormats is the remedy for a file of another format.
const readsFormats = "this house reads formats 1 and 2"

// Lift makes a house file of an older format one of the newest; what is no house file
// stays as it is, for whoever reads it to refuse.
func Lift(raw []byte) []byte {
	var head struct {
		Format int `json:"format"`
	}
	if json.Unmarshal(raw, &head) != nil || head.Format != 1 {
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
	if format >= 2 {
		return
	}
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

// narrowsPeople reports whether the who of a document leaves anybody out.
func narrowsPeople(doc any) bool {
	raw, err := json.Marshal(doc)
	if err != nil {
		return false
	}
	var w who.Who
	return json.Unmarshal(raw, &w) == nil && w.AboutPeople()
}
