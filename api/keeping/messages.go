package keeping

import (
	"encoding/json"
	"net/http"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/happening"
	"vividporch/core/reading"
	"vividporch/porch/services"
	"vividporch/spec"
)

// service refuses what is no door of another service.
func (k *Keeping) service(door string) error {
	if d := k.house.Plan().Settings.DoorNamed(door); d == nil || !d.IsService() {
		return edge.Problem(http.StatusNotFound, "There is no such door of another service", "It may have been taken away or renamed; go back to the list.")
	}
	return nil
}

// GetMessages answers GET /api/doors/{door}/messages.
func (k *Keeping) GetMessages(c *echo.Context, door string) error {
	if err := k.service(door); err != nil {
		return err
	}
	ctx := c.Request().Context()
	list, err := k.house.Services.List(ctx, door)
	if err != nil {
		return err
	}
	out := spec.Messages{Messages: []spec.KeptMessage{}, Offers: append([]string{}, k.house.Services.Offers(door, list)...), Fallen: []spec.FellOut{}, Makes: []spec.Makeable{}}
	for i := range list {
		m := &list[i]
		out.Messages = append(out.Messages, spec.KeptMessage{ID: m.ID, At: m.At, State: spec.KeptMessageState(m.State), Why: m.Why, Body: string(m.Body), Made: madeOf(m)})
	}
	fallen, err := k.store.Kept.Fallen(ctx, k.house.ID, door)
	if err != nil {
		return err
	}
	for _, f := range fallen {
		out.Fallen = append(out.Fallen, spec.FellOut{Day: f.Day.Format("2006-01-02"), Count: f.Count})
	}
	for _, kind := range reading.Makes() {
		m := spec.Makeable{Type: kind, Words: happening.Of(kind).Words, Fields: []spec.MakeableField{}}
		for _, f := range reading.Fields(kind) {
			m.Fields = append(m.Fields, spec.MakeableField{Name: f.Name, Kind: string(f.Kind)})
		}
		out.Makes = append(out.Makes, m)
	}
	return c.JSON(http.StatusOK, out)
}

func madeOf(m *services.Shown) []spec.MadeOf {
	out := []spec.MadeOf{}
	for _, x := range m.Made {
		made := spec.MadeOf{Reading: x.Reading, Words: x.Words}
		if x.Fault != nil {
			made.Field, made.Remedy = x.Fault.Field, x.Fault.Remedy
		}
		out = append(out, made)
	}
	return out
}

// TryReading answers POST /api/doors/{door}/messages/try.
func (k *Keeping) TryReading(c *echo.Context, door string) error {
	if err := k.service(door); err != nil {
		return err
	}
	var in struct {
		Reading json.RawMessage `json:"reading"`
	}
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	var r reading.Reading
	if err := json.Unmarshal(in.Reading, &r); err != nil {
		return edge.Problem(http.StatusBadRequest, "The reading cannot be read", err.Error())
	}
	out := spec.ReadingTried{Messages: []spec.TriedMessage{}, Faults: []spec.Fault{}}
	r.Check(func(at, what, remedy string) {
		out.Faults = append(out.Faults, spec.Fault{At: at, What: what, Remedy: remedy})
	})
	if len(out.Faults) == 0 {
		list, makes, err := k.house.Services.Try(c.Request().Context(), door, &r)
		if err != nil {
			return err
		}
		out.Makes, out.Of = makes, len(list)
		for i := range list {
			out.Messages = append(out.Messages, spec.TriedMessage{ID: list[i].ID, Made: madeOf(&list[i])})
		}
	}
	return c.JSON(http.StatusOK, out)
}

// TakeMessages answers POST /api/doors/{door}/messages/take.
func (k *Keeping) TakeMessages(c *echo.Context, door string) error {
	if err := k.service(door); err != nil {
		return err
	}
	made, waits, err := k.house.Services.TakeIn(c.Request().Context(), door)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.TakenIn{Made: made, Waits: waits})
}
