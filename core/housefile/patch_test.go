package housefile_test

import (
	"testing"

	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
)

func TestAChangeIsTakenBackFieldByField(t *testing.T) {
	for name, c := range map[string]struct{ before, after, now, want string }{
		"what stands goes back":               {`{"gap":3,"wait":60}`, `{"gap":5,"wait":60}`, `{"gap":5,"wait":90}`, `{"gap":3,"wait":90}`},
		"what was changed again stays":        {`{"gap":3}`, `{"gap":5}`, `{"gap":7}`, `{"gap":7}`},
		"one courtesy of many":                {`{"l":[{"id":"a","on":true},{"id":"b","on":true}]}`, `{"l":[{"id":"a","on":false},{"id":"b","on":true}]}`, `{"l":[{"id":"a","on":false},{"id":"b","on":false}]}`, `{"l":[{"id":"a","on":true},{"id":"b","on":false}]}`},
		"what was taken away comes back":      {`{"l":[{"id":"a"},{"id":"b"}]}`, `{"l":[{"id":"b"}]}`, `{"l":[{"id":"b","x":1}]}`, `{"l":[{"id":"a"},{"id":"b","x":1}]}`},
		"what was added goes":                 {`{"l":[{"id":"b"}]}`, `{"l":[{"id":"b"},{"id":"c"}]}`, `{"l":[{"id":"b","x":1},{"id":"c"}]}`, `{"l":[{"id":"b","x":1}]}`},
		"a list of words is taken as a whole": {`{"w":["a","b"]}`, `{"w":["a","c"]}`, `{"w":["a","c"],"o":1}`, `{"o":1,"w":["a","b"]}`},
		"the first of a list that has grown":  {`{}`, `{"l":[{"id":"a"}]}`, `{"l":[{"id":"a"},{"id":"b"}]}`, `{"l":[{"id":"b"}]}`},
		"the first of an empty list":          {`{"l":[]}`, `{"l":[{"id":"a"}]}`, `{"l":[{"id":"a"},{"id":"b"}]}`, `{"l":[{"id":"b"}]}`},
		"the last of a list that has grown":   {`{"l":[{"id":"a"}]}`, `{}`, `{"l":[{"id":"b"}]}`, `{"l":[{"id":"a"},{"id":"b"}]}`},
		"a word of a list that has grown":     {`{"w":["a"]}`, `{"w":["a","b"]}`, `{"w":["a","b","c"]}`, `{"w":["a","c"]}`},
		"the first word of a list":            {`{}`, `{"w":["b"]}`, `{"w":["b","c"]}`, `{"w":["c"]}`},
	} {
		got, err := housefile.TakeBack([]byte(c.now), []byte(c.before), []byte(c.after))
		if err != nil || string(got) != c.want {
			t.Errorf("%s: got %s %v, want %s", name, got, err, c.want)
		}
	}
}

func TestTheOrderOfCourtesiesIsADifference(t *testing.T) {
	a, b := housetest.Demo(t), housetest.Demo(t)
	b.Courtesy[0], b.Courtesy[1] = b.Courtesy[1], b.Courtesy[0]
	got, err := housefile.Compare(a, b)
	if err != nil || len(got) != 1 || got[0].At != "courtesies.order" || got[0].Before == got[0].After {
		t.Errorf("%+v %v", got, err)
	}
	b = housetest.Demo(t)
	b.Courtesy = append(b.Courtesy[:1:1], b.Courtesy[2:]...) // one less is no other order
	for _, d := range must(housefile.Compare(a, b)) {
		if d.At == "courtesies.order" {
			t.Errorf("%+v", d)
		}
	}
}

func must(ds []housefile.Difference, err error) []housefile.Difference {
	if err != nil {
		panic(err)
	}
	return ds
}
