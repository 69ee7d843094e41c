package log

import "context"

// Look is a look whether a channel is still held.
func (o *Ownership) Look(ctx context.Context) error { return o.look(ctx) }
