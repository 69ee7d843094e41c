package lookback

import (
	"cmp"
	"slices"
	"time"
)

// Range is what several evenings were like: the least, the middle and the most of so many.
type Range struct {
	Of                  int
	Least, Middle, Most float64
}

// RangeOf is the range of values; of none all is 0. The middle is the median.
func RangeOf(values []float64) Range {
	if len(values) == 0 {
		return Range{}
	}
	vs := slices.Sorted(slices.Values(values))
	n := len(vs)
	return Range{n, vs[0], (vs[(n-1)/2] + vs[n/2]) / 2, vs[n-1]}
}

// Hour is an hour of a weekday in which streams opened, and what those drew in the middle.
type Hour struct {
	Weekday     time.Weekday
	Hour        int
	Streams     int
	People, New float64
}

// Drew is what a stream drew.
type Drew struct {
	Opened      time.Time
	People, New int
}

// nearly is how much sooner than an hour a stream may open and still be one of that hour: at
// 19:58 it is one of eight o'clock.
const nearly = 30 * time.Minute

// Hours are the hours in which streams opened, those that drew most people first.
func Hours(list []Drew, zone *time.Location) []Hour {
	type slot struct {
		day  time.Weekday
		hour int
	}
	people, fresh := map[slot][]float64{}, map[slot][]float64{}
	for _, d := range list {
		at := d.Opened.In(zone).Add(nearly)
		k := slot{at.Weekday(), at.Hour()}
		people[k], fresh[k] = append(people[k], float64(d.People)), append(fresh[k], float64(d.New))
	}
	var out []Hour
	for k, vs := range people {
		out = append(out, Hour{k.day, k.hour, len(vs), RangeOf(vs).Middle, RangeOf(fresh[k]).Middle})
	}
	slices.SortFunc(out, func(a, b Hour) int {
		return cmp.Or(cmp.Compare(b.People, a.People), cmp.Compare(a.Weekday, b.Weekday), a.Hour-b.Hour)
	})
	return out
}
