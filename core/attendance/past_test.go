package attendance_test

import (
	"slices"
	"testing"
	"testing/quick"
	"time"

	"vividporch/core/attendance"
)

func TestPastStreamsStandInOrderAndTheOldestFallOut(t *testing.T) {
	var past []attendance.Past
	for _, n := range []int{3, 1, 2, 25, 2} {
		past = attendance.Add(past, attendance.Past{Number: n})
	}
	for n := 4; n < 25; n++ {
		past = attendance.Add(past, attendance.Past{Number: n})
	}
	if len(past) != attendance.StripLength || past[0].Number != 6 || past[19].Number != 25 {
		t.Errorf("%d, from %d to %d", len(past), past[0].Number, past[len(past)-1].Number)
	}
}

func TestAMaskKeepsWhichStreamsWereAttended(t *testing.T) {
	keeps := func(at uint8, raw []uint8) bool {
		var streams []int
		for _, r := range raw {
			if n := int(at) - int(r)%64; !slices.Contains(streams, n) {
				streams = append(streams, n)
			}
		}
		slices.Sort(streams)
		m := attendance.MaskOf(int(at), streams)
		for _, n := range streams {
			if !m.Has(n) {
				return false
			}
		}
		return slices.Equal(m.Before(int(at)+1, 64), streams) && !m.Has(int(at)+1) && !m.Has(int(at)-64)
	}
	if err := quick.Check(keeps, nil); err != nil {
		t.Error(err)
	}
	if got := attendance.MaskOf(10, []int{2, 5, 9, 10}).Before(10, 2); !slices.Equal(got, []int{5, 9}) {
		t.Errorf("before tonight, two at most: %v", got)
	}
}

func TestAStreakIsOfStreamsInARow(t *testing.T) {
	past := []attendance.Past{{Number: 1}, {Number: 2}, {Number: 4}, {Number: 5}}
	for _, c := range []struct {
		attended []int
		tonight  bool
		want     int
	}{{[]int{2, 4, 5}, true, 4}, {[]int{1, 4, 5}, false, 2}, {[]int{1, 2, 4}, true, 1}, {nil, false, 0}} {
		if got := attendance.Streak(c.attended, past, c.tonight); got != c.want {
			t.Errorf("%v: %d, want %d", c.attended, got, c.want)
		}
	}
}

func TestNewcomersReturnWithinFiveStreamsOrNotAtAll(t *testing.T) {
	list := []attendance.Came{{Gap: 0, Count: 4}, {Gap: 1, Count: 3}, {Gap: 5, Count: 2}, {Gap: 6, Count: 9}}
	if r := attendance.Returned(list, 12); r != (attendance.Return{Newcomers: 18, Returned: 5, Of: 5}) {
		t.Errorf("%+v", r)
	}
	if r := attendance.Returned(list[:2], 2); r.Of != 2 {
		t.Errorf("only two streams have been since: %+v", r)
	}
}

func TestANewcomerCameWithTheLatestRaidOfTenMinutes(t *testing.T) {
	at := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	raids := []time.Time{at, at.Add(6 * time.Minute)}
	for after, want := range map[time.Duration]int{-time.Second: -1, 0: 0, 5 * time.Minute: 0, 6 * time.Minute: 1, 16 * time.Minute: 1, 17 * time.Minute: -1} {
		i, ok := attendance.CameWith(at.Add(after), raids)
		if ok != (want >= 0) || ok && i != want {
			t.Errorf("%s after the first: %d %v, want %d", after, i, ok, want)
		}
	}
}

func TestUsualHoursNeedAHabit(t *testing.T) {
	tuesday := time.Date(2031, 5, 13, 18, 30, 0, 0, time.UTC)
	got := attendance.UsualHours([]time.Time{tuesday, tuesday.AddDate(0, 0, 7).Add(90 * time.Minute), tuesday.AddDate(0, 0, 2), tuesday.Add(6 * time.Hour)}, time.UTC)
	if len(got) != 1 || got[0] != (attendance.Usual{Day: time.Tuesday, From: 18, To: 1, Times: 3}) {
		t.Errorf("%+v", got)
	}
}

func TestOfTwoStreamsThatTouchEachIsItself(t *testing.T) {
	dusk := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	have := []attendance.Past{{Number: 13, Opened: dusk, Closed: dusk.Add(12 * time.Second)}, {Number: 14, Opened: dusk.Add(12 * time.Second), Closed: dusk.Add(time.Hour)}}
	number, fresh := attendance.Join(have, have)
	if len(fresh) != 0 || number[13] != 13 || number[14] != 14 {
		t.Errorf("%v, new %v", number, fresh)
	}
}

func TestAnHourFallsIntoAHabitAlsoAfterMidnight(t *testing.T) {
	of := []attendance.Usual{{Day: time.Tuesday, From: 22, To: 1, Times: 3}}
	tuesday := time.Date(2031, 5, 13, 0, 0, 0, 0, time.UTC)
	for hour, is := range map[int]bool{19: false, 20: true, 22: true, 24: true, 25: false, 48: false, -2: false} {
		if _, ok := attendance.Now(of, tuesday.Add(time.Duration(hour)*time.Hour), time.UTC); ok != is {
			t.Errorf("%d o'clock: %v", hour, ok)
		}
	}
}

func TestAStreamEndsAboutWhenHalfOfTheLastDid(t *testing.T) {
	dusk := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	var past []attendance.Past
	for i, hours := range []int{9, 2, 3, 4} {
		at := dusk.AddDate(0, 0, i-7)
		past = append(past, attendance.Past{Number: i + 1, Opened: at, Closed: at.Add(time.Duration(hours) * time.Hour)})
	}
	if _, ok := attendance.EndsAbout(past[:2], dusk); ok {
		t.Error("two streams are no habit")
	}
	if at, ok := attendance.EndsAbout(past, dusk); !ok || !at.Equal(dusk.Add(4*time.Hour)) {
		t.Error(at, ok)
	}
}
