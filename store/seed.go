package store

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	"gorm.io/gorm"

	"vividporch/core/event"
	"vividporch/core/house"
)

// PastPerson is somebody known from before, with the streams they attended.
type PastPerson struct {
	Accounts []event.Person
	SayAs    string
	LeaveBe  bool
	Followed *time.Time
	Streams  []int
}

// Seed fills a new channel's guest book with what is known from before: past
// streams and the people who were there. It does nothing on a channel that has
// people already.
func (s *Store) Seed(ctx context.Context, channel int64, streams []Stream, people []PastPerson) error {
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var n int64
		if err := tx.Model(&Person{}).Where("channel = ?", channel).Count(&n).Error; err != nil || n > 0 {
			return err
		}
		opened := map[int]Stream{}
		last := 0
		for i := range streams {
			streams[i].Channel = channel
			opened[streams[i].Number] = streams[i]
			last = max(last, streams[i].Number)
		}
		var persons []Person
		var accounts []Account
		var names []AccountName
		var visits []Visit
		for i, p := range people {
			id := int64(i + 1)
			persons = append(persons, Person{Channel: channel, ID: id, SayAs: p.SayAs, LeaveBe: p.LeaveBe, Created: time.Now()})
			for j, a := range p.Accounts {
				var roles []string
				for _, r := range a.Roles {
					roles = append(roles, string(r))
				}
				acc := Account{Channel: channel, Key: a.Key(), Person: id, Platform: a.Platform, ID: a.ID, Login: a.Login, Name: a.Shown(), Roles: strings.Join(roles, ","), Followed: p.Followed}
				if j == 0 {
					for _, n := range p.Streams {
						st := opened[n]
						visits = append(visits, Visit{Channel: channel, Key: a.Key(), Stream: n, Lines: 5, First: st.Opened.Add(10 * time.Minute), Last: st.Opened.Add(time.Hour)})
						if acc.FirstSeen.IsZero() {
							acc.FirstSeen = st.Opened
						}
						acc.LastSeen, acc.Lines, acc.Streams = st.Opened.Add(time.Hour), acc.Lines+5, acc.Streams+1
					}
				}
				if acc.FirstSeen.IsZero() {
					acc.FirstSeen, acc.LastSeen = time.Now(), time.Now()
				}
				accounts = append(accounts, acc)
				names = append(names, AccountName{Channel: channel, Key: a.Key(), Since: acc.FirstSeen, Login: a.Login, Name: a.Shown()})
			}
		}
		for _, rows := range []any{&streams, &persons, &accounts, &names, &visits} {
			if err := tx.CreateInBatches(rows, 500).Error; err != nil && err != gorm.ErrEmptySlice {
				return err
			}
		}
		st := house.NewState()
		st.Stream.Number, st.Stream.Ended = last, last > 0
		if last > 0 {
			st.Stream.Opened = opened[last].Opened
			if c := opened[last].Closed; c != nil {
				st.Stream.Gone = *c
			}
		}
		raw, err := json.Marshal(st)
		if err != nil {
			return err
		}
		return tx.Create(&Snapshot{Channel: channel, State: raw, Taken: time.Now()}).Error
	})
}

// FirstSettings puts a house file in force on a channel that has none.
func (s *Store) FirstSettings(ctx context.Context, channel int64, doc []byte) error {
	if _, ok, err := s.SettingsNow(ctx, channel); err != nil || ok {
		return err
	}
	return s.DB.WithContext(ctx).Create(&SettingsVersion{Channel: channel, Version: 1, What: "the first house file", At: time.Now(), Doc: doc}).Error
}
