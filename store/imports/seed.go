package imports

import (
	"context"
	"encoding/json"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/house"
	"vividporch/store/pg"
	"vividporch/store/record"
	"vividporch/store/tables"
)

// Seed fills a new channel's guest book with what is known from before: past
// streams and the people who were there. It does nothing on a channel that has
// people already.
func (s *Imports) Seed(ctx context.Context, channel int64, head Head, cards []card.Card, k *record.Reckoning) error {
	var n int64
	if err := s.DB.WithContext(ctx).Model(&tables.Person{}).Where("channel = ?", channel).Count(&n).Error; err != nil || n > 0 {
		return err
	}
	first, err := s.Book.NewPeople(ctx, channel, len(cards))
	if err != nil {
		return err
	}
	state := house.NewState()
	for _, p := range head.Streams {
		state.Past = attendance.Add(state.Past, p)
		state.Stream = attendance.Stream{Number: p.Number, Opened: p.Opened, Gone: p.Closed, Ended: true}
	}
	raw, err := json.Marshal(state)
	if err != nil {
		return err
	}
	reckoning := *k
	reckoning.Past = state.Past
	if err := s.InTx(ctx, channel, func(tx pg.Tx) error {
		w := writer{tx}
		if _, err := w.pastStreams(head.Streams, 0); err != nil {
			return err
		}
		opened, err := w.openings()
		if err != nil {
			return err
		}
		if err := w.newCrews(head.Crews); err != nil {
			return err
		}
		var page []arrival
		var persons []int64
		for i, c := range cards {
			page = append(page, arrival{row: i, person: first + int64(i), isNew: true, card: c})
			persons = append(persons, first+int64(i))
		}
		if err := w.bringIn(page, 0, opened); err != nil {
			return err
		}
		if err := record.Refresh(ctx, tx.SQL, channel, &reckoning, persons, nil); err != nil {
			return err
		}
		if err := w.knownRegulars(); err != nil {
			return err
		}
		return w.Exec(`INSERT INTO snapshots (channel, seq, state, taken) VALUES ($1, 0, $2, $3)`, channel, string(raw), time.Now())
	}); err != nil {
		return err
	}
	return record.Analyze(ctx, s.SQL)
}
