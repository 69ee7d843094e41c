package main

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"vividporch/core/carry"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/formats"
	"vividporch/formats/bundle"
	"vividporch/porch"
	"vividporch/porch/desk"
	"vividporch/store"
	"vividporch/store/imports"
	"vividporch/store/log"
	"vividporch/store/members"
	"vividporch/store/tables"
)

// importCommand brings files in; what a file would do is shown first, and done only
// when asked for.
func importCommand() *cobra.Command {
	var o options
	var format, platform string
	var monthFirst, take bool
	people := &cobra.Command{Use: "people FILE", Short: "Bring people in from CSV, vCard, a people file or an old chat log",
		Long: "Shows what taking the file in would do. With --take it is taken in, in one transaction. FILE may be - for standard input.",
		Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			if err := o.check(); err != nil {
				return err
			}
			if format == "" {
				if format = formatOf(args[0]); format == "" {
					return fmt.Errorf("--format: the name %q does not tell it; use csv, vcf, ics, jsonl or chatlog", args[0])
				}
			}
			in := io.ReadCloser(os.Stdin)
			if args[0] != "-" {
				f, err := os.Open(args[0])
				if err != nil {
					return err
				}
				in = f
			}
			defer in.Close()
			return o.withHouse(c.Context(), func(ctx context.Context, h *porch.House, st *store.Store) error {
				im, notes, err := h.Desk.ReadFile(ctx, "the command line", filepath.Base(args[0]), format, in, formats.Options{Platform: strings.ToLower(platform), MonthFirst: monthFirst})
				if err != nil {
					return err
				}
				return takeIn(ctx, c.OutOrStdout(), h, st, im, notes, take)
			})
		}}
	o.flags(people)
	f := people.Flags()
	f.StringVar(&format, "format", "", "csv, vcf, ics, jsonl or chatlog; told by the file's name if it can be")
	f.StringVar(&platform, "platform", "", "the platform of accounts that name none")
	f.BoolVar(&monthFirst, "month-first", false, "in dates of digits the month comes first")
	f.BoolVar(&take, "take", false, "take it in, instead of only showing what it would do")
	cmd := &cobra.Command{Use: "import", Short: "Bring files in: people, house"}
	cmd.AddCommand(people, importHouse())
	return cmd
}

// importHouse takes a house file in.
func importHouse() *cobra.Command {
	var o options
	var take, whole, keepName bool
	var sections []string
	cmd := &cobra.Command{Use: "house FILE", Short: "Bring a house file in, whole or in part, alone or with its media as a ZIP",
		Long: "Shows what would change. With --take it comes into force, as one version that can be undone.",
		Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			if err := o.check(); err != nil {
				return err
			}
			raw, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			var media []bundle.File
			if bytes.HasPrefix(raw, []byte("PK")) {
				if raw, media, err = bundle.Read(raw); err != nil {
					return fmt.Errorf("%s: %w", args[0], err)
				}
			}
			in, err := carry.Read(raw)
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			return o.withHouse(c.Context(), func(ctx context.Context, h *porch.House, st *store.Store) error {
				now := h.Plan().Whole
				if !c.Flags().Changed("sections") {
					sections = in.Usual(now.Channel)
				}
				t := desk.Taking{File: in, Sections: sections, Whole: whole, KeepName: keepName}
				for _, m := range media {
					t.Media = append(t.Media, desk.NewMedium(h.ID, m.Name, m.Info, m.Data))
				}
				next, err := t.Onto(now)
				if err != nil {
					return err
				}
				diff, err := housefile.Compare(now, next)
				if err != nil {
					return err
				}
				more, err := h.Desk.CrewChanges(ctx, in.Crews(sections))
				if err != nil {
					return err
				}
				w := c.OutOrStdout()
				for _, d := range append(diff, more...) {
					fmt.Fprintf(w, "%s\n  was %s\n  is  %s\n", d.At, d.Before, d.After)
				}
				fmt.Fprintf(w, "%s differ in %s\n", counted(len(diff)+len(more), "field"), strings.Join(sections, ", "))
				if !take {
					_, faults := house.Ready(next, 1)
					for _, f := range faults {
						fmt.Fprintln(w, "could not come into force:", f.Error())
					}
					fmt.Fprintf(w, "%s for the shelf\n", counted(len(media), "file"))
					fmt.Fprintln(w, "nothing was changed; add --take to take it in")
					return nil
				}
				version, err := h.Desk.TakeFile(ctx, desk.By{Member: "the command line", Role: members.RoleOwner}, t)
				if errors.Is(err, desk.ErrUnchanged) {
					version, err = h.Plan().Version, nil
				}
				if err != nil {
					return err
				}
				fmt.Fprintf(w, "version %d is in force\n", version)
				return nil
			})
		}}
	o.flags(cmd)
	f := cmd.Flags()
	f.BoolVar(&take, "take", false, "take it in, instead of only showing what it would do")
	f.BoolVar(&whole, "whole", false, "what the file does not hold goes")
	f.BoolVar(&keepName, "keep-name", false, "leave another channel's name inside as it is")
	f.StringSliceVar(&sections, "sections", nil, "those to take, such as courtesies,places; the usual ones otherwise")
	return cmd
}

func formatOf(name string) string {
	return map[string]string{".csv": "csv", ".tsv": "csv", ".vcf": "vcf", ".vcard": "vcf", ".ics": "ics", ".ical": "ics", ".jsonl": "jsonl", ".ndjson": "jsonl", ".log": "chatlog", ".txt": "chatlog"}[strings.ToLower(filepath.Ext(name))]
}

// takeIn shows a preview and, when asked, takes the import in.
func takeIn(ctx context.Context, w io.Writer, h *porch.House, st *store.Store, im *tables.Import, notes []string, take bool) error {
	var n imports.Counts
	if err := json.Unmarshal(im.Counts, &n); err != nil {
		return err
	}
	for _, note := range notes {
		fmt.Fprintln(w, note)
	}
	for after := 0; ; {
		rows, err := st.Imports.Rows(ctx, im.ID, imports.Refused, after, 500)
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			break
		}
		for _, r := range rows {
			fmt.Fprintf(w, "row %d refused: %s\n", r.Row, r.Why)
		}
		after = rows[len(rows)-1].Row
	}
	fmt.Fprintf(w, "%d new, %d changed, %d unchanged, %d refused; %d past streams, %d crews\n", n.New, n.Changed, n.Unchanged, n.Refused, n.Streams, n.Crews)
	if !take {
		fmt.Fprintln(w, "nothing was changed; add --take to take it in")
		return st.Imports.Drop(ctx, h.ID, im.ID)
	}
	if _, err := h.Desk.TakeIn(ctx, im.ID, false); err != nil {
		return err
	}
	fmt.Fprintf(w, "taken in as import %d; it can be taken back in the Guest book\n", im.ID)
	return nil
}

// withHouse opens the channel's house with its doors shut.
func (o *options) withHouse(ctx context.Context, f func(context.Context, *porch.House, *store.Store) error) error {
	st, err := o.open(ctx)
	if err != nil {
		return err
	}
	defer st.Close()
	if _, err := o.channelOf(ctx, st); err != nil {
		return err
	}
	doc, err := o.defaults()
	if err != nil {
		return err
	}
	h, stop, err := porch.Start(ctx, porch.Config{Store: st, Channel: o.channel, Defaults: doc, Shut: true, Log: o.log()})
	if errors.Is(err, log.ErrHeld) {
		return fmt.Errorf("the house of %s is running: use Bring in in its Guest book, or stop it first", o.channel)
	}
	if err != nil {
		return err
	}
	defer stop()
	return f(ctx, h, st)
}

func exportCommand() *cobra.Command {
	var o options
	var format, out string
	people := &cobra.Command{Use: "people", Short: "Write the guest book as CSV, vCard or a people file", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		if err := o.check(); err != nil {
			return err
		}
		return o.export(c, out, func(ctx context.Context, w io.Writer, st *store.Store, channel int64) error {
			s, err := o.settings(ctx, st, channel)
			if err != nil {
				return err
			}
			return formats.Export(ctx, w, format, st.Find, channel, nil, s)
		})
	}}
	log := &cobra.Command{Use: "log", Short: "Write the channel's log, one event a line (CloudEvents JSON)", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		if err := o.check(); err != nil {
			return err
		}
		return o.export(c, out, func(ctx context.Context, w io.Writer, st *store.Store, channel int64) error {
			enc := json.NewEncoder(w)
			enc.SetEscapeHTML(false)
			return st.Log.Since(ctx, channel, 0, 0, func(en log.Entry) error { return enc.Encode(en.Event) })
		})
	}}
	var parts []string
	var withMedia bool
	houseFile := &cobra.Command{Use: "house", Short: "Write the house file, or some courtesies with the places they need", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		if err := o.check(); err != nil {
			return err
		}
		return o.export(c, out, func(ctx context.Context, w io.Writer, st *store.Store, channel int64) error {
			s, err := o.settings(ctx, st, channel)
			if err != nil {
				return err
			}
			doc, media, err := desk.HouseFile(ctx, st, channel, s, parts)
			if err != nil {
				return err
			}
			if withMedia {
				return desk.Bundle(ctx, st, channel, doc, media, w)
			}
			enc := json.NewEncoder(w)
			enc.SetEscapeHTML(false)
			enc.SetIndent("", "  ")
			return enc.Encode(doc)
		})
	}}
	houseFile.Flags().StringSliceVar(&parts, "courtesies", nil, "ids of those to write; all settings otherwise")
	houseFile.Flags().BoolVar(&withMedia, "media", false, "with the pictures, sounds and films it uses, as a ZIP")
	for _, c := range []*cobra.Command{people, log, houseFile} {
		o.flags(c)
		c.Flags().StringVar(&out, "out", "-", "file to write; - is standard output")
	}
	people.Flags().StringVar(&format, "format", "jsonl", "csv, vcf or jsonl")
	cmd := &cobra.Command{Use: "export", Short: "Write files: people, house, log"}
	cmd.AddCommand(people, houseFile, log)
	return cmd
}

// export opens the database, which may be in use, and writes a file from it.
func (o *options) export(c *cobra.Command, out string, f func(context.Context, io.Writer, *store.Store, int64) error) error {
	ctx := c.Context()
	st, err := o.open(ctx)
	if err != nil {
		return err
	}
	defer st.Close()
	id, err := o.channelOf(ctx, st)
	if err != nil {
		return err
	}
	w := c.OutOrStdout()
	if out != "-" {
		file, err := os.Create(out)
		if err != nil {
			return err
		}
		defer file.Close()
		w = file
	}
	buf := bufio.NewWriter(w)
	if err := f(ctx, buf, st, id); err != nil {
		return err
	}
	return buf.Flush()
}
