// Package vtt writes and reads chapters as WebVTT (https://www.w3.org/TR/webvtt1/, "chapter cues"): each from its
// moment to the next one's.
package vtt

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"
)

// Chapter begins so far into a recording.
type Chapter struct {
	At    time.Duration
	Title string
}

// Write writes chapters in their order; the last one ends with the recording. about is a line of its own for whoever
// reads the file, "" for none. A recording has a chapter from its very beginning on, named begins where none is set
// there.
func Write(w io.Writer, about, begins string, list []Chapter, end time.Duration) error {
	out := bufio.NewWriter(w)
	out.WriteString("WEBVTT\n")
	if about = line(about); about != "" {
		fmt.Fprintf(out, "\nNOTE %s\n", about)
	}
	if len(list) == 0 || list[0].At > 0 {
		list = append([]Chapter{{0, begins}}, list...)
	}
	for i, c := range list {
		until := max(end, c.At+time.Second)
		if i+1 < len(list) {
			until = max(list[i+1].At, c.At+time.Millisecond)
		}
		fmt.Fprintf(out, "\n%d\n%s --> %s\n%s\n", i+1, stamp(c.At), stamp(until), escape(line(c.Title)))
	}
	return out.Flush()
}

// stamp writes a time as WebVTT has it: "01:02:33.000".
func stamp(d time.Duration) string {
	ms := max(0, d.Milliseconds())
	return fmt.Sprintf("%02d:%02d:%02d.%03d", ms/3_600_000, ms/60_000%60, ms/1000%60, ms%1000)
}

// line is a text on one line, and never one that ends a cue.
func line(s string) string {
	return strings.ReplaceAll(strings.Join(strings.Fields(s), " "), "-->", "→")
}

var escaper = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;")
var unescaper = strings.NewReplacer("&lt;", "<", "&gt;", ">", "&amp;", "&")

func escape(s string) string { return escaper.Replace(s) }

// Read reads the chapters of a file.
func Read(r io.Reader) ([]Chapter, error) {
	in := bufio.NewScanner(r)
	if !in.Scan() || !strings.HasPrefix(strings.TrimPrefix(in.Text(), "\ufeff"), "WEBVTT") {
		return nil, errors.New("it does not begin with WEBVTT: this is no chapter file")
	}
	var out []Chapter
	for n := 2; in.Scan(); n++ {
		from, _, ok := strings.Cut(in.Text(), " --> ")
		if !ok {
			continue
		}
		at, err := parse(from)
		if err != nil {
			return nil, fmt.Errorf("line %d: %w", n, err)
		}
		c := Chapter{At: at}
		if in.Scan() {
			n++
			c.Title = unescaper.Replace(in.Text())
		}
		out = append(out, c)
	}
	return out, in.Err()
}

func parse(s string) (time.Duration, error) {
	var h, m, sec, ms int
	if n, err := fmt.Sscanf(strings.TrimSpace(s), "%d:%d:%d.%d", &h, &m, &sec, &ms); err != nil || n != 4 {
		return 0, fmt.Errorf("%q is no time; write hours, minutes, seconds and thousandths: 01:02:33.000", s)
	}
	return time.Duration(h)*time.Hour + time.Duration(m)*time.Minute + time.Duration(sec)*time.Second + time.Duration(ms)*time.Millisecond, nil
}
