package tables

import (
	"database/sql/driver"
	"encoding/json"
	"time"

	"github.com/jackc/pgx/v5/pgtype"
)

// Texts is a list of texts in one column.
type Texts []string

// GormDataType names the column's type.
func (Texts) GormDataType() string { return "text[]" }

// Scan reads the column.
func (t *Texts) Scan(v any) error { return pgtype.NewMap().SQLScanner((*[]string)(t)).Scan(v) }

// Value writes it.
func (t Texts) Value() (driver.Value, error) {
	buf, err := pgtype.NewMap().Encode(pgtype.TextArrayOID, pgtype.TextFormatCode, []string(t), nil)
	return string(buf), err
}

// Person is a record of the guest book. What they did stands with their accounts;
// Hand is what was set by hand on this very record. When records are merged, Into
// points to the one it was merged into and Root to the one they are all found
// under; nothing else is moved, so that they can be parted again.
//
// The fields from Listed on are worked out from accounts, visits and hands (see
// refresh) and stand on the record a person is found under.
type Person struct {
	Channel int64           `gorm:"primaryKey;autoIncrement:false"`
	ID      int64           `gorm:"primaryKey;autoIncrement:false"`
	Root    int64           `gorm:"not null;default:0"`
	Into    int64           `gorm:"column:merged_into;not null;default:0"`
	Hand    json.RawMessage `gorm:"type:json;not null;default:'{}'"`
	Created time.Time       `gorm:"not null"`
	Import  int64           `gorm:"not null;default:0"` // that made it; 0 for none

	Listed       bool   `gorm:"not null;default:false"` // stands in the book
	Name         string `gorm:"not null;default:''"`    // of the account that was heard of last
	SortName     string `gorm:"not null;default:''"`
	SayAs        string `gorm:"not null;default:''"`
	Pronouns     string `gorm:"not null;default:''"`
	Zone         string `gorm:"not null;default:''"`
	LeaveBe      bool   `gorm:"not null;default:false"`
	HideDay      bool   `gorm:"not null;default:false"` // nobody is told of their birthday
	Trusted      bool   `gorm:"not null;default:false"`
	Fellow       bool   `gorm:"not null;default:false"`
	BirthMonth   int    `gorm:"not null;default:0"`
	BirthDay     int    `gorm:"not null;default:0"`
	BirthYear    int    `gorm:"not null;default:0"`
	Tags         Texts  `gorm:"not null;default:'{}'"`
	Crews        Texts  `gorm:"not null;default:'{}'"`
	Roles        Texts  `gorm:"not null;default:'{}'"` // as told, and by hand
	HandRoles    Texts  `gorm:"not null;default:'{}'"`
	Platforms    Texts  `gorm:"not null;default:'{}'"`
	FirstSeen    *time.Time
	LastSeen     *time.Time // the last visit's first moment, or the last word of an account without one
	Attended     int        `gorm:"not null;default:0"`
	MaskAt       int        `gorm:"not null;default:0"` // attendance.Mask
	MaskBits     int64      `gorm:"not null;default:0"`
	FirstStream  int        `gorm:"not null;default:0"`
	SecondStream int        `gorm:"not null;default:0"`
	Standing     string     `gorm:"not null;default:'newcomer'"`
	RegularSince *time.Time // when they last qualified
	RegularLost  *time.Time // when they last stopped to
	Followed     *time.Time
	RaidsIn      int   `gorm:"not null;default:0"`
	RaidsOut     int   `gorm:"not null;default:0"`
	Unthanked    bool  `gorm:"not null;default:false"`
	WithRaid     int64 `gorm:"not null;default:0"` // number of the raid they came with
	Support      int64 `gorm:"not null;default:0"` // how many times they gave something; amounts of several kinds and currencies have no sum
}

// Tally is how many lines a person said, over all accounts. It stands beside the person's row,
// which it would otherwise move, with every index on it, at nearly every line.
type Tally struct {
	Channel int64 `gorm:"primaryKey;autoIncrement:false"`
	Person  int64 `gorm:"primaryKey;autoIncrement:false"`
	Lines   int64 `gorm:"not null;default:0"`
}

// Turnout is what was counted of a stream.
type Turnout struct {
	Channel int64           `gorm:"primaryKey;autoIncrement:false"`
	Stream  int             `gorm:"primaryKey;autoIncrement:false"`
	Doc     json.RawMessage `gorm:"type:json;not null"`
}

// TurnoutMark says that something changed of a stream since it was counted. Marks are only put down, by whoever changes it
// and with the change, so that nobody waits for anybody; who counts takes away those that were seen in counting.
type TurnoutMark struct {
	ID      int64 `gorm:"primaryKey"`
	Channel int64 `gorm:"not null;index:turnout_marks_stream"`
	Stream  int   `gorm:"not null;index:turnout_marks_stream"`
}

// Rank is what a person has of points, and gathered, over all accounts: worked out of what is kept of these.
type Rank struct {
	Channel  int64 `gorm:"primaryKey;autoIncrement:false"`
	Person   int64 `gorm:"primaryKey;autoIncrement:false"`
	Has      int64 `gorm:"not null;default:0"`
	Gathered int64 `gorm:"not null;default:0"`
	Season   int64 `gorm:"not null;default:0"`
	Hidden   bool  `gorm:"not null;default:false"`
}

// Ledger is an entry of the ledger of points, as it was decided: N is the decision's place in its event.
type Ledger struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false;index:ledger_key,priority:1"`
	Seq     int64     `gorm:"primaryKey;autoIncrement:false;index:ledger_key,priority:3"`
	N       int       `gorm:"primaryKey;autoIncrement:false"`
	Key     string    `gorm:"primaryKey;index:ledger_key,priority:2"`
	Amount  int64     `gorm:"not null"`
	Why     string    `gorm:"not null"`
	Of      string    `gorm:"not null;default:''"`
	At      time.Time `gorm:"not null"`
}

// TableName keeps the table's name in the singular: there is one.
func (Ledger) TableName() string { return "ledger" }

// Account is one account of a person on a platform. Person is the record it is
// found under, Home the one it belongs to. An id that starts with an at-sign is
// provisional: only the login is known, until the platform tells who has it.
type Account struct {
	Channel   int64     `gorm:"primaryKey;autoIncrement:false;index:accounts_person,priority:1"`
	Key       string    `gorm:"primaryKey"`
	Person    int64     `gorm:"not null;index:accounts_person,priority:2"`
	Home      int64     `gorm:"not null;default:0"`
	Platform  string    `gorm:"not null"`
	ID        string    `gorm:"column:id;not null"`
	Login     string    `gorm:"not null"`
	Name      string    `gorm:"not null"`
	Roles     string    `gorm:"not null;default:''"`
	Nick      bool      `gorm:"not null;default:false"`        // known by nick only, when it was last told of
	Told      time.Time `gorm:"not null;default:'1970-01-01'"` // when login, name and roles were last told
	FirstSeen time.Time `gorm:"not null"`
	LastSeen  time.Time `gorm:"not null"`
	Lines     int64     `gorm:"not null;default:0"`
	Followed  *time.Time
	Fetched   json.RawMessage `gorm:"type:json"`           // people.Fetched
	Claimed   string          `gorm:"not null;default:''"` // of a provisional account: the key it turned out to be
	Kept      json.RawMessage `gorm:"type:json"`           // by rooms of the house, by their names
	Import    int64           `gorm:"not null;default:0"`
}

// AccountLogin is a login and name an account had, and between which moments it was
// seen under them.
type AccountLogin struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false"`
	Key     string    `gorm:"primaryKey"`
	Login   string    `gorm:"primaryKey"`
	Name    string    `gorm:"primaryKey"`
	First   time.Time `gorm:"not null"`
	Last    time.Time `gorm:"not null"`
	Import  int64     `gorm:"not null;default:0"`
}

// Stream is one live period.
type Stream struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false"`
	Number  int       `gorm:"primaryKey;autoIncrement:false"`
	Opened  time.Time `gorm:"not null"`
	Closed  *time.Time
	Title   string `gorm:"not null;default:''"`
	Import  int64  `gorm:"not null;default:0"`
}

// Visit is an account at a stream.
type Visit struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false;index:visits_stream,priority:1"`
	Key     string    `gorm:"primaryKey"`
	Stream  int       `gorm:"primaryKey;autoIncrement:false;index:visits_stream,priority:2"`
	Lines   int64     `gorm:"not null;default:0"`
	First   time.Time `gorm:"not null"`
	Last    time.Time `gorm:"not null"`
	Import  int64     `gorm:"not null;default:0"`
}

// Raid is a raid that came or went. Raids of imports have numbers below 0.
type Raid struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false;index:raids_key,priority:1;index:raids_at,priority:1"`
	Seq     int64     `gorm:"primaryKey;autoIncrement:false"`
	Key     string    `gorm:"not null;index:raids_key,priority:2"`
	Stream  int       `gorm:"not null"`
	Way     string    `gorm:"not null"` // "came" or "went"
	Viewers int64     `gorm:"not null"`
	At      time.Time `gorm:"not null;index:raids_at,priority:2"`
	Thanked bool      `gorm:"not null;default:false"`
	Import  int64     `gorm:"not null;default:0"`
}

// Support is something somebody gave.
type Support struct {
	Channel  int64     `gorm:"primaryKey;autoIncrement:false;index:supports_key,priority:1"`
	Seq      int64     `gorm:"primaryKey;autoIncrement:false"`
	Key      string    `gorm:"not null;index:supports_key,priority:2"`
	Stream   int       `gorm:"not null"`
	Kind     string    `gorm:"not null"` // "subscribed", "gifted", "tipped", "credits", "shop"
	Amount   string    `gorm:"type:numeric;not null;default:0"`
	Currency string    `gorm:"not null;default:''"` // ISO 4217
	Count    int64     `gorm:"not null;default:1"`
	What     string    `gorm:"not null;default:''"` // tier or item
	At       time.Time `gorm:"not null"`
}

// Spoken is a line the house said to or about an account.
type Spoken struct {
	Channel  int64     `gorm:"primaryKey;autoIncrement:false"`
	Key      string    `gorm:"primaryKey"`
	Seq      int64     `gorm:"primaryKey;autoIncrement:false"`
	Line     string    `gorm:"primaryKey"`
	Courtesy string    `gorm:"not null"`
	Text     string    `gorm:"not null"`
	At       time.Time `gorm:"not null"`
}

// TableName keeps it in the singular.
func (Spoken) TableName() string { return "spoken" }

// Find is what a person can be found by: names, logins, earlier ones, tags and
// notes, folded to lower case without accents.
type Find struct {
	Channel int64  `gorm:"primaryKey;autoIncrement:false"`
	Person  int64  `gorm:"primaryKey;autoIncrement:false"`
	Text    string `gorm:"not null"`
}

// FindWord is a word that begins something a person can be found by.
type FindWord struct {
	Channel int64  `gorm:"primaryKey;autoIncrement:false"`
	Word    string `gorm:"primaryKey;type:text COLLATE \"C\""`
	Person  int64  `gorm:"primaryKey;autoIncrement:false;index:find_words_person"`
}

// Crew is a named group of fellow streamers. Who is in it stands with the people.
type Crew struct {
	Channel  int64     `gorm:"primaryKey;autoIncrement:false"`
	ID       string    `gorm:"column:id;primaryKey"`
	Name     string    `gorm:"not null"`
	Emblem   string    `gorm:"not null"`
	Initials string    `gorm:"not null"`
	Created  time.Time `gorm:"not null"`
}

// BookChange is an edit of one record, with the edit that takes it back.
type BookChange struct {
	Channel int64           `gorm:"primaryKey;autoIncrement:false;index:book_changes_person,priority:1"`
	Seq     int64           `gorm:"primaryKey;autoIncrement:false"`
	Person  int64           `gorm:"primaryKey;autoIncrement:false;index:book_changes_person,priority:2"`
	Edit    json.RawMessage `gorm:"type:json;not null"`
	Back    json.RawMessage `gorm:"type:json;not null"`
	Member  string          `gorm:"not null;default:''"`
	At      time.Time       `gorm:"not null"`
	Undone  bool            `gorm:"not null;default:false"`
}

// SavedFilter is a filter of the guest book with a name.
type SavedFilter struct {
	Channel int64           `gorm:"primaryKey;autoIncrement:false"`
	Name    string          `gorm:"primaryKey"`
	Doc     json.RawMessage `gorm:"type:json;not null"`
}

// PairRefusal says that two records are not the same person. A is below B.
type PairRefusal struct {
	Channel int64 `gorm:"primaryKey;autoIncrement:false"`
	A       int64 `gorm:"primaryKey;autoIncrement:false"`
	B       int64 `gorm:"primaryKey;autoIncrement:false"`
}

// Forgotten marks an account that is not to be recorded, by the SHA-256 of its key.
type Forgotten struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false"`
	Hash    string    `gorm:"primaryKey"`
	At      time.Time `gorm:"not null"`
}

// TableName keeps it as it is.
func (Forgotten) TableName() string { return "forgotten" }

// KeptLink is a one-time link to what is kept about a person, by the SHA-256 of its
// token.
type KeptLink struct {
	Hash    string    `gorm:"primaryKey"`
	Channel int64     `gorm:"not null"`
	Person  int64     `gorm:"not null"`
	Expires time.Time `gorm:"not null"`
}

// Import is a file that was brought in, from its preview on. State is "read",
// "applied", "undone" or "dropped".
type Import struct {
	ID      int64           `gorm:"primaryKey"`
	Channel int64           `gorm:"not null;index"`
	Member  string          `gorm:"not null"`
	File    string          `gorm:"not null"`
	State   string          `gorm:"not null"`
	Created time.Time       `gorm:"not null;default:now()"`
	Applied *time.Time      //
	Counts  json.RawMessage `gorm:"type:json;not null;default:'{}'"` // ImportCounts
	Head    json.RawMessage `gorm:"type:json;not null;default:'{}'"` // Head: what it would add besides people
}

// ImportRow is one row of a file, as understood.
type ImportRow struct {
	Import  int64           `gorm:"primaryKey;autoIncrement:false;index:import_rows_verdict,priority:1"`
	Row     int             `gorm:"primaryKey;autoIncrement:false;index:import_rows_verdict,priority:3"`
	Verdict string          `gorm:"not null;index:import_rows_verdict,priority:2"` // "new", "changed", "unchanged", "refused"
	Name    string          `gorm:"not null;default:''"`
	Why     string          `gorm:"not null;default:''"`
	Card    json.RawMessage `gorm:"type:json"` // people.Card
	Changes json.RawMessage `gorm:"type:json"` // []people.Change
	Person  int64           `gorm:"not null;default:0"`
	Back    json.RawMessage `gorm:"type:json"` // what undoes it
}

// ImportKey is an account a file names, and in which row first.
type ImportKey struct {
	Import int64  `gorm:"primaryKey;autoIncrement:false"`
	Key    string `gorm:"primaryKey"`
	Row    int    `gorm:"not null"`
}
