// Package tables are the rows of the database. GORM brings the tables up to date from them;
// what is written much is written with arrays, many rows a statement.
package tables

import (
	"encoding/json"
	"time"

	"gorm.io/gorm"
)

// Channel is one streamer's channel.
type Channel struct {
	ID      int64     `gorm:"primaryKey"`
	Name    string    `gorm:"uniqueIndex;not null"`
	Created time.Time `gorm:"not null;default:now()"`
	People  int64     `gorm:"not null;default:0"`     // highest number given out in the guest book
	Blanked int64     `gorm:"not null;default:0"`     // number up to which old chat was taken out of the log
	Booked  int64     `gorm:"not null;default:0"`     // number up to which the log stands in the guest book
	Guarded bool      `gorm:"not null;default:false"` // its list of hosts that may be reached holds
	Held    bool      `gorm:"not null;default:false"` // it was brought back from a backup, and holds still until the owner says go
}

// Event is a logged event. Data is its data as it came.
type Event struct {
	Channel int64           `gorm:"primaryKey;autoIncrement:false;uniqueIndex:events_key,priority:1"`
	Seq     int64           `gorm:"primaryKey;autoIncrement:false"`
	Door    string          `gorm:"not null;uniqueIndex:events_key,priority:2"`
	Source  string          `gorm:"not null;uniqueIndex:events_key,priority:3"`
	ID      string          `gorm:"column:id;not null;uniqueIndex:events_key,priority:4"`
	Type    string          `gorm:"not null"`
	Time    time.Time       `gorm:"not null"`
	Logged  time.Time       `gorm:"not null"`
	Ahead   bool            `gorm:"not null;default:false"`
	Person  string          `gorm:"not null;default:''"`
	Data    json.RawMessage `gorm:"type:json"`
	Ext     json.RawMessage `gorm:"type:json"` // further CloudEvents attributes, as they came
}

// Decision is one decision about an event: unique by event, courtesy and slot.
type Decision struct {
	Channel  int64           `gorm:"primaryKey;autoIncrement:false;uniqueIndex:decisions_slot,priority:1;index:decisions_person,priority:1;index:decisions_line,priority:1"`
	Seq      int64           `gorm:"primaryKey;autoIncrement:false;uniqueIndex:decisions_slot,priority:2;index:decisions_person,priority:3"`
	N        int             `gorm:"primaryKey;autoIncrement:false"`
	Kind     string          `gorm:"not null"`
	Courtesy string          `gorm:"not null;uniqueIndex:decisions_slot,priority:3"`
	Slot     string          `gorm:"not null;uniqueIndex:decisions_slot,priority:4"`
	Line     string          `gorm:"not null;index:decisions_line,priority:2"`
	Person   string          `gorm:"not null;index:decisions_person,priority:2"`
	Body     json.RawMessage `gorm:"type:json;not null"`
}

// Speech is a line that was decided to be said and whose outcome is not logged
// yet. What stands here when the house starts was cut off by a crash.
type Speech struct {
	Channel  int64  `gorm:"primaryKey;autoIncrement:false"`
	Line     string `gorm:"primaryKey"`
	Platform string `gorm:"primaryKey"`
	Seq      int64  `gorm:"not null"`
	Text     string `gorm:"not null"`
}

// TableName keeps the table's name in the singular: there is no plural of speech.
func (Speech) TableName() string { return "speech" }

// Snapshot is the house's state after an event.
type Snapshot struct {
	Channel int64           `gorm:"primaryKey;autoIncrement:false"`
	Seq     int64           `gorm:"primaryKey;autoIncrement:false"`
	State   json.RawMessage `gorm:"type:json;not null"`
	Taken   time.Time       `gorm:"not null"`
	Stream  int             `gorm:"not null;default:0"` // number of the stream it was taken in
}

// SettingsVersion is one version of the house file.
type SettingsVersion struct {
	Channel int64           `gorm:"primaryKey;autoIncrement:false"`
	Version int64           `gorm:"primaryKey;autoIncrement:false"`
	Base    int64           `gorm:"not null"`
	Member  string          `gorm:"not null;default:''"`
	Account string          `gorm:"not null;default:''"` // of whoever changed it in chat
	What    string          `gorm:"not null;default:''"`
	At      time.Time       `gorm:"not null"`
	Doc     json.RawMessage `gorm:"type:json;not null"`
}

// Draft is a courtesy as a member last typed it on the version Base of the settings, not
// yet in force.
type Draft struct {
	Channel  int64           `gorm:"primaryKey;autoIncrement:false"`
	Courtesy string          `gorm:"primaryKey"`
	Member   string          `gorm:"primaryKey"`
	Base     int64           `gorm:"not null;default:0"`
	At       time.Time       `gorm:"not null"`
	Doc      json.RawMessage `gorm:"type:json;not null"`
}

// Member is somebody who may sign in. Password is a bcrypt hash, "" for none.
type Member struct {
	ID       int64    `gorm:"primaryKey"`
	Channel  int64    `gorm:"not null;uniqueIndex:members_name,priority:1"`
	Name     string   `gorm:"not null;uniqueIndex:members_name,priority:2"`
	Role     string   `gorm:"not null"`
	Password string   `gorm:"not null;default:''"`
	Account  string   `gorm:"not null;default:''"`                             // key of the chat account they are known by
	Pegs     []string `gorm:"type:json;serializer:json;not null;default:'[]'"` // what they have to hand on a phone, in its order
}

// SignIn is a one-time link; Hash is the SHA-256 of its token.
type SignIn struct {
	Hash    string    `gorm:"primaryKey"`
	Member  int64     `gorm:"not null"`
	Expires time.Time `gorm:"not null"`
}

// Session is a signed-in browser; Hash is the SHA-256 of its cookie.
type Session struct {
	Hash    string    `gorm:"primaryKey"`
	Member  int64     `gorm:"not null"`
	Created time.Time `gorm:"not null"`
	Seen    time.Time `gorm:"not null"`
	CSRF    string    `gorm:"column:csrf;not null"`
	Browser string    `gorm:"not null;default:''"` // what it said of itself
}

// Medium is a file on the shelf. Type, size and length are what was read from it.
type Medium struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false"`
	Name    string    `gorm:"primaryKey"`
	Type    string    `gorm:"not null"`
	Kind    string    `gorm:"not null"`
	Bytes   int64     `gorm:"not null"`
	Width   int       `gorm:"not null;default:0"`
	Height  int       `gorm:"not null;default:0"`
	Seconds float64   `gorm:"not null;default:0"`
	At      time.Time `gorm:"not null"`
	Data    []byte    `gorm:"not null"`

	Measured bool    `gorm:"not null;default:false"` // how loud it is was looked at
	LUFS     float64 `gorm:"not null;default:0"`     // 0 for what is not to be heard, or could not be measured
	Peak     float64 `gorm:"not null;default:0"`     // true peak, in dBTP

	Away gorm.DeletedAt // when it was taken off the shelf; for a day it can be put back
}

// models are all tables that more than one part of the store knows.
var All = []any{&Channel{}, &Event{}, &Decision{}, &Speech{}, &Person{}, &Tally{}, &Turnout{}, &TurnoutMark{}, &Rank{}, &Ledger{}, &Account{}, &AccountLogin{}, &Stream{}, &Visit{}, &Raid{},
	&Support{}, &Spoken{}, &Find{}, &FindWord{}, &Crew{}, &BookChange{}, &SavedFilter{}, &PairRefusal{}, &Forgotten{}, &KeptLink{}, &Import{}, &ImportRow{}, &ImportKey{}, &Snapshot{}, &SettingsVersion{}, &Draft{}, &Member{}, &SignIn{}, &Session{}, &Medium{}}

// bookIndexes are the indexes, and what GORM's tags cannot say.
var Indexes = []string{
	"CREATE EXTENSION IF NOT EXISTS pg_trgm",
	"UPDATE channels c SET people = coalesce((SELECT max(id) FROM people p WHERE p.channel = c.id), 0) WHERE people = 0",
	"UPDATE people SET root = id WHERE root = 0",
	"UPDATE accounts SET home = person WHERE home = 0",
	"CREATE INDEX IF NOT EXISTS people_root ON people (channel, root)",
	"CREATE INDEX IF NOT EXISTS people_came_first ON people (channel, first_stream) WHERE root = id",
	"CREATE INDEX IF NOT EXISTS events_late ON events (channel, time) WHERE logged - time > interval '2 minutes'", // see log.Lately
	"CREATE INDEX IF NOT EXISTS people_by_name ON people (channel, sort_name COLLATE \"C\", id) WHERE listed",
	"CREATE INDEX IF NOT EXISTS people_by_seen ON people (channel, last_seen DESC NULLS LAST, id DESC) WHERE listed",
	"CREATE INDEX IF NOT EXISTS people_by_attended ON people (channel, attended DESC, id DESC) WHERE listed",
	"CREATE INDEX IF NOT EXISTS people_by_follow ON people (channel, followed, id) WHERE listed",
	"CREATE INDEX IF NOT EXISTS tallies_by_lines ON tallies (channel, lines DESC, person DESC)",
	"CREATE INDEX IF NOT EXISTS ranks_by_gathered ON ranks (channel, gathered DESC, person) WHERE NOT hidden",
	"CREATE INDEX IF NOT EXISTS ranks_by_season ON ranks (channel, season DESC, person) WHERE NOT hidden",
	"CREATE INDEX IF NOT EXISTS people_by_support ON people (channel, support DESC, id DESC) WHERE listed AND support > 0",
	"CREATE INDEX IF NOT EXISTS people_by_standing ON people (channel, standing, last_seen DESC NULLS LAST, id DESC) WHERE listed",
	"CREATE INDEX IF NOT EXISTS people_first ON people (channel, first_seen) WHERE listed",
	"CREATE INDEX IF NOT EXISTS people_first_stream ON people (channel, first_stream) WHERE listed",
	"CREATE INDEX IF NOT EXISTS people_birthday ON people (channel, birth_month, birth_day) WHERE listed AND birth_month > 0",
	"CREATE INDEX IF NOT EXISTS people_unthanked ON people (channel, last_seen DESC NULLS LAST) WHERE listed AND unthanked",
	"CREATE INDEX IF NOT EXISTS people_raids ON people (channel, raids_in DESC) WHERE listed AND raids_in + raids_out > 0",
	"CREATE INDEX IF NOT EXISTS people_regular_lost ON people (channel, regular_lost) WHERE listed AND regular_lost IS NOT NULL",
	"CREATE INDEX IF NOT EXISTS people_crews ON people USING gin (crews) WHERE listed AND crews <> '{}'",
	"CREATE INDEX IF NOT EXISTS people_tags ON people USING gin (tags) WHERE listed AND tags <> '{}'",
	"CREATE INDEX IF NOT EXISTS people_roles ON people USING gin (roles) WHERE listed AND roles <> '{}'",
	"CREATE INDEX IF NOT EXISTS decisions_touched ON decisions (channel, seq) WHERE kind = 'touched'",
	"CREATE INDEX IF NOT EXISTS decisions_drawn ON decisions (channel, split_part(line, '/', 1), seq) WHERE kind = 'draw'",
	"CREATE INDEX IF NOT EXISTS events_said ON events (channel, person, seq) WHERE type = 'porch.chat.said'",
	"CREATE INDEX IF NOT EXISTS events_marked ON events (channel, type, seq) WHERE type IN ('porch.bookmark.set', 'porch.note.left', 'porch.desk.done', 'porch.bookmark.labelled')",
	"CREATE INDEX IF NOT EXISTS events_logged ON events USING brin (logged)",
	"CREATE INDEX IF NOT EXISTS events_other ON events (channel, seq) WHERE type = 'porch.other'",
	"CREATE INDEX IF NOT EXISTS accounts_login ON accounts (channel, lower(login) COLLATE \"C\")",
	"CREATE INDEX IF NOT EXISTS finds_text ON finds USING gin (text gin_trgm_ops)",
}

// Short names a session without giving its hash away.
func (s *Session) Short() string { return s.Hash[:min(16, len(s.Hash))] }
