package main

import (
	"cmp"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"time"
	"unicode"

	"github.com/invopop/jsonschema"
	"github.com/spf13/cobra"

	"vividporch/core/box"
	"vividporch/core/carry"
	"vividporch/core/fitting"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/profile"
	"vividporch/core/reading"
	"vividporch/core/trouble"
)

// schemaCommand writes the published JSON Schemas from the Go types.
func schemaCommand() *cobra.Command {
	return &cobra.Command{Use: "schema DIR", Short: "Write the JSON Schemas of events and of the house file", Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			for name, s := range map[string]any{"events.schema.json": eventSchema(), "house.schema.json": houseSchema(), "profile.schema.json": profileSchema(), "fitting.schema.json": fittingSchema(), "reading.schema.json": readingSchema()} {
				raw, err := json.MarshalIndent(s, "", "  ")
				if err != nil {
					return err
				}
				if err := os.WriteFile(filepath.Join(args[0], name), append(raw, '\n'), 0o644); err != nil {
					return fmt.Errorf("the schema cannot be written: %w", err)
				}
			}
			return os.WriteFile(filepath.Join(args[0], "happenings.md"), []byte(happeningsTable()), 0o644)
		}}
}

// happeningsTable is the table of everything that can happen, for people who read.
func happeningsTable() string {
	var b strings.Builder
	b.WriteString("# Everything that can happen\n\nMade from the catalogue of happenings. What has no type is something the house sees in a line of chat, or a member asks for.\n\n" +
		"| type | what it is | a courtesy can fill | numbers | texts it can ask for | fill-ins it brings |\n|---|---|---|---|---|---|\n")
	for _, h := range happening.Catalogue {
		kind, slots, brings := "`"+h.Type+"`", []string{}, []string{}
		if h.Data == nil {
			kind = "(" + h.Type + ")"
		}
		for _, s := range h.Slots {
			slots = append(slots, cmp.Or(string(s), "no slot"))
		}
		for _, f := range h.FillIns {
			brings = append(brings, "`{"+f.Name+"}`")
		}
		fmt.Fprintf(&b, "| %s | %s | %s | %s | %s | %s |\n", kind, h.Words, strings.Join(slots, ", "), strings.Join(h.NumberNames(), ", "), strings.Join(h.TextNames(), ", "), strings.Join(brings, " "))
	}
	return b.String()
}

// houseSchema holds for whole house files and for parts: a part says on which channel
// it was made and leaves out what it does not hold.
func houseSchema() *jsonschema.Schema {
	r := &jsonschema.Reflector{AllowAdditionalProperties: false, Namer: schemaName}
	s := r.Reflect(&carry.File{})
	s.Title = fmt.Sprintf("Vivid Porch house file, format %d", housefile.Format)
	file := s.Definitions["File"]
	file.AnyOf = []*jsonschema.Schema{{Required: file.Required}, {Required: []string{"format", "madeOn"}}}
	file.Required = nil
	when, _ := s.Definitions["Courtesy"].Properties.Get("when")
	for _, w := range happening.Whens() {
		when.Enum = append(when.Enum, w.Type)
	}
	of, _ := s.Definitions["Measure"].Properties.Get("of")
	for _, name := range happening.Measures() {
		of.Enum = append(of.Enum, name)
	}
	outputs, names := kindsOf(output.Catalogue, func(s output.Spec) (string, any) { d := s.New(); return string(d.Kind()), d })
	flatSchema(r, s.Definitions["Output"], outputs, names)
	boxes, names := kindsOf(box.Catalogue, func(s box.Spec) (string, any) { d := s.New(); return string(d.Kind()), d })
	flatSchema(r, s.Definitions["Box"], boxes, names)
	rules, names := kindsOf(trouble.Catalogue, func(s trouble.Spec) (string, any) { d := s.New(); return string(d.Kind()), d })
	flatSchema(r, s.Definitions["Rule"], rules, names)
	days, _ := s.Definitions["Who"].Properties.Get("days")
	days.Items.Pattern = "^(" + strings.Join(anyCase(time.Monday, time.Tuesday, time.Wednesday, time.Thursday, time.Friday, time.Saturday, time.Sunday), "|") + ")$"
	return s
}

// flatSchema adds what the kinds of something have of their own: it is one flat object, with the names of
// its kinds beside their settings.
func flatSchema(r *jsonschema.Reflector, flat *jsonschema.Schema, kinds map[string]any, names []string) {
	kind := &jsonschema.Schema{Type: "string"}
	flat.Properties.Set("kind", kind)
	flat.Required = append(flat.Required, "kind")
	for _, name := range names {
		kind.Enum = append(kind.Enum, name)
		own := *r
		own.DoNotReference, own.ExpandedStruct = true, true
		for p := own.Reflect(kinds[name]).Properties.Oldest(); p != nil; p = p.Next() {
			if was, there := flat.Properties.Get(p.Key); there {
				widen(p.Value, was)
			}
			flat.Properties.Set(p.Key, p.Value)
		}
	}
}

// widen lets a field take what the one of the same name of another kind takes, too.
func widen(s, was *jsonschema.Schema) {
	if len(s.Enum) == 0 || len(was.Enum) == 0 {
		s.Enum = nil
	}
	for _, v := range was.Enum {
		if len(s.Enum) > 0 && !slices.Contains(s.Enum, v) {
			s.Enum = append(s.Enum, v)
		}
	}
	more := func(a, b json.Number, sign float64) json.Number {
		x, errA := a.Float64()
		y, errB := b.Float64()
		switch {
		case errA != nil || errB != nil:
			return "" // one of them has no bound
		case sign*y > sign*x:
			return b
		}
		return a
	}
	s.Maximum, s.Minimum = more(s.Maximum, was.Maximum, 1), more(s.Minimum, was.Minimum, -1)
}

// kindsOf are the settings of each kind, empty, and the names of the kinds in their order.
func kindsOf[S any](list []S, of func(S) (name string, does any)) (kinds map[string]any, names []string) {
	kinds = map[string]any{}
	for _, s := range list {
		name, does := of(s)
		kinds[name], names = does, append(names, name)
	}
	return kinds, names
}

// anyCase are patterns of weekdays in any case, which a pattern of JSON Schema says
// letter by letter.
func anyCase(days ...time.Weekday) (out []string) {
	for _, d := range days {
		var b strings.Builder
		for _, r := range d.String() {
			fmt.Fprintf(&b, "[%c%c]", unicode.ToUpper(r), unicode.ToLower(r))
		}
		out = append(out, b.String())
	}
	return out
}

// eventSchema has one definition a type, under the type's name.
func eventSchema() map[string]any {
	outside, own := happening.Kinds.Types()
	defs := map[string]any{}
	for _, kind := range append(outside, own...) {
		r := &jsonschema.Reflector{AllowAdditionalProperties: true, DoNotReference: true}
		s := r.Reflect(happening.Kinds.Fresh(kind))
		s.Version = ""
		defs[kind] = s
	}
	return map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Vivid Porch events: the data of each CloudEvents type",
		"description": "Types that start with porch.desk, porch.door, porch.house, porch.lookup, porch.relay, porch.settings and porch.speech are logged by the house itself and refused from outside.",
		"$defs":       defs}
}

// profileSchema is that of a platform's profile.
func profileSchema() *jsonschema.Schema {
	r := &jsonschema.Reflector{AllowAdditionalProperties: false}
	s := r.Reflect(&profile.Profile{})
	s.Title = fmt.Sprintf("Vivid Porch platform profile, format %d", profile.Format)
	return s
}

// schemaName tells a fitting's profile apart from a platform's, and its parts.
func schemaName(t reflect.Type) string {
	if t.PkgPath() == reflect.TypeFor[fitting.Profile]().PkgPath() {
		return "Fitting" + t.Name()
	}
	return t.Name()
}

// fittingSchema is that of a fitting's profile.
func fittingSchema() *jsonschema.Schema {
	r := &jsonschema.Reflector{AllowAdditionalProperties: false}
	s := r.Reflect(&fitting.Profile{})
	s.Title = fmt.Sprintf("Vivid Porch fitting profile, format %d", fitting.Format)
	return s
}

// readingSchema is that of the readings' file.
func readingSchema() *jsonschema.Schema {
	r := &jsonschema.Reflector{AllowAdditionalProperties: false}
	s := r.Reflect(&reading.File{})
	s.Title = fmt.Sprintf("Vivid Porch readings, format %d", reading.Format)
	return s
}
