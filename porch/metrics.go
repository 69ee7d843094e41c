package porch

import (
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promauto"

	"vividporch/core/event"
	"vividporch/store/log"
)

// What a look at /metrics tells of the house, beside Go's own figures.
var (
	eventsLogged = promauto.NewCounterVec(prometheus.CounterOpts{Name: "porch_events_logged_total", Help: "Events written to the log, by type."}, []string{"type"})
	decided      = promauto.NewCounterVec(prometheus.CounterOpts{Name: "porch_decisions_total", Help: "Decisions written to the log, by kind."}, []string{"kind"})
	outcomes     = promauto.NewCounterVec(prometheus.CounterOpts{Name: "porch_outcomes_total", Help: "What became of lines, posts and deeds."}, []string{"outcome"})
	setAside     = promauto.NewCounterVec(prometheus.CounterOpts{Name: "porch_set_aside_total", Help: "Events that could not be lived, written or booked for what they are, by what failed."}, []string{"at"})
	commitTook   = promauto.NewHistogram(prometheus.HistogramOpts{Name: "porch_commit_seconds", Help: "How long a batch took to be written.", Buckets: prometheus.ExponentialBuckets(0.0005, 2, 14)})
	lateBy       = promauto.NewHistogram(prometheus.HistogramOpts{Name: "porch_event_late_seconds", Help: "How much later than it happened an event was taken.", Buckets: []float64{0.1, 0.5, 1, 5, 30, 120, 600, 3600}})
)

// measure counts a batch that was written.
func measure(b *log.Batch) {
	for i := range b.Entries {
		e := &b.Entries[i].Event
		eventsLogged.WithLabelValues(e.Type).Inc()
		for j := range b.Entries[i].Decisions {
			decided.WithLabelValues(string(b.Entries[i].Decisions[j].Kind)).Inc()
		}
		switch e.Data.(type) {
		case event.Outcome:
			outcomes.WithLabelValues(e.Type).Inc()
		}
		if !event.IsOwn(e.Type) {
			if d, _ := e.Late(); d > 0 {
				lateBy.Observe(d.Seconds())
			}
		}
	}
}

// gauges tell how much waits, when Prometheus asks.
func gauges(h *House) []prometheus.Collector {
	return []prometheus.Collector{
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "porch_backlog", Help: "Requests that wait for the owner."}, func() float64 { return float64(h.Backlog()) }),
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "porch_database_gone", Help: "1 while the database does not answer."}, func() float64 {
			if h.Stalled() {
				return 1
			}
			return 0
		}),
	}
}
