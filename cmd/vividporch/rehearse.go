package main

import (
	"bufio"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
)

func rehearseCommand() *cobra.Command {
	var houseFile, peopleFile, script, format string
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
	c.MarkFlagRequired("house")
	c.MarkFlagRequired("script")
	return c
}

// counted writes a number of things: "1 fault", "3 faults".
func counted(n int, of string) string {
	if n == 1 {
		return "1 " + of
	}
	return fmt.Sprintf("%d %ss", n, of)
}
