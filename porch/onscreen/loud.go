package onscreen

import "math"

// Loudness is what was measured of a file, as EBU R 128 has it: how loud it is over its length, in LUFS, and its true
// peak, in dBTP. Known is false for one that nobody measured.
type Loudness struct {
	LUFS, Peak float64
	Known      bool
}

const (
	highestPeak = -1.0 // dBTP that no sample goes beyond (EBU R 128, section "maximum permitted true peak level")
	mostGain    = 20.0 // dB that something is made louder at most: what is nearly silent stays so
)

// Gain is what the samples of a file are multiplied with so that it is as loud as target, in LUFS, and loud, 1 to 100, says below
// it: half of 100 is half as loud, which is 10 LU (Stevens' rule for sones). Nobody's peaks are cut for it.
func Gain(of Loudness, target float64, loud int) float64 {
	if !of.Known {
		of = Loudness{LUFS: target, Peak: highestPeak}
	}
	db := min(target-of.LUFS, mostGain)
	db = min(db, highestPeak-of.Peak)
	if loud > 0 && loud < 100 {
		db += 10 * math.Log2(float64(loud)/100)
	}
	return math.Pow(10, db/20)
}
