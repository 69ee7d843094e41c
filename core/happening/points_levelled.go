package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
)

// LevelReached: somebody reached a level.
type LevelReached struct {
	by
	Level int64  `json:"level"`
	Title string `json:"title,omitempty"` // what it is called
}

// LevelReachedType is the type of it.
const LevelReachedType = "porch.points.levelled"

func (*LevelReached) Type() string { return LevelReachedType }

var levelReached = &Happening{Data: func() event.Data { return &LevelReached{} }, Within: true, Roomed: true, Words: "a level that is reached", Verb: "Tell of ", Slots: []Slot{Free}, Reason: "somebody reached a level",
	Starters: []string{"{name} is {hasTitle, select, yes {{title} now} other {at level {level}}}!", "Up the shore goes {name}: {hasTitle, select, yes {{title}} other {level {level}}}.", "{hasTitle, select, yes {{title}} other {Level {level}}} for {name}. Well kept!"},
	Together: []string{"Further up the shore: {names}{more, plural, =0 {} other { and # more}}."},
	Told:     "{name} reached level {level}", Numbers: []Number{Whole("level", func(d *LevelReached) int64 { return d.Level })},
	FillIns: []FillIn{Count("level", "the level", "7", func(d *LevelReached) int64 { return d.Level }), Says("title", "what it is called", "Periwinkle", func(d *LevelReached) string { return plain.Text(d.Title) })}}
