package main

import (
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"vividporch/outside"
)

func secretCommand() *cobra.Command {
	var o options
	c := &cobra.Command{Use: "secret NAME SLOT", Short: "Keep a door's or place's password or signing secret, read from standard input",
		Long: "SLOT is password (of a chat door), secret (a Standard Webhooks secret, whsec_…) or secret-old (still valid during a rotation).",
		Args: cobra.ExactArgs(2), RunE: func(c *cobra.Command, args []string) error {
			if err := o.check(); err != nil {
				return err
			}
			if s := args[1]; s != "password" && s != "secret" && s != "secret-old" {
				return fmt.Errorf("SLOT is %q: use password, secret or secret-old", s)
			}
			raw, err := io.ReadAll(io.LimitReader(os.Stdin, 4096))
			if err != nil {
				return err
			}
			st, err := o.open(c.Context())
			if err != nil {
				return err
			}
			defer st.Close()
			id, err := o.channelOf(c.Context(), st)
			if err != nil {
				return err
			}
			settings, err := o.settings(c.Context(), st, id)
			if err != nil {
				return err
			}
			return st.Safe.SetSecret(c.Context(), id, settings, args[0], args[1], strings.TrimSpace(string(raw)))
		}}
	o.flags(c)
	return c
}

func allowCommand() *cobra.Command {
	var o options
	var not bool
	c := &cobra.Command{Use: "allow [HOST]", Short: "Let the house reach a host on this machine or a private network, or list those it may reach",
		Long: "Everything the house connects to must be on the open network, but for the hosts allowed here. HOST is a name or a number as it stands in the\naddress, without scheme and port. The list is kept in the database and is never part of a house file. It holds within seconds.",
		Args: cobra.MaximumNArgs(1), RunE: func(c *cobra.Command, args []string) error {
			if err := o.check(); err != nil {
				return err
			}
			st, err := o.open(c.Context())
			if err != nil {
				return err
			}
			defer st.Close()
			id, err := o.channelOf(c.Context(), st)
			if err != nil {
				return err
			}
			if len(args) == 0 {
				list, err := st.Safe.Allowed(c.Context(), id)
				for _, x := range list {
					fmt.Fprintln(c.OutOrStdout(), x.Host)
				}
				return err
			}
			host, err := outside.ReadHost(args[0])
			if err != nil {
				return err
			}
			if not {
				return st.Safe.Disallow(c.Context(), id, host)
			}
			return st.Safe.Allow(c.Context(), id, host, false)
		}}
	o.flags(c)
	c.Flags().BoolVar(&not, "not", false, "take HOST off the list again")
	return c
}
