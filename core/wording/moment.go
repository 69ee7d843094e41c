package wording

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/text/currency"
)

// At makes a moment, in the zone it is to be shown in.
func At(t time.Time) Value { return Value{Time: &t} }

// The styles of dates and times, as CLDR has them for English
// (https://cldr.unicode.org/, gregorian calendar), with a plain space before AM and PM.
var (
	dateStyles = map[string]string{"": "1/2/2006", "short": "1/2/06", "medium": "Jan 2, 2006", "long": "January 2, 2006", "full": "Monday, January 2, 2006"}
	timeStyles = map[string]string{"": "3:04:05 PM", "short": "3:04 PM", "medium": "3:04:05 PM", "long": "3:04:05 PM", "full": "3:04:05 PM"}
)

func moment(t time.Time, kind, style string) string {
	if kind == "date" {
		return t.Format(dateStyles[style])
	}
	s := t.Format(timeStyles[style])
	if style == "long" || style == "full" {
		s += " " + zoneName(t)
	}
	return s
}

// american are the abbreviations English readers of CLDR's locale "en" get; every
// other zone is written by its distance from Greenwich.
var american = []string{"EST", "EDT", "CST", "CDT", "MST", "MDT", "PST", "PDT", "AKST", "AKDT", "HST"}

func zoneName(t time.Time) string {
	name, offset := t.Zone()
	where := t.Location().String()
	switch {
	case where == "UTC" || where == "Etc/UTC":
		return "UTC"
	case slices.Contains(american, name) && (strings.HasPrefix(where, "America/") || strings.HasPrefix(where, "US/") || where == "Pacific/Honolulu"):
		return name
	case name == "GMT":
		return name
	}
	sign, minutes := "+", offset/60
	if minutes < 0 {
		sign, minutes = "-", -minutes
	}
	if minutes%60 == 0 {
		return fmt.Sprintf("GMT%s%d", sign, minutes/60)
	}
	return fmt.Sprintf("GMT%s%d:%02d", sign, minutes/60, minutes%60)
}

// symbols are the currencies that CLDR's English writes with a sign; others are
// written with their code and a no-break space.
var symbols = map[string]string{"USD": "$", "EUR": "€", "GBP": "£", "JPY": "¥", "CAD": "CA$", "AUD": "A$", "NZD": "NZ$", "MXN": "MX$", "BRL": "R$",
	"CNY": "CN¥", "INR": "₹", "KRW": "₩", "ILS": "₪", "VND": "₫", "HKD": "HK$", "TWD": "NT$", "PHP": "₱", "XAF": "FCFA", "XOF": "F\u202fCFA", "XPF": "CFPF", "XCD": "EC$"}

func money(n float64, code string) string {
	digits := 2
	if unit, err := currency.ParseISO(code); err == nil {
		digits, _ = currency.Standard.Rounding(unit)
	}
	sign := ""
	if n < 0 {
		sign, n = "-", -n
	}
	symbol, ok := symbols[code]
	if !ok {
		symbol = code + "\u00a0"
	}
	return sign + symbol + grouped(n, digits, digits)
}

// grouped writes a number that is not negative with commas between thousands and
// from least to most fraction digits, halves rounded away from zero (ECMA-402,
// roundingMode "halfExpand").
func grouped(n float64, least, most int) string {
	s := strconv.FormatFloat(n, 'f', -1, 64)
	whole, frac, _ := strings.Cut(s, ".")
	if len(frac) > most {
		up := frac[most] >= '5'
		frac = frac[:most]
		if up {
			whole, frac = increment(whole, frac)
		}
	}
	frac = strings.TrimRight(frac, "0")
	for len(frac) < least {
		frac += "0"
	}
	var b strings.Builder
	for i, d := range whole {
		if i > 0 && (len(whole)-i)%3 == 0 {
			b.WriteByte(',')
		}
		b.WriteRune(d)
	}
	if frac != "" {
		b.WriteByte('.')
		b.WriteString(frac)
	}
	return b.String()
}

// increment adds one in the last place.
func increment(whole, frac string) (string, string) {
	digits := []byte(whole + frac)
	for i := len(digits) - 1; ; i-- {
		if i < 0 {
			digits = append([]byte{'1'}, digits...)
			break
		}
		if digits[i] < '9' {
			digits[i]++
			break
		}
		digits[i] = '0'
	}
	cut := len(digits) - len(frac)
	return string(digits[:cut]), string(digits[cut:])
}

// numeral writes a number in a style.
func numeral(n float64, style string) string {
	if math.IsNaN(n) || math.IsInf(n, 0) {
		return "?"
	}
	if code, ok := strings.CutPrefix(style, "::currency/"); ok {
		return money(n, code)
	}
	sign := ""
	if n < 0 {
		sign, n = "-", -n
	}
	switch style {
	case "percent":
		return sign + grouped(n*100, 0, 0) + "%"
	case "integer":
		return sign + grouped(n, 0, 0)
	}
	return sign + grouped(n, 0, 3)
}
