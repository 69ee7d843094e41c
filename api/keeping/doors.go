package keeping

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/output"
	"vividporch/spec"
)

// GetDoor answers GET /api/doors/{door}.
func (k *Keeping) GetDoor(c *echo.Context, door string) error {
	s := k.house.Plan().Settings
	d := s.DoorNamed(door)
	if d == nil {
		return edge.Problem(http.StatusNotFound, "There is no such door", "It may have been taken away or renamed; go back to the list.")
	}
	out := spec.DoorPage{Came: []spec.Came{}, Cannot: []spec.Cannot{}}
	for _, v := range k.house.Doors() {
		if v.Door == door {
			out.Door = v
		}
	}
	if d.Kind == "irc" {
		if out.Door.State == "open" && !out.Door.MaySpeak {
			out.Speak = s.Grant(d, false)
		}
		if out.Door.State == "open" && !out.Door.MayModerate && d.As == "" {
			out.Moderate = s.Grant(d, true)
		}
	} else {
		out.Address = k.house.Links() + "/inbox/" + door
		if why := s.Reach.Closed(); why != "" {
			out.Outside = why + ": what is on the open network cannot send here"
		}
	}
	for _, act := range output.Acts() {
		if why := s.Cannot(d.Platform, act); why != "" {
			out.Cannot = append(out.Cannot, spec.Cannot{What: string(act), Why: why})
		}
	}
	for _, x := range k.house.Gate.Last(door) {
		out.Came = append(out.Came, spec.Came{At: x.At, Raw: x.Raw, Understood: x.Understood})
	}
	return c.JSON(http.StatusOK, out)
}

// ReopenDoor answers POST /api/doors/{door}/again.
func (k *Keeping) ReopenDoor(c *echo.Context, door string) error {
	if err := k.house.Reopen(door); err != nil {
		return edge.Problem(http.StatusNotFound, "There is no such chat door", "It may have been taken away or renamed; go back to the list.")
	}
	return c.NoContent(http.StatusNoContent)
}

// TryPlace answers POST /api/places/{place}/try.
func (k *Keeping) TryPlace(c *echo.Context, place string) error {
	if k.house.Plan().Settings.PlaceNamed(place) == nil {
		return edge.Problem(http.StatusNotFound, "There is no such place", "It may have been taken away or renamed; go back to the list.")
	}
	return tried(c, k.house.TryPlace(c.Request().Context(), place))
}

// AnnounceAt answers POST /api/places/{place}/announce.
func (k *Keeping) AnnounceAt(c *echo.Context, place string) error {
	v, err := k.house.Desk.AnnounceAt(c.Request().Context(), edge.By(c), place)
	return edge.InForce(c, k.house, v, err)
}

// TryFitting answers POST /api/fittings/{fitting}/try.
func (k *Keeping) TryFitting(c *echo.Context, fitting string) error {
	if k.house.Plan().Settings.FittingNamed(fitting) == nil {
		return edge.Problem(http.StatusNotFound, "There is no such fitting", "It may have been taken away or renamed; go back to the list.")
	}
	return tried(c, k.house.TryFitting(c.Request().Context(), fitting))
}

func tried(c *echo.Context, err error) error {
	if err != nil {
		return c.JSON(http.StatusOK, spec.PlaceTried{Why: err.Error()})
	}
	return c.JSON(http.StatusOK, spec.PlaceTried{Ok: true, Why: "it arrived"})
}
