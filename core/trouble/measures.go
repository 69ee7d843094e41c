package trouble

// number checks a measure.
func number(at string, n, least, most float64, unit string, fault func(at, what, remedy string)) {
	if n < least || n > most {
		fault(at, "is out of range", "use "+trim(least)+" to "+trim(most)+" "+unit)
	}
}

func trim(n float64) string { return itoa(int(n)) }
