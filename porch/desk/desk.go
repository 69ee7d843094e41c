// Package desk is what members' hands change in a running house: the settings, as patches on
// the version they looked at ([Desk.ChangeSettings]); the guest book; and the files that
// bring either in and take it out.
package desk

import (
	"context"
	"sync"

	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/people"
	"vividporch/core/room"
	"vividporch/store"
	"vividporch/store/record"
)

// House is what the desk needs of the running house.
type House interface {
	// Ready is an error while nothing can be logged.
	Ready() error
	// Hand logs what a member does and returns its number in the log, once it is committed.
	Hand(ctx context.Context, d event.Data) (int64, error)
	// Look runs f on the state, between two batches.
	Look(ctx context.Context, f func(*house.State)) error
	// Plan is the version of the settings in force.
	Plan() *room.Plan
	// Known is what the house knows of an account now; nil for nobody it knows.
	Known(ctx context.Context, account string) (*people.Known, error)
	// Reckoning is what standings are worked out from now.
	Reckoning() record.Reckoning
	// TellLeft tells what the settings in force leave out, where members look.
	TellLeft(ctx context.Context)
}

// Desk is where members change settings and guest book of one channel.
type Desk struct {
	house    House
	store    *store.Store
	channel  int64
	defaults []byte     // the house file that the first version was made from
	changing sync.Mutex // one change of the settings at a time, so that none is built on a version that is gone
	joining  sync.Mutex // one merge, parting or forgetting at a time, so that none is of a record that another has just changed
	crewing  sync.Mutex // one crew at a time, so that no two are made of one name
}

// New is the desk of a running house.
func New(h House, st *store.Store, channel int64, defaults []byte) *Desk {
	return &Desk{house: h, store: st, channel: channel, defaults: defaults}
}
