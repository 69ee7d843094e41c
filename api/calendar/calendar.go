// Package calendar answers for the days of people: the view of them, and the address at which they can
// be subscribed to.
package calendar

import (
	"crypto/rand"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/oapi-codegen/runtime/types"

	"vividporch/api/edge"
	"vividporch/core/occasion"
	"vividporch/porch"
	"vividporch/porch/calendar"
	"vividporch/spec"
	"vividporch/store"
	"vividporch/store/keys"
)

// Calendar answers the routes.
type Calendar struct {
	house  *porch.House
	store  *store.Store
	public func() string // where people reach the house
}

// New makes the handlers.
func New(house *porch.House, st *store.Store, public func() string) *Calendar {
	return &Calendar{house, st, public}
}

// comingDays is how many days ahead are shown as people.
const comingDays = 30

// GetDates answers GET /api/dates.
func (x *Calendar) GetDates(c *echo.Context, p spec.GetDatesParams) error {
	ctx := c.Request().Context()
	all, err := x.house.Calendar.Overview(ctx, p.All)
	if err != nil {
		return err
	}
	out := spec.Dates{Today: date(all.Today.At(time.UTC)), Entries: []spec.DateEntry{}, Missed: []spec.DateEntry{}, Coming: []spec.DateEntry{}, Year: []spec.YearEntry{}, Evenings: []string{}, People: all.People, More: all.More}
	for i := range all.Entries {
		out.Entries = append(out.Entries, entry(&all.Entries[i]))
	}
	for i := range all.Missed {
		out.Missed = append(out.Missed, entry(&all.Missed[i]))
	}
	for i := range all.Year {
		e := &all.Year[i]
		if e.Days <= comingDays {
			out.Coming = append(out.Coming, entry(e))
		}
		out.Year = append(out.Year, spec.YearEntry{Person: e.Person, Name: e.Name, Kind: spec.DateKind(e.Kind), On: date(e.On.At(time.UTC)), Years: e.Years})
	}
	for _, d := range all.Evenings {
		out.Evenings = append(out.Evenings, d.String())
	}
	key, err := x.store.Keys.Of(ctx, x.house.ID, keys.Dates)
	if err != nil {
		return err
	}
	if key != nil {
		out.Feed = spec.DatesFeed{Made: key.Made, Member: key.Member}
	}
	return c.JSON(http.StatusOK, out)
}

func entry(e *calendar.Entry) spec.DateEntry {
	return spec.DateEntry{Person: e.Person, Account: e.Account, Name: e.Name, Standing: e.Standing, Fellow: e.Fellow, Kind: spec.DateKind(e.Kind), On: date(e.On.At(time.UTC)), Days: e.Days, Years: e.Years,
		Strip: e.Strip, Chance: spec.DateEntryChance(e.Chance), Stream: e.Stream, Hidden: e.Hidden && e.Kind == occasion.Birthday, Kept: e.Kept, Since: e.Here.Since, Due: due(e), Left: e.Left}
}

// due is when the line that keeps a day leaves.
func due(e *calendar.Entry) time.Time {
	for _, k := range e.Here.Keeps {
		if k == e.Key() {
			return e.Here.Due
		}
	}
	return time.Time{}
}

// MakeDatesFeed answers POST /api/dates/feed.
func (x *Calendar) MakeDatesFeed(c *echo.Context) error {
	token := rand.Text()
	err := x.store.Keys.Make(c.Request().Context(), keys.Key{Channel: x.house.ID, Of: keys.Dates, Hash: edge.Hash(token), Made: time.Now(), Member: edge.MemberOf(c).Name})
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.DatesFeedMade{Address: strings.TrimSuffix(x.public(), "/") + "/dates.ics?key=" + token})
}

// TakeDatesFeed answers DELETE /api/dates/feed.
func (x *Calendar) TakeDatesFeed(c *echo.Context) error {
	if err := x.store.Keys.TakeAway(c.Request().Context(), x.house.ID, keys.Dates); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// longestAlarm is how long before a day a reminder may stand: a week.
const longestAlarm = 7 * 24 * 60 // minutes

// Feed answers GET /dates.ics: whoever has the key is told of the days. With alarm=MINUTES each has a
// reminder; kinds=birthday,follow,first says which there are.
func (x *Calendar) Feed(c *echo.Context) error {
	ctx, q := c.Request().Context(), c.Request().URL.Query()
	good, err := x.store.Keys.Holds(ctx, x.house.ID, keys.Dates, edge.Hash(q.Get("key")))
	if err != nil {
		return err
	}
	if !good {
		return edge.Problem(http.StatusNotFound, "There is no calendar at this address", "Ask for a new address: it may have been taken away.")
	}
	f := calendar.Feed{}
	if s := q.Get("alarm"); s != "" {
		n, err := strconv.Atoi(s)
		if err != nil || n < 0 || n > longestAlarm {
			return edge.Problem(http.StatusBadRequest, "alarm cannot be read", "Write minutes before the day, 0 to "+strconv.Itoa(longestAlarm)+".")
		}
		f.Alarm = time.Duration(n) * time.Minute
	}
	for _, s := range strings.FieldsFunc(q.Get("kinds"), func(r rune) bool { return r == ',' }) {
		kind, ok := map[string]occasion.Kind{"birthday": occasion.Birthday, "follow": occasion.Follow, "first": occasion.FirstVisit}[s]
		if !ok {
			return edge.Problem(http.StatusBadRequest, "kinds cannot be read", "Write birthday, follow or first, with commas between.")
		}
		f.Kinds = append(f.Kinds, kind)
	}
	tag, err := x.house.Calendar.Tag(ctx)
	if err != nil {
		return err
	}
	h := c.Response().Header()
	etag := `"` + edge.Hash(tag + q.Get("alarm") + "/" + q.Get("kinds"))[:32] + `"`
	h.Set("ETag", etag)
	h.Set("Cache-Control", "private, no-cache")
	for _, known := range strings.Split(c.Request().Header.Get("If-None-Match"), ",") { // RFC 9110, section 13.1.2
		if known = strings.TrimPrefix(strings.TrimSpace(known), "W/"); known == etag || known == "*" {
			return c.NoContent(http.StatusNotModified)
		}
	}
	h.Set("Content-Type", "text/calendar; charset=utf-8")
	h.Set("Content-Disposition", `inline; filename="dates.ics"`)
	c.Response().WriteHeader(http.StatusOK)
	if c.Request().Method == http.MethodHead {
		return nil
	}
	return x.house.Calendar.Write(ctx, c.Response(), f)
}

// date is a day as the API tells it.
func date(t time.Time) types.Date { return types.Date{Time: t} }
