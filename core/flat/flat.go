// Package flat writes things of several kinds as one flat JSON object each: what all kinds have, and beside it
// what its own kind has.
package flat

// Join makes one object of two, as they are written.
func Join(a, b []byte) []byte {
	switch {
	case len(b) <= len("{}"):
		return a
	case len(a) <= len("{}"):
		return b
	}
	return append(append(a[:len(a)-1:len(a)-1], ','), b[1:]...)
}
