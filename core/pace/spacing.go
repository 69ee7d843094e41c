package pace

import "time"

// Spacing keeps the lines that leave by one door apart as they were decided to be. One that leaves late, since its commit
// took long or the machine stood still, pushes the next back, which the queue had meant for a chat that was quiet for a
// while; never by more than the gap, so that it is caught up wherever there is time. It is of the line that left last.
type Spacing struct {
	Decided time.Time // that it leaves
	Left    time.Time
}

// Next is when a line that was decided at a moment may leave.
func (s Spacing) Next(decided time.Time, gap time.Duration) time.Time {
	return s.Left.Add(min(max(decided.Sub(s.Decided), 0), gap))
}
