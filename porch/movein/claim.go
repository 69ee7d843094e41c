package movein

import (
	"context"
	"crypto/rand"
	"math/big"
	"slices"
	"strings"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/plain"
	"vividporch/core/profile"
)

// ClaimFor is how long a phrase is good.
const ClaimFor = 10 * time.Minute

// The states of a claim.
const (
	ClaimWaiting = "waiting" // for a line with the phrase
	ClaimLate    = "late"    // nobody said it in time
	ClaimRefused = "refused" // it was said, and the account could not be linked
	ClaimLinked  = "linked"
)

// Claim is a member's word that an account in chat is theirs, until a line of that account with
// the phrase proves it.
type Claim struct {
	Platform, Login string
	Phrase          string
	Until           time.Time
	Streamer        bool // the account is to be the streamer's
	State           string
	Told            string // what was heard last, in words
	Account         string // that was linked
}

// Claims are the claims of all members: one each, the last one made. They are kept in memory; a
// restart ends them. The zero Claims is ready, with Link set.
type Claims struct {
	// Link links a member to an account of the guest book.
	Link func(ctx context.Context, by string, member int64, account string) error

	mu sync.Mutex
	of map[int64]*claim
}

type claim struct {
	Claim
	by string // the member's name
}

// Begin begins a member's claim on a login; one that they made before ends.
func (c *Claims) Begin(member int64, by, platform, login string, streamer bool, now time.Time) (Claim, error) {
	login = strings.TrimPrefix(strings.TrimSpace(login), "@")
	switch {
	case login == "" || len(login) > 60 || strings.ContainsAny(login, " \t"):
		return Claim{}, &event.FieldError{Field: "login", Remedy: "write the login as it stands in chat, one word"}
	case platform == "":
		return Claim{}, &event.FieldError{Field: "platform", Remedy: "say which platform it is on"}
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.of == nil {
		c.of = map[int64]*claim{}
	}
	made := &claim{Claim{Platform: platform, Login: login, Phrase: phrase(), Until: now.Add(ClaimFor), Streamer: streamer, State: ClaimWaiting}, by}
	c.of[member] = made
	return made.Claim, nil
}

// Of is a member's claim as it stands; ok is false where they made none.
func (c *Claims) Of(member int64, now time.Time) (made Claim, ok bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	x := c.of[member]
	if x == nil {
		return made, false
	}
	x.expire(now)
	return x.Claim, true
}

func (x *claim) expire(now time.Time) {
	if x.State == ClaimWaiting && !now.Before(x.Until) {
		x.State = ClaimLate
	}
}

// Drop ends a member's claim.
func (c *Claims) Drop(member int64) {
	c.mu.Lock()
	defer c.mu.Unlock()
	delete(c.of, member)
}

// Wants reports whether a line holds the phrase of any claim. It is asked of every line.
func (c *Claims) Wants(text string) bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	for _, x := range c.of {
		if x.holds(text) {
			return true
		}
	}
	return false
}

func (x *claim) holds(text string) bool {
	return strings.Contains(strings.ToLower(strings.Join(strings.Fields(text), " ")), x.Phrase)
}

// Heard takes a line that came in at a chat door and stands in the log. Only one of the login that
// was named counts, within the time, and where the platform tells roles, only the streamer's.
func (c *Claims) Heard(ctx context.Context, chat *profile.Chat, said *happening.ChatSaid, now time.Time) {
	for member, x := range c.proven(chat, said, now) {
		err := c.Link(ctx, x.by, member, said.Person.Key())
		c.mu.Lock()
		if err != nil {
			x.State, x.Told = ClaimRefused, err.Error()
		} else {
			x.State, x.Account, x.Told = ClaimLinked, said.Person.Key(), plain.Name(said.Person.Shown())+" said it"
		}
		c.mu.Unlock()
	}
}

// proven are the claims that a line proves, by member; each only once.
func (c *Claims) proven(chat *profile.Chat, said *happening.ChatSaid, now time.Time) map[int64]*claim {
	c.mu.Lock()
	defer c.mu.Unlock()
	out := map[int64]*claim{}
	for member, x := range c.of {
		x.expire(now)
		who := &said.Person
		switch {
		case x.State != ClaimWaiting && x.State != ClaimLate || !x.holds(said.Text):
		case who.Platform != x.Platform || !strings.EqualFold(who.Login, x.Login):
			x.Told = plain.Name(who.Shown()) + " said the phrase; only a line of " + x.Login + " counts"
		case x.State == ClaimLate:
			x.Told = "the phrase was said after its ten minutes; take a new one"
		case x.Streamer && chat.RolesTag != "" && !slices.Contains(who.Roles, event.Streamer):
			x.Told = plain.Name(who.Shown()) + " said the phrase, and is not the streamer there: " + plain.Titled(who.Platform) + " tells who is"
		default:
			x.State = ClaimRefused // until it is linked: a second line changes nothing
			out[member] = x
		}
	}
	return out
}

// words make phrases: short, plain, and hard to mishear or mistype.
var words = strings.Fields(`amber apple april autumn barley basket beacon birch blanket bridge button candle cedar cherry chimney
clover copper cotton cradle cricket daisy dapple drizzle ember engine feather fiddle flannel forest garden ginger hammer harvest
hazel honey island jacket juniper kettle ladder lemon linen maple marble meadow mirror morning needle olive orchard paddle pepper
pocket puddle ribbon saddle silver summer thimble thunder velvet walnut willow winter`)

// phraseWords is how many words a phrase has: 23 bits of chance at least, for one login and ten
// minutes.
const phraseWords = 4

func phrase() string {
	out := make([]string, phraseWords)
	for i := range out {
		n, err := rand.Int(rand.Reader, big.NewInt(int64(len(words))))
		if err != nil {
			panic("movein: no chance to be had: " + err.Error()) // crypto/rand never fails
		}
		out[i] = words[n.Int64()]
	}
	return strings.Join(out, " ")
}
