package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"vividporch/core/expect"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
	"vividporch/core/room"
)

func rehearseCommand() *cobra.Command {
	var houseFile, peopleFile, script, format, keep, expected string
	c := &cobra.Command{Use: "rehearse", Short: "Live a scripted evening in virtual time, with no database and no network", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if format != "text" && format != "jsonl" {
				return fmt.Errorf("--format is %q: use text or jsonl", format)
			}
			raw, err := os.ReadFile(houseFile)
			if err != nil {
				return fmt.Errorf("--house: %w", err)
			}
			s, err := housefile.ReadSettings(raw)
			if err != nil {
				return fmt.Errorf("%s: %w", houseFile, err)
			}
			book := rehearsal.NewBook()
			if peopleFile != "" {
				f, err := os.Open(peopleFile)
				if err != nil {
					return fmt.Errorf("--people: %w", err)
				}
				defer f.Close()
				if book, err = rehearsal.ReadBook(f); err != nil {
					return fmt.Errorf("%s: %w", peopleFile, err)
				}
			}
			if book.Seed != "" {
				s.Seed = book.Seed
			}
			if book.Zone != "" {
				s.Zone = book.Zone
			}
			plan, faults := house.Ready(s, 1)
			if len(faults) > 0 {
				for _, f := range faults {
					fmt.Fprintln(os.Stderr, f.Error())
				}
				return fmt.Errorf("%s has %s", houseFile, counted(len(faults), "fault"))
			}
			f, err := os.Open(script)
			if err != nil {
				return fmt.Errorf("--script: %w", err)
			}
			defer f.Close()
			evs, err := rehearsal.ReadScript(f)
			if err != nil {
				return fmt.Errorf("%s: %w", script, err)
			}
			if keep != "" || expected != "" {
				return held(c, plan, &rehearsal.Evening{Book: book, Script: evs}, keep, expected)
			}
			w := bufio.NewWriter(c.OutOrStdout())
			if err := rehearsal.Write(w, format, plan, book, evs); err != nil {
				return err
			}
			return w.Flush()
		}}
	f := c.Flags()
	f.StringVar(&houseFile, "house", "", "house file (JSON)")
	f.StringVar(&peopleFile, "people", "", "people file (JSON Lines); without it everybody is new")
	f.StringVar(&script, "script", "", "events, one a line, in time order (JSON Lines)")
	f.StringVar(&format, "format", "text", "text or jsonl")
	f.StringVar(&keep, "keep", "", "write what is said and done into this file, as what is expected from now on (JSON)")
	f.StringVar(&expected, "expect", "", "hold the evening to what this file expects; list each difference, and exit with 1 when there is one")
	c.MarkFlagsMutuallyExclusive("keep", "expect")
	c.MarkFlagRequired("house")
	c.MarkFlagRequired("script")
	return c
}

// held keeps how an evening goes as what is expected of it, or holds it to what was.
func held(c *cobra.Command, plan *room.Plan, ev *rehearsal.Evening, keep, expected string) error {
	var want expect.Expected
	if expected != "" {
		f, err := os.Open(expected)
		if err != nil {
			return fmt.Errorf("--expect: %w", err)
		}
		defer f.Close()
		if want, err = expect.Read(f); err != nil {
			return fmt.Errorf("%s: %w", expected, err)
		}
	}
	lived, err := rehearsal.Live(c.Context(), plan, ev, nil)
	if err != nil {
		return err
	}
	if keep != "" {
		raw, err := json.MarshalIndent(expect.Of(lived), "", "  ")
		if err != nil {
			return err
		}
		if err := os.WriteFile(keep, append(raw, '\n'), 0o644); err != nil {
			return fmt.Errorf("--keep: %w", err)
		}
		_, err = fmt.Fprintf(c.OutOrStdout(), "%s kept in %s\n", counted(len(expect.Of(lived).Said), "line"), keep)
		return err
	}
	misses := want.Misses(lived)
	for _, m := range misses {
		fmt.Fprintln(c.OutOrStdout(), m.Says)
	}
	if len(misses) > 0 {
		return fmt.Errorf("%s from what is expected", counted(len(misses), "difference"))
	}
	_, err = fmt.Fprintf(c.OutOrStdout(), "the evening goes as expected: %s, %s\n", counted(len(want.Said), "line"), counted(len(want.Counts), "count"))
	return err
}

// counted writes a number of things: "1 fault", "3 faults".
func counted(n int, of string) string {
	if n == 1 {
		return "1 " + of
	}
	return fmt.Sprintf("%d %ss", n, of)
}
