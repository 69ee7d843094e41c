// Command bench measures the house and prints each figure beside its aim, as a
// ratio, in one run. ./run bench gives it a database that keeps its promises.
package main

import (
	"fmt"
	"log"
	"math"
	"os"
	"slices"
	"time"
)

// figure is one measured number. More is better when Least is set.
type figure struct {
	what      string
	got, aim  float64
	unit      string
	least     bool // the aim is a lower bound
	alongside string
}

func (f figure) ratio() float64 { return f.got / f.aim }

func (f figure) held() bool { return f.least && f.got >= f.aim || !f.least && f.got <= f.aim }

func main() {
	log.SetFlags(0)
	if os.Getenv("PORCH_DATABASE") == "" || len(os.Args) < 2 {
		log.Fatal("bench: call it through ./run bench")
	}
	var figures []figure
	parts := []struct {
		name    string
		measure func() ([]figure, error)
	}{{"core", coreSpeed}, {"timers", timersAhead}, {"courtesies", courtesySpeed}, {"asked", askedSpeed}, {"reply", replyTime}, {"log", logSpeed}, {"relays", relaySpeed}, {"overlays", onScreen}, {"guard", guardSpeed}, {"ledger", ledgerSpeed}, {"evenings", eveningSpeed}, {"book", bookSpeed}, {"process", func() ([]figure, error) { return processFigures(os.Args[1]) }}, {"page", func() ([]figure, error) { return pageFigures(os.Args[1]) }}}
	for _, part := range parts {
		if len(os.Args) > 2 && !slices.Contains(os.Args[2:], part.name) {
			continue
		}
		fs, err := part.measure()
		if err != nil {
			log.Fatal("bench: ", err)
		}
		figures = append(figures, fs...)
	}
	fmt.Printf("%-66s %12s %12s %8s\n", "figure", "measured", "aim", "ratio")
	for _, f := range figures {
		bound, mark := "≤", "held"
		if f.least {
			bound = "≥"
		}
		if !f.held() {
			mark = "MISSED"
		}
		if f.aim == 0 {
			fmt.Printf("%-66s %12s\n", f.what, number(f.got)+" "+f.unit)
			continue
		}
		fmt.Printf("%-66s %12s %12s %8.2f  %s  %s\n", f.what, number(f.got)+" "+f.unit, bound+" "+number(f.aim), f.ratio(), mark, f.alongside)
	}
}

func number(v float64) string {
	if v >= 1000 {
		return fmt.Sprintf("%.0f", v)
	}
	return fmt.Sprintf("%.2f", v)
}

// at is the p-th percentile, in ms.
func at(ds []time.Duration, p float64) float64 {
	if len(ds) == 0 {
		return math.NaN()
	}
	slices.Sort(ds)
	return float64(ds[min(len(ds)-1, int(p*float64(len(ds))))]) / float64(time.Millisecond)
}
