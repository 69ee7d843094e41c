package housefile

import (
	"encoding/json"
	"fmt"
	"time"

	"vividporch/core/wording"
)

// answersWithin is how long a place has to answer, where the settings do not say.
const answersWithin = 10 * time.Second

// Within is how long the place has to take what is posted to it.
func (pl *Place) Within() time.Duration {
	if d := time.Duration(pl.TimeoutSeconds * float64(time.Second)); d > 0 {
		return d
	}
	return answersWithin
}

// Render fills the wordings in a place's body.
func (pl *Place) Render(args wording.Args) (json.RawMessage, error) {
	var body any = map[string]any{"text": "{text}"}
	if len(pl.Body) > 0 {
		if err := json.Unmarshal(pl.Body, &body); err != nil {
			return nil, fmt.Errorf("is not JSON: %w", err)
		}
	}
	filled, err := fillBody(body, args)
	if err != nil {
		return nil, err
	}
	return json.Marshal(filled)
}

func fillBody(v any, args wording.Args) (any, error) {
	switch v := v.(type) {
	case string:
		w, err := wording.Parse(v)
		if err != nil {
			return nil, err
		}
		return w.Render(args), nil
	case []any:
		for i := range v {
			f, err := fillBody(v[i], args)
			if err != nil {
				return nil, err
			}
			v[i] = f
		}
		return v, nil
	case map[string]any:
		for k := range v {
			f, err := fillBody(v[k], args)
			if err != nil {
				return nil, err
			}
			v[k] = f
		}
		return v, nil
	}
	return v, nil
}
