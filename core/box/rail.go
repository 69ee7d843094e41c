package box

// KindRail is the name of it.
const KindRail Kind = "rail"

// Rail is tonight's people as lanterns on a cord.
type Rail struct {
	Most  int    `json:"most,omitempty" jsonschema:"minimum=0,maximum=60"` // lanterns at once, the newest; 0 is 24
	Names string `json:"names,omitempty" jsonschema:"enum=as they come,enum=always,enum=never"`
}

// usualLanterns hang on a cord that does not say how many.
const usualLanterns = 24

type railShown struct {
	Lights []Light `json:"lights"`
	More   int     `json:"more,omitempty"` // who came before them
}

var rail = Spec{New: func() Does { return &Rail{} }, Title: "Rail", At: At{0, 0, 100, 12}}

// Kind is the name of it.
func (*Rail) Kind() Kind { return KindRail }

// Check reports what cannot stand.
func (r *Rail) Check(fault func(at, what, remedy string)) {
	within("most", float64(r.Most), 1, 60, "lanterns", fault)
	one("names", r.Names, []string{"as they come", "always", "never"}, fault)
}

// Shows is who hangs there.
func (r *Rail) Shows(_ string, f Facts) any {
	most := r.Most
	if most == 0 {
		most = usualLanterns
	}
	lights, more := f.Lit(most)
	return railShown{lights, more}
}
