package draw

import (
	"crypto/sha256"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/lots"
)

// Made is what the edge tells of a secret that it made: what commits to it, and the secret itself, sealed.
func (r *Request) Made(secret, sealed []byte) *event.DrawSealed {
	out := &event.DrawSealed{Draw: r.Draw, Commit: lots.Commit(secret), Sealed: sealed}
	if len(r.Keeps) > 0 {
		out.Kept = lots.Kept(secret, r.Keeps)
	}
	return out
}

// Rehearsed is what a rehearsal tells where the living house would ask its edge. The secret is that of the recorded draw, if there is
// one, else it follows from the channel's seed: a rehearsal is the same each time. It is nil for any other decision.
func Rehearsed(d *hall.Decision, seed string, recorded map[string][]byte) event.Data {
	r, ok := RequestOf(d)
	if !ok {
		return nil
	}
	secret := recorded[r.Draw]
	if len(secret) == 0 {
		sum := sha256.Sum256([]byte(seed + "\n" + r.Draw))
		secret = sum[:]
	}
	if d.Kind == Seal {
		return r.Made(secret, nil)
	}
	return &event.DrawUnsealed{Draw: r.Draw, Secret: secret}
}

// Recorded are the secrets of draws in a recorded evening, by draw.
func Recorded(script []event.Event) map[string][]byte {
	out := map[string][]byte{}
	for i := range script {
		if d, ok := script[i].Data.(*event.DrawUnsealed); ok && len(d.Secret) > 0 {
			out[d.Draw] = d.Secret
		}
	}
	return out
}

// Replay reads a draw back from the decisions about it in the log, in their order; nil where they begin no draw. Of whoever was
// forgotten since there is no name.
func Replay(id string, log []Logged) *Draw {
	var d *Draw
	for i := range log {
		l := &log[i]
		of, _, _ := strings.Cut(l.Decision.Line, "/")
		switch x := &l.Decision; {
		case x.Kind != kind || x.Output == stepBarred || of != id:
		case x.Output == stepCalled:
			d = began(id, x, l.At, l.Seq)
		case d != nil:
			d.move(x, l.At)
		}
	}
	return d
}

// Logged is a decision as it stands in the log.
type Logged struct {
	Seq      int64
	At       time.Time
	Decision hall.Decision
}

// Kind is the kind of the decisions that a draw is read back from.
const Kind = string(kind)
