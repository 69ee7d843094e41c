// Package lots is the arithmetic of a draw that anyone can check.
//
// Before the first entry the house makes a secret and publishes its [Commit]: from then on the secret cannot be changed without
// being found out. Each entry has a [Mark], made of the draw and the account alone. Once entries are closed, their [Digest] is
// fixed and published with the secret, and every winner follows from the two by [Pick]: HMAC-SHA-256 (RFC 2104, FIPS 180-4)
// reduced to a place in the list without bias. Nothing of it depends on who entered first.
//
// docs/draws.md says the same for people who do not read Go, with vectors and a script that checks a draw.
package lots

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"slices"
	"strings"
)

// SecretBytes is the length of a secret, that of what it is hashed to.
const SecretBytes = sha256.Size

// Commit is what is published of a secret before the first entry: its SHA-256, in hexadecimal digits.
func Commit(secret []byte) string {
	sum := sha256.Sum256(secret)
	return hex.EncodeToString(sum[:])
}

// Mark stands for an entry: the SHA-256 of the draw's id, a line feed and the account ("quayside:8841"), in hexadecimal digits.
func Mark(draw, account string) string {
	sum := sha256.Sum256([]byte(draw + "\n" + account))
	return hex.EncodeToString(sum[:])
}

// Sorted are marks in the order in which they are counted: that of their digits, each once.
func Sorted(marks []string) []string {
	out := slices.Clone(marks)
	slices.Sort(out)
	return slices.Compact(out)
}

// Digest is the SHA-256 of all marks, sorted and each followed by a line feed, in hexadecimal digits.
func Digest(marks []string) string {
	sum := sha256.Sum256([]byte(strings.Join(Sorted(marks), "\n") + "\n"))
	return hex.EncodeToString(sum[:])
}

// Pick is a place in a list of n, from 0: of the pick of that number, from 0. It is HMAC-SHA-256, under the secret, of the
// digest's 32 bytes, the number of the pick and that of the try, each as four bytes, the highest first. The first eight bytes of
// it are a number x. Where x lies at or beyond the last whole multiple of n below 2^64 the next try is made, so that every
// place is equally likely; else the place is x modulo n. It is -1 for an empty list and for a digest that is none.
func Pick(secret []byte, digest string, pick, n int) int {
	raw, err := hex.DecodeString(digest)
	if err != nil || len(raw) != sha256.Size || n < 1 {
		return -1
	}
	return reduced(func(try uint32) uint64 {
		mac := hmac.New(sha256.New, secret)
		mac.Write(raw)
		mac.Write(binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, uint32(pick)), try))
		return binary.BigEndian.Uint64(mac.Sum(nil))
	}, uint64(n))
}

// reduced is a number below n, every one as likely: what lies beyond the last whole multiple of n is thrown away.
func reduced(of func(try uint32) uint64, n uint64) int {
	limit := ^uint64(0) - ^uint64(0)%n // the last multiple of n at or below 2^64-1; for a power of two a few numbers more are thrown away than need be
	for try := uint32(0); ; try++ {
		if x := of(try); x < limit {
			return int(x % n)
		}
	}
}

// Number is a number from one bound to the other, both possible, that a secret stands for: as [Pick], of the word "number" in
// place of the digest and with one try after the other.
func Number(secret []byte, from, to int64) int64 {
	if to <= from {
		return from
	}
	return from + int64(reduced(func(try uint32) uint64 {
		mac := hmac.New(sha256.New, secret)
		mac.Write(binary.BigEndian.AppendUint32([]byte("number"), try))
		return binary.BigEndian.Uint64(mac.Sum(nil))
	}, uint64(to-from)+1))
}

// Kept is published, beside the commitment, of what has to be guessed: HMAC-SHA-256 under the secret of the answers, a line feed
// after each, in hexadecimal digits. Nobody can tell the answers by it, and none can be changed afterwards.
func Kept(secret []byte, answers []string) string {
	mac := hmac.New(sha256.New, secret)
	for _, a := range answers {
		mac.Write([]byte(a + "\n"))
	}
	return hex.EncodeToString(mac.Sum(nil))
}
