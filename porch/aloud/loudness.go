// Package aloud has to do with what is heard: how loud a file is, and words made speech. Both are done by programs of the
// system, ffmpeg and espeak-ng, which are handed data on their standard input, reach no file and no network, and are
// stopped when they take too long. A house without them plays files as loud as they are, and speaks nothing.
package aloud

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os/exec"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// Bounds of what a program may take.
const (
	processor = 20 * time.Second // of its own time
	within    = 60 * time.Second // of anybody's
	mostSaid  = 1 << 20          // bytes that it says about it
)

// Loudness is what was measured of a file by EBU R 128: its integrated loudness in LUFS and its true peak in dBTP. Known is
// false for one that nobody measured.
type Loudness struct {
	LUFS, Peak float64
	Known      bool
}

// What may keep a file from being measured, and words from being spoken.
var (
	ErrNoProgram = errors.New("the program for it is not installed")
	ErrSilent    = errors.New("nothing of it can be heard")
)

// containers are what files are read as: as what they were recognised, whatever they say of themselves.
var containers = map[string]string{"audio/wav": "wav", "audio/ogg": "ogg", "audio/mpeg": "mp3", "audio/mp4": "mov", "video/mp4": "mov", "video/webm": "matroska"}

// silence is what the filter says of a file in which nothing is heard, in LUFS (the absolute gate of BS.1770).
const silence = -70

// Measure measures how loud a file of a media type is.
func Measure(ctx context.Context, data []byte, kind string) (Loudness, error) {
	container, ok := containers[kind]
	if !ok {
		return Loudness{}, ErrSilent
	}
	from := "pipe:0"
	if container == "mov" { // whose table of contents may stand at its end
		from = "cache:pipe:0"
	}
	_, said, err := run(ctx, data, "ffmpeg", "-hide_banner", "-nostats", "-protocol_whitelist", "cache,pipe", "-f", container, "-i", from,
		"-map", "0:a:0", "-af", "ebur128=peak=true:framelog=verbose", "-t", "600", "-f", "null", "-")
	if err != nil {
		if strings.Contains(string(said), "matches no streams") {
			return Loudness{}, ErrSilent
		}
		return Loudness{}, fmt.Errorf("it cannot be measured: %w", err)
	}
	at := bytes.LastIndex(said, []byte("Summary:"))
	if at < 0 {
		return Loudness{}, ErrSilent
	}
	lufs, okI := number(integrated, said[at:])
	peak, okP := number(truePeak, said[at:])
	if !okI || lufs <= silence {
		return Loudness{}, ErrSilent
	}
	if !okP {
		peak = 0
	}
	return Loudness{LUFS: lufs, Peak: peak, Known: true}, nil
}

var (
	integrated = regexp.MustCompile(`I:\s+(-?[\d.]+) LUFS`)
	truePeak   = regexp.MustCompile(`Peak:\s+(-?[\d.]+) dBFS`)
)

func number(re *regexp.Regexp, in []byte) (float64, bool) {
	m := re.FindSubmatch(in)
	if m == nil {
		return 0, false
	}
	n, err := strconv.ParseFloat(string(m[1]), 64)
	return n, err == nil
}

// run has a program read data and answers with what it wrote.
func run(ctx context.Context, data []byte, program string, args ...string) (out, said []byte, err error) {
	path, err := exec.LookPath(program)
	if err != nil {
		return nil, nil, ErrNoProgram
	}
	ctx, cancel := context.WithTimeout(ctx, within)
	defer cancel()
	limited := append([]string{"-c", fmt.Sprintf(`ulimit -t %d; exec "$0" "$@"`, int(processor.Seconds())), path}, args...)
	cmd := exec.CommandContext(ctx, "/bin/sh", limited...)
	cmd.Env = []string{"LC_ALL=C.UTF-8"} // nothing of the house's own
	cmd.Dir = "/"
	cmd.Stdin = bytes.NewReader(data)
	var o, e bounded
	o.most, e.most = mostOut, mostSaid
	cmd.Stdout, cmd.Stderr = &o, &e
	cmd.WaitDelay = time.Second
	err = cmd.Run()
	return o.Bytes(), e.Bytes(), err
}

// bounded keeps what is written up to a bound, and passes the rest over.
type bounded struct {
	bytes.Buffer
	most int
}

func (b *bounded) Write(p []byte) (int, error) {
	if room := b.most - b.Len(); room < len(p) {
		b.Buffer.Write(p[:max(0, room)])
		return len(p), nil
	}
	return b.Buffer.Write(p)
}
