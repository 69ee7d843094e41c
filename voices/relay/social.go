package relay

import (
	"cmp"
	"context"
	"encoding/base64"
	"encoding/json"
	"net/http"

	"vividporch/core/place"
	"vividporch/core/plain"
	"vividporch/core/pointer"
	"vividporch/store/jobs"
)

// accounts carry to social accounts, in the form that the site's profile tells.
type accounts struct {
	signed at
	http   *http.Client
}

func (x *accounts) carry(ctx context.Context, p *place.Place, d *jobs.Delivery) arrival {
	known := x.signed.Profile(p.Platform)
	if known.Social == nil {
		return arrival{how: refused, why: "nothing is known of the social site " + plain.Titled(p.Platform)}
	}
	var post place.Post
	if err := json.Unmarshal(d.Body, &post); err != nil {
		return arrival{how: refused, why: "what is to be posted cannot be read"}
	}
	send := known.Social.Sending(post.Does)
	if send == nil {
		return arrival{how: refused, why: known.Title + " takes no " + post.Does}
	}
	picture := ""
	if post.Shelf != "" {
		raw, err := x.signed.Medium(ctx, post.Shelf)
		if err != nil {
			return arrival{how: refused, why: "the picture is not on the shelf any more"}
		}
		picture = base64.StdEncoding.EncodeToString(raw)
	}
	body, err := post.Form(send.Body, picture, "")
	if err != nil {
		return arrival{how: refused, why: err.Error()}
	}
	came, raw := x.signed.send(ctx, x.http, p.Platform, cmp.Or(send.Method, http.MethodPost), known.Where(send.Address), Key(d), body)
	if answer, err := pointer.Read(raw); err == nil && came.how == taken && known.Social.ID != "" {
		if at, ok := pointer.Get(answer, known.Social.ID); ok {
			came.ref, _ = pointer.Text(at)
		}
	}
	return came
}
