package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"hammerset/school"
	"hammerset/store"
)

// administratorCommand makes the account that a new school begins with: whoever runs the server makes it, since nobody
// can sign in yet.
func administratorCommand() *cobra.Command {
	var s settings
	var name string
	cmd := &cobra.Command{Use: "administrator LOGIN", Args: cobra.ExactArgs(1),
		Short: "Make an administrator's account, or give one that there is a new first password",
		RunE: func(cmd *cobra.Command, args []string) error {
			st, done, err := s.join(cmd.Context())
			if err != nil {
				return err
			}
			defer done()
			slip, err := school.New(st, nil).MakeAdministrator(cmd.Context(), name, args[0])
			if err != nil {
				return err
			}
			fmt.Printf("%s signs in as %s with the first password %s\n", slip.Name, slip.Login, slip.Password)
			fmt.Println("It is shown this once, and is changed at the first sign-in.")
			return nil
		}}
	s.flags(cmd)
	cmd.Flags().StringVar(&name, "name", "Administrator", "name of the person")
	return cmd
}

// join connects to the database of a server that may be running, or else opens it.
func (s *settings) join(ctx context.Context) (*store.Store, func(), error) {
	if s.dsn == "" {
		if dsn, err := os.ReadFile(filepath.Join(s.data, "mariadb", "dsn")); err == nil {
			if st, err := store.Open(ctx, strings.TrimSpace(string(dsn))); err == nil {
				return st, func() { st.Close() }, st.Migrate(ctx)
			}
		}
	}
	return s.open(ctx)
}
