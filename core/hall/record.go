package hall

import (
	"time"

	"slices"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/plain"
	"vividporch/core/who"
)

// lately keeps who followed, subscribed, gave, tipped and raided last.
func (s *State) lately(data event.Data) {
	kind := happening.OfData(data).Latest
	of, ok := data.(interface{ Who() *event.Person })
	if kind == "" || !ok {
		return
	}
	who := of.Who()
	r := Recent{who.Key(), plain.Name(who.Shown())}
	list := slices.DeleteFunc(slices.Clone(s.Latest[kind]), func(o Recent) bool { return o.Account == r.Account })
	list = append([]Recent{r}, list...)
	if s.Latest == nil {
		s.Latest = map[string][]Recent{}
	}
	s.Latest[kind] = list[:min(len(list), housefile.LastMost)]
}

// Record is the largest number of a kind that ever came with a happening.
type Record struct {
	Tonight float64 `json:"tonight,omitempty"` // in this stream; 0 for none yet
	Ever    float64 `json:"ever,omitempty"`
}

// Quantities are the numbers that come with a happening, the main one first. Each
// is shown beside the largest of its kind before it.
func (s *State) Quantities(data event.Data) []who.Quantity {
	var out []who.Quantity
	for _, number := range happening.OfData(data).Numbers {
		n, currency, ok := number.Of(data)
		if !ok {
			continue
		}
		r := s.Largest[recordKey(data, number.Name, currency)]
		out = append(out, who.Quantity{Of: number.Name, Currency: currency, N: n, Tonight: r.Tonight, Ever: r.Ever})
	}
	return out
}

func recordKey(data event.Data, of, currency string) string {
	return data.Type() + "/" + of + "/" + currency
}

// measured keeps the records that a happening set.
func (s *State) measured(data event.Data) {
	for _, q := range s.Quantities(data) {
		if q.N <= q.Tonight && q.N <= q.Ever {
			continue
		}
		if s.Largest == nil {
			s.Largest = map[string]Record{}
		}
		s.Largest[recordKey(data, q.Of, q.Currency)] = Record{Tonight: max(q.N, q.Tonight), Ever: max(q.N, q.Ever)}
	}
}

// nightfall starts tonight's records over.
func (s *State) nightfall() {
	for k, r := range s.Largest {
		r.Tonight = 0
		s.Largest[k] = r
	}
}

// speedOf is of how many minutes the speed of chat is reckoned.
const speedOf = 15

// Speed is how many lines people said a minute lately, so long after the opening: of the last quarter of an
// hour, or of as long as the stream has been on.
func (e *Evening) Speed(since time.Duration) float64 {
	m := int(since / time.Minute)
	first := max(0, m-speedOf)
	if m < 1 {
		return float64(e.People)
	}
	n := 0
	for i := first; i < m && i < len(e.Minutes); i++ {
		n += e.Minutes[i]
	}
	return float64(n) / float64(m-first)
}
