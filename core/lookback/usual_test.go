package lookback_test

import (
	"fmt"
	"testing"
	"time"

	"vividporch/core/lookback"
)

func TestWhatIsUsualIsTheMiddleAndChangesNothing(t *testing.T) {
	values := []float64{9, 1, 4, 2}
	if got := fmt.Sprint(lookback.RangeOf(values), lookback.RangeOf(nil), values); got != "{4 1 3 9} {0 0 0 0} [9 1 4 2]" {
		t.Error(got)
	}
}

func TestAStreamThatOpensJustBeforeTheHourIsOfThatHour(t *testing.T) {
	wednesday := time.Date(2031, 5, 14, 19, 58, 0, 0, time.UTC)
	got := lookback.Hours([]lookback.Drew{{wednesday, 10, 2}, {wednesday.AddDate(0, 0, 7).Add(20 * time.Minute), 20, 4}, {wednesday.AddDate(0, 0, 1), 90, 1}}, time.UTC)
	if fmt.Sprint(got) != "[{Thursday 20 1 90 1} {Wednesday 20 2 15 3}]" {
		t.Error(got)
	}
}
