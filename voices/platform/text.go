package platform

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"vividporch/core/pointer"
)

// Bounds of a text that is fetched from an outside address.
const (
	TextWithin = 2 * time.Second
	TextBytes  = 4 << 10
)

// Text is what stands at an address: plain text, or what a pointer (RFC 6901) leads to in JSON. What
// is slow, large, no text or empty is an error, and so is whatever leads elsewhere.
func (a *Asker) Text(ctx context.Context, address, at string) (string, error) {
	ctx, cancel := context.WithTimeout(ctx, TextWithin)
	defer cancel()
	client := *a.http
	client.CheckRedirect = func(*http.Request, []*http.Request) error {
		return errors.New("it leads on to another address; write that one")
	}
	status, raw, err := read(ctx, &client, address, TextBytes)
	if err != nil {
		return "", err
	}
	if status != http.StatusOK {
		return "", fmt.Errorf("it answered %d", status)
	}
	if len(raw) > TextBytes {
		return "", fmt.Errorf("it answered more than %d bytes", TextBytes)
	}
	text := string(raw)
	if at != "" {
		told, err := pointer.Read(raw)
		if err != nil {
			return "", fmt.Errorf("it answered no JSON: %w", err)
		}
		v, _ := pointer.Get(told, at)
		var there bool
		if text, there = pointer.Text(v); !there {
			return "", fmt.Errorf("there is no text at %s", at)
		}
	}
	if !utf8.ValidString(text) || strings.ContainsFunc(text, func(r rune) bool { return unicode.IsControl(r) && !unicode.IsSpace(r) }) {
		return "", errors.New("it answered no text")
	}
	if text = strings.Join(strings.Fields(text), " "); text == "" {
		return "", errors.New("it answered nothing")
	}
	return text, nil
}
