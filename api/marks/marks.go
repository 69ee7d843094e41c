// Package marks answers for what is marked and left: bookmarks of streams, from the Porch and with keys from outside,
// and notes for the streamer.
package marks

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/bookmark"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/note"
	"vividporch/core/plain"
	"vividporch/formats/vtt"
	"vividporch/porch"
	"vividporch/spec"
	"vividporch/store"
	"vividporch/store/keys"
	"vividporch/store/log"
	"vividporch/store/pg"
)

// Marks answers the routes.
type Marks struct {
	house  *porch.House
	store  *store.Store
	public func() string // where people reach the house

	mu   sync.Mutex
	last map[string]time.Time // a key was last used, by its hash
}

// New makes the handlers.
func New(house *porch.House, st *store.Store, public func() string) *Marks {
	return &Marks{house: house, store: st, public: public, last: map[string]time.Time{}}
}

// set sets a bookmark, and says in a line what came of it.
func (x *Marks) set(ctx context.Context, b *happening.BookmarkSet) (said string, done bool, err error) {
	rs, err := x.house.Submit(ctx, []event.Event{hand(b)})
	if err != nil {
		return "", false, err
	}
	said, done = bookmark.Said(rs[0].Decisions)
	return said, done, nil
}

// SetBookmark answers POST /api/desk/bookmark.
func (x *Marks) SetBookmark(c *echo.Context) error {
	var in spec.NewBookmark
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	b := &happening.BookmarkSet{Member: edge.MemberOf(c).Name, Label: strings.TrimSpace(in.Label)}
	if err := b.Validate(); err != nil {
		return err
	}
	said, done, err := x.set(c.Request().Context(), b)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.Deed{Done: done, Because: []string{said}})
}

// streamsShown is of how many streams bookmarks are shown.
const streamsShown = 20

// GetBookmarks answers GET /api/bookmarks.
func (x *Marks) GetBookmarks(c *echo.Context) error {
	ctx := c.Request().Context()
	list, err := x.store.Log.Bookmarks(ctx, x.house.ID, 0, streamsShown)
	if err != nil {
		return err
	}
	out := spec.Bookmarks{Streams: []spec.StreamBookmarks{}, Keys: []spec.BookmarkKey{}}
	for _, b := range list {
		if n := len(out.Streams); n == 0 || out.Streams[n-1].Number != b.Stream {
			out.Streams = append(out.Streams, spec.StreamBookmarks{Number: b.Stream, Opened: b.Opened, Bookmarks: []spec.Bookmark{}})
		}
		of := &out.Streams[len(out.Streams)-1]
		of.Bookmarks = append(of.Bookmarks, spec.Bookmark{Event: b.Seq, At: b.At, Into: bookmark.Into(b.At.Sub(b.Opened)), Label: plain.Text(b.Set.Label), By: b.Set.By()})
	}
	for begins, how := range map[string]spec.BookmarkKeyHow{keys.BookmarkPosted: "posted", keys.BookmarkOpened: "opened"} {
		all, err := x.store.Keys.All(ctx, x.house.ID, begins)
		if err != nil {
			return err
		}
		for _, k := range all {
			out.Keys = append(out.Keys, spec.BookmarkKey{Name: strings.TrimPrefix(k.Of, begins), How: how, Made: k.Made, Member: k.Member})
		}
	}
	return c.JSON(http.StatusOK, out)
}

// LabelBookmark answers PUT /api/bookmarks/{event}/label.
func (x *Marks) LabelBookmark(c *echo.Context, seq int64) error {
	var in spec.NewBookmark
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	if _, err := x.store.Log.BookmarkOf(c.Request().Context(), x.house.ID, seq); errors.Is(err, pg.ErrNone) {
		return edge.Problem(http.StatusNotFound, "There is no such bookmark", "Reload the page.")
	} else if err != nil {
		return err
	}
	named := &event.BookmarkLabelled{Mark: seq, Label: strings.TrimSpace(in.Label), Member: edge.MemberOf(c).Name}
	if err := named.Validate(); err != nil {
		return err
	}
	if _, err := x.house.Submit(c.Request().Context(), []event.Event{hand(named)}); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// GetChapters answers GET /api/streams/{number}/chapters.
func (x *Marks) GetChapters(c *echo.Context, number int, p spec.GetChaptersParams) error {
	list, err := x.store.Log.Bookmarks(c.Request().Context(), x.house.ID, number, 0)
	if err != nil {
		return err
	}
	if len(list) == 0 {
		return edge.Problem(http.StatusNotFound, "No moment of that stream is marked", "Set a bookmark with B on the Porch while a stream is on.")
	}
	channel := x.house.Plan().Settings.Channel
	name, kind := fmt.Sprintf("bookmarks-%d", number), "text/plain; charset=utf-8"
	var out strings.Builder
	if p.Format == "vtt" {
		kind, name = "text/vtt; charset=utf-8", name+".vtt"
		err = vtt.Write(&out, fmt.Sprintf("%s, stream %d", channel, number), "Opening", chapters(list), length(list))
	} else {
		name += ".txt"
		for _, b := range list {
			fmt.Fprintf(&out, "%s %s\n", bookmark.Into(b.At.Sub(b.Opened)), titleOf(&b))
		}
	}
	if err != nil {
		return err
	}
	h := c.Response().Header()
	h.Set("Content-Disposition", `attachment; filename="`+name+`"`)
	return c.Blob(http.StatusOK, kind, []byte(out.String()))
}

func titleOf(b *log.Bookmark) string {
	if label := plain.Text(b.Set.Label); label != "" {
		return label
	}
	if by := b.Set.By(); by != "" {
		return "marked by " + by
	}
	return "marked"
}

func chapters(list []log.Bookmark) (out []vtt.Chapter) {
	for i := range list {
		out = append(out, vtt.Chapter{At: list[i].At.Sub(list[i].Opened), Title: titleOf(&list[i])})
	}
	return out
}

// length is how long the stream of these bookmarks was, as far as it is known.
func length(list []log.Bookmark) time.Duration {
	last := list[len(list)-1]
	if last.Closed != nil {
		return last.Closed.Sub(last.Opened)
	}
	return last.At.Sub(last.Opened) + time.Minute
}

// MakeBookmarkKey answers POST /api/bookmarks/keys.
func (x *Marks) MakeBookmarkKey(c *echo.Context) error {
	var in spec.NewBookmarkKey
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	name := plain.Text(in.Name)
	if name == "" || len(name) > 60 {
		return &event.FieldError{Field: "name", Remedy: "is missing or too long; name what the key is for in at most 60 letters"}
	}
	token := rand.Text()
	if err := x.store.Keys.Make(c.Request().Context(), keys.Key{Channel: x.house.ID, Of: begins(in.How == "opened") + name, Hash: edge.Hash(token), Made: time.Now(), Member: edge.MemberOf(c).Name}); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.BookmarkKeyMade{Address: strings.TrimSuffix(x.public(), "/") + "/bookmarks/" + token})
}

// TakeBookmarkKey answers POST /api/bookmarks/keys/take.
func (x *Marks) TakeBookmarkKey(c *echo.Context) error {
	var in spec.NewBookmarkKey
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	if err := x.store.Keys.TakeAway(c.Request().Context(), x.house.ID, begins(in.How == "opened")+in.Name); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func begins(opened bool) string {
	if opened {
		return keys.BookmarkOpened
	}
	return keys.BookmarkPosted
}

// apart is within what time one key sets one bookmark, however often it is pressed.
const apart = 5 * time.Second

// Press answers POST /bookmarks/{key}, and GET with a key that is made for it: one plain line, for whatever holds a
// button. To look at the address, as HEAD and browsers that fetch ahead do, marks nothing.
func (x *Marks) Press(c *echo.Context) error {
	r := c.Request()
	hash := edge.Hash(c.Param("key"))
	k, err := x.store.Keys.By(r.Context(), x.house.ID, begins(r.Method != http.MethodPost), hash)
	if err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	switch {
	case k == nil:
		return c.String(http.StatusNotFound, "There is no such key.\n")
	case r.Method == http.MethodHead, ahead(r):
		return c.NoContent(http.StatusNoContent)
	case !x.first(hash, time.Now()):
		return c.String(http.StatusOK, "Marked already.\n")
	}
	b := &happening.BookmarkSet{Key: strings.TrimPrefix(k.Of, begins(r.Method != http.MethodPost)), Label: strings.TrimSpace(r.URL.Query().Get("label"))}
	if err := b.Validate(); err != nil {
		return c.String(http.StatusUnprocessableEntity, err.Error()+"\n")
	}
	said, _, err := x.set(r.Context(), b)
	if err != nil {
		x.again(hash)
		return err
	}
	return c.String(http.StatusOK, said+"\n")
}

// ahead reports whether an address is only fetched ahead of somebody who may open it.
func ahead(r *http.Request) bool {
	for _, h := range []string{"Sec-Purpose", "Purpose", "X-Moz"} {
		if strings.Contains(strings.ToLower(r.Header.Get(h)), "prefetch") || strings.Contains(strings.ToLower(r.Header.Get(h)), "preview") {
			return true
		}
	}
	return false
}

// first reports whether a key is used for the first time in a while.
func (x *Marks) first(hash string, now time.Time) bool {
	x.mu.Lock()
	defer x.mu.Unlock()
	if now.Sub(x.last[hash]) < apart {
		return false
	}
	x.last[hash] = now
	return true
}

// again lets a key be used at once: what it was used for did not happen.
func (x *Marks) again(hash string) {
	x.mu.Lock()
	defer x.mu.Unlock()
	delete(x.last, hash)
}

// notesAtOnce is how many notes are shown at once.
const notesAtOnce = 50

// GetNotes answers GET /api/notes.
func (x *Marks) GetNotes(c *echo.Context, p spec.GetNotesParams) error {
	list, err := x.store.Log.Notes(c.Request().Context(), x.house.ID, strings.TrimSpace(p.Q), p.Open, p.Before, notesAtOnce+1)
	if err != nil {
		return err
	}
	out := spec.Notes{Notes: []spec.Note{}, More: len(list) > notesAtOnce}
	for _, n := range list[:min(notesAtOnce, len(list))] {
		v := spec.Note{Event: n.Seq, At: n.At, Account: n.Left.Person.Key(), Name: plain.Name(n.Left.Person.Shown()), Text: plain.Text(n.Left.Text), Place: n.Left.Place, By: n.By}
		if n.Done != nil {
			v.Done = *n.Done
		}
		out.Notes = append(out.Notes, v)
	}
	return c.JSON(http.StatusOK, out)
}

// AnswerNote answers POST /api/notes/{event}/answer: in chat, where its writer is, and the note is done with.
func (x *Marks) AnswerNote(c *echo.Context, seq int64) error {
	var in spec.NoteAnswer
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	ctx := c.Request().Context()
	left, err := x.store.Log.NoteOf(ctx, x.house.ID, seq)
	if errors.Is(err, pg.ErrNone) {
		return edge.Problem(http.StatusNotFound, "There is no such note", "Reload the page.")
	} else if err != nil {
		return err
	}
	text := strings.TrimSpace(in.Text)
	if text == "" {
		return &event.FieldError{Field: "text", Remedy: "is missing; write what is answered, or call it done"}
	}
	member := edge.MemberOf(c).Name
	said := note.Answer(left, text, member)
	if err := said.Validate(); err != nil {
		return err
	}
	rs, err := x.house.Submit(ctx, []event.Event{hand(said)})
	if err != nil {
		return err
	}
	for _, d := range rs[0].Decisions {
		if d.Kind == hall.Refuse { // then it still waits
			return c.JSON(http.StatusOK, spec.Deed{Because: d.Because})
		}
	}
	if _, err := x.house.Submit(ctx, []event.Event{hand(&event.WaitingDone{Item: note.ItemID(seq), Member: member})}); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.Deed{Done: true, Because: []string{"answered"}})
}

// hand is an event of a member's hand.
func hand(d event.Data) event.Event {
	return event.Event{Door: "desk", Source: "desk", ID: "own-" + rand.Text(), Type: d.Type(), Data: d}
}
