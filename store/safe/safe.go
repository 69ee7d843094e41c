// Package safe keeps what must not leak and where the house may go: secrets, sealed with a
// key from outside the database and bound to the address they were given for, and the list
// of hosts that may be reached though they are loopback or private.
package safe

import (
	"context"
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"gorm.io/gorm/clause"

	"vividporch/core/housefile"
	"vividporch/store/pg"
)

// Safe keeps secrets sealed, and the list of hosts that may be reached.
type Safe struct {
	pg.Base
	aead cipher.AEAD // nil before UseKey
}

// Secret is a password or signing secret of a door, place or fitting, kept apart from
// the settings and encrypted (AES-256-GCM, NIST SP 800-38D). Slot is "password", "token", "secret"
// or "secret-old"; of a sign-in "client", "client-secret", "access" or "refresh". Bound is the only origin it may be sent to or used towards, as
// [house.Origin] writes it; "" for one that is only checked against. Value is "" but for
// what an older house kept in the clear.
type Secret struct {
	Channel int64  `gorm:"primaryKey;autoIncrement:false"`
	Name    string `gorm:"primaryKey"`
	Slot    string `gorm:"primaryKey"`
	Value   string `gorm:"not null"`
	Sealed  []byte
	Bound   string `gorm:"not null;default:''"`
}

// Errors of secrets.
var (
	ErrBound = errors.New("its secret was given for another address; enter it anew for this one")
	ErrKey   = errors.New("its secret was kept under another key; bring the key back, or enter the secret anew")
	errNoKey = errors.New("store: no key to keep secrets under")
)

// keyBytes is the length of a key.
const keyBytes = 32

// UseKey says which key secrets are kept under, 32 bytes of it.
func (s *Safe) UseKey(key []byte) error {
	block, err := aes.NewCipher(key)
	if err != nil || len(key) != keyBytes {
		return fmt.Errorf("the key has %d bytes; it must have %d", len(key), keyBytes)
	}
	s.aead, err = cipher.NewGCM(block)
	return err
}

// Key reads a key from a text, or else from a file, which is made when it is not there.
// In both it stands as base64. A file that others can read is refused.
func Key(text, file string) ([]byte, error) {
	if text == "" {
		raw, err := os.ReadFile(file)
		if errors.Is(err, fs.ErrNotExist) {
			return makeKey(file)
		}
		if err != nil {
			return nil, fmt.Errorf("the key cannot be read: %w", err)
		}
		if st, err := os.Stat(file); err == nil && st.Mode().Perm()&0o077 != 0 {
			return nil, fmt.Errorf("others can read the key in %s: make it yours alone (chmod 600)", file)
		}
		text = string(raw)
	}
	key, err := base64.StdEncoding.DecodeString(strings.TrimSpace(text))
	if err != nil || len(key) != keyBytes {
		return nil, fmt.Errorf("the key is not %d bytes in base64", keyBytes)
	}
	return key, nil
}

func makeKey(file string) ([]byte, error) {
	key := make([]byte, keyBytes)
	rand.Read(key)
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return nil, fmt.Errorf("the key cannot be kept: %w", err)
	}
	f, err := os.OpenFile(file, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return nil, fmt.Errorf("the key cannot be kept: %w", err)
	}
	if _, err = f.WriteString(base64.StdEncoding.EncodeToString(key) + "\n"); err == nil {
		err = f.Sync()
	}
	return key, errors.Join(err, f.Close())
}

// extra is what a sealed secret is only good together with: whose it is, and where it
// may go.
func (x *Secret) extra() []byte {
	return fmt.Appendf(nil, "%d\x00%s\x00%s\x00%s", x.Channel, x.Name, x.Slot, x.Bound)
}

func (s *Safe) seal(x *Secret, value string) error {
	if s.aead == nil {
		return errNoKey
	}
	nonce := make([]byte, s.aead.NonceSize())
	rand.Read(nonce)
	x.Value, x.Sealed = "", s.aead.Seal(nonce, nonce, []byte(value), x.extra())
	return nil
}

func (s *Safe) open(x *Secret) (string, error) {
	if s.aead == nil {
		return "", errNoKey
	}
	n := s.aead.NonceSize()
	if len(x.Sealed) < n {
		return "", ErrKey
	}
	value, err := s.aead.Open(nil, x.Sealed[:n], x.Sealed[n:], x.extra())
	if err != nil {
		return "", ErrKey
	}
	return string(value), nil
}

// Seal is a value that only this house can open, under its key and under this name.
func (s *Safe) Seal(channel int64, name string, value []byte) ([]byte, error) {
	x := Secret{Channel: channel, Name: name}
	err := s.seal(&x, string(value))
	return x.Sealed, err
}

// Open is the value that was sealed under a name.
func (s *Safe) Open(channel int64, name string, sealed []byte) ([]byte, error) {
	value, err := s.open(&Secret{Channel: channel, Name: name, Sealed: sealed})
	return []byte(value), err
}

// SetSecret keeps a secret under a name, for the settings it belongs to.
func (s *Safe) SetSecret(ctx context.Context, channel int64, settings *housefile.Settings, name, slot, value string) error {
	bound, ok := settings.SecretFor(name, slot)
	if !ok {
		return fmt.Errorf("there is no door, place or fitting %q that has a %s", name, slot)
	}
	x := Secret{Channel: channel, Name: name, Slot: slot, Bound: bound}
	if err := s.seal(&x, value); err != nil {
		return err
	}
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&x).Error
}

// AlsoUnder keeps what is kept under a name under another one too, bound as it was: what is
// renamed keeps its secret, and has it again when the new name is taken back.
func (s *Safe) AlsoUnder(ctx context.Context, channel int64, name, also string) error {
	var xs []Secret
	if err := s.DB.WithContext(ctx).Where("channel = ? AND name = ?", channel, name).Find(&xs).Error; err != nil {
		return err
	}
	for i := range xs {
		value, err := s.open(&xs[i])
		if err != nil { // kept under a key that is gone: it goes nowhere under any name
			continue
		}
		x := Secret{Channel: channel, Name: also, Slot: xs[i].Slot, Bound: xs[i].Bound}
		if err := s.seal(&x, value); err != nil {
			return err
		}
		if err := s.DB.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&x).Error; err != nil {
			return err
		}
	}
	return nil
}

// DropSecret forgets one secret.
func (s *Safe) DropSecret(ctx context.Context, channel int64, name, slot string) error {
	return s.DB.WithContext(ctx).Where("channel = ? AND name = ? AND slot = ?", channel, name, slot).Delete(&Secret{}).Error
}

// AllSlots lists which secrets are kept, by name.
func (s *Safe) AllSlots(ctx context.Context, channel int64) (map[string][]string, error) {
	var xs []Secret
	if err := s.DB.WithContext(ctx).Select("name", "slot").Where("channel = ?", channel).Order("name, slot").Find(&xs).Error; err != nil {
		return nil, err
	}
	out := map[string][]string{}
	for _, x := range xs {
		out[x.Name] = append(out[x.Name], x.Slot)
	}
	return out, nil
}

// Rekey keeps every secret that was kept under one key under another. The store then uses that one.
func (s *Safe) Rekey(ctx context.Context, was, now []byte) error {
	var xs []Secret
	if err := s.DB.WithContext(ctx).Find(&xs).Error; err != nil {
		return err
	}
	for i := range xs {
		x := &xs[i]
		if err := s.UseKey(was); err != nil {
			return err
		}
		value, err := s.open(x)
		if err != nil { // it was kept under a third one already
			continue
		}
		if err := s.UseKey(now); err != nil {
			return err
		}
		if err := s.seal(x, value); err != nil {
			return err
		}
		if err := s.DB.WithContext(ctx).Save(x).Error; err != nil {
			return err
		}
	}
	return s.UseKey(now)
}

// SealSecrets seals what an older house kept in the clear, for where the settings lead
// now. What they no longer know goes nowhere.
func (s *Safe) SealSecrets(ctx context.Context, channel int64, settings *housefile.Settings) error {
	var xs []Secret
	if err := s.DB.WithContext(ctx).Where("channel = ? AND value <> ''", channel).Find(&xs).Error; err != nil {
		return err
	}
	for i := range xs {
		x := &xs[i]
		x.Bound, _ = settings.SecretFor(x.Name, x.Slot)
		if err := s.seal(x, x.Value); err != nil {
			return err
		}
		if err := s.DB.WithContext(ctx).Save(x).Error; err != nil {
			return err
		}
	}
	return nil
}

// Secrets returns the secrets of a name by slot, to check against. None of them may be
// sent anywhere: see [Store.SecretTo].
func (s *Safe) Secrets(ctx context.Context, channel int64, name string) (map[string]string, error) {
	var xs []Secret
	if err := s.DB.WithContext(ctx).Where("channel = ? AND name = ?", channel, name).Find(&xs).Error; err != nil {
		return nil, err
	}
	out := map[string]string{}
	for i := range xs {
		value, err := s.open(&xs[i])
		if err != nil {
			return nil, err
		}
		out[xs[i].Slot] = value
	}
	return out, nil
}

// Values are all secrets of a channel, to blank them wherever somebody tells one back. What is kept
// under a key that is gone is told by nobody.
func (s *Safe) Values(ctx context.Context, channel int64) ([]string, error) {
	var xs []Secret
	if err := s.DB.WithContext(ctx).Where("channel = ? AND slot <> 'client'", channel).Find(&xs).Error; err != nil { // a client id is no secret (RFC 6749, section 2.2)
		return nil, err
	}
	var out []string
	for i := range xs {
		if value, err := s.open(&xs[i]); err == nil {
			out = append(out, value)
		}
	}
	return out, nil
}

// SecretTo returns a secret that is to be sent to an address or used towards it; "" when
// there is none, ErrBound when it was given for another.
func (s *Safe) SecretTo(ctx context.Context, channel int64, name, slot, address string) (string, error) {
	var x Secret
	res := s.DB.WithContext(ctx).Where("channel = ? AND name = ? AND slot = ?", channel, name, slot).Limit(1).Find(&x)
	if res.Error != nil || res.RowsAffected == 0 {
		return "", res.Error
	}
	if origin := housefile.Origin(address); origin == "" || x.Bound != origin {
		return "", ErrBound
	}
	return s.open(&x)
}

// SecretSlots lists which secrets are kept under a name.
func (s *Safe) SecretSlots(ctx context.Context, channel int64, name string) (slots []string, err error) {
	return slots, s.DB.WithContext(ctx).Model(&Secret{}).Where("channel = ? AND name = ?", channel, name).Pluck("slot", &slots).Error
}
