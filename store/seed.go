package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/house"
)

// Seed fills a new channel's guest book with what is known from before: past
// streams and the people who were there. It does nothing on a channel that has
// people already.
func (s *Store) Seed(ctx context.Context, channel int64, head Head, cards []card.Card, k *Reckoning) error {
	var n int64
	if err := s.DB.WithContext(ctx).Model(&Person{}).Where("channel = ?", channel).Count(&n).Error; err != nil || n > 0 {
		return err
	}
	first, err := s.NewPeople(ctx, channel, len(cards))
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
	if err := s.inTx(ctx, func(tx *sql.Tx) error {
		w := writer{ctx, tx, tx, channel}
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
		if err := refresh(ctx, tx, channel, &reckoning, persons, nil); err != nil {
			return err
		}
		if err := w.knownRegulars(); err != nil {
			return err
		}
		return w.exec(`INSERT INTO snapshots (channel, seq, state, taken) VALUES ($1, 0, $2, $3)`, channel, string(raw), time.Now())
	}); err != nil {
		return err
	}
	return s.analyze(ctx)
}

// FirstSettings puts a house file in force on a channel that has none.
func (s *Store) FirstSettings(ctx context.Context, channel int64, doc []byte) error {
	if _, ok, err := s.SettingsNow(ctx, channel); err != nil || ok {
		return err
	}
	if _, err := s.Guarded(ctx, channel); err != nil { // from the first day on
		return err
	}
	return s.DB.WithContext(ctx).Create(&SettingsVersion{Channel: channel, Version: 1, What: "the first house file", At: time.Now(), Doc: doc}).Error
}
