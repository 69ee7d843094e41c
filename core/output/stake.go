package output

import "fmt"

// Stakes bound what is staked in a game.
type Stakes struct {
	Usual int64 `json:"usual,omitempty" jsonschema:"minimum=0,maximum=1000000000"` // where none is said; 0 is 10
	Most  int64 `json:"most,omitempty" jsonschema:"minimum=0,maximum=1000000000"`  // 0 is 1000
}

// Bounds are the usual stake and the highest.
func (s Stakes) Bounds() (usual, most int64) {
	if usual = s.Usual; usual == 0 {
		usual = 10
	}
	if most = s.Most; most == 0 {
		most = 1000
	}
	return usual, most
}

func (s Stakes) check(fault func(at, what, remedy string)) {
	usual, most := s.Bounds()
	if s.Usual < 0 || s.Most < 0 || most > MostCost || usual > most {
		fault("most", "is out of range", fmt.Sprintf("stake up to %d points, and no less than the usual stake", int64(MostCost)))
	}
}
