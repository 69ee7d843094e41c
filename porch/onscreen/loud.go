package onscreen

import (
	"math"

	"vividporch/porch/aloud"
)

const (
	highestPeak = -1.0 // dBTP that no sample goes beyond (EBU R 128, section "maximum permitted true peak level")
	mostGain    = 20.0 // dB that something is made louder at most: what is nearly silent stays so
)

// Gain is what the samples of a file are multiplied with so that it is as loud as target, in LUFS, and loud, 1 to 100, says below
// it: half of 100 is half as loud, which is 10 LU (Stevens' rule for sones). Nobody's peaks are cut for it.
func Gain(of aloud.Loudness, target float64, loud int) float64 {
	if !of.Known {
		of = aloud.Loudness{LUFS: target, Peak: highestPeak}
	}
	db := min(target-of.LUFS, mostGain)
	db = min(db, highestPeak-of.Peak)
	if loud > 0 && loud < 100 {
		db += 10 * math.Log2(float64(loud)/100)
	}
	return math.Pow(10, db/20)
}
