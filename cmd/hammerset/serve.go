package main

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"time"

	"github.com/spf13/cobra"

	"hammerset/api"
	"hammerset/demo"
	"hammerset/school"
	"hammerset/store"
	"hammerset/store/local"
	"hammerset/web"
	"hammerset/work"
)

// settings are the flags that the serving commands share.
type settings struct {
	dsn     string
	address string
	data    string
	workers int
	check   time.Duration
	whole   bool // the demo with the whole school
}

func (s *settings) flags(cmd *cobra.Command) {
	cmd.Flags().StringVar(&s.dsn, "database", os.Getenv("HAMMERSET_DATABASE"),
		"database address user:password@tcp(host:port)/name; empty starts a MariaDB of our own")
	cmd.Flags().StringVar(&s.data, "data", "var", "folder for the data of our own MariaDB")
	cmd.Flags().IntVar(&s.workers, "workers", max(1, runtime.NumCPU()),
		"checks at the same time; 0 leaves them to hammerset work")
	cmd.Flags().DurationVar(&s.check, "longest-check", 3*time.Minute, "time after which a check is given up")
}

// open connects to the database, starting our own where no address is given.
func (s *settings) open(ctx context.Context) (*store.Store, func(), error) {
	stop := func() {}
	dsn := s.dsn
	if dsn == "" {
		fmt.Println("Starting MariaDB ...")
		server, err := local.Start(ctx, filepath.Join(s.data, "mariadb"))
		if err != nil {
			return nil, nil, err
		}
		stop, dsn = server.Stop, server.DSN
	}
	st, err := store.Open(ctx, dsn)
	if err == nil {
		err = st.Migrate(ctx)
	}
	if err != nil {
		stop()
		return nil, nil, err
	}
	return st, func() { st.Close(); stop() }, nil
}

func serveCommand() *cobra.Command {
	var s settings
	cmd := &cobra.Command{Use: "serve", Short: "Serve the application with its workers", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return serve(cmd.Context(), &s, false) }}
	s.flags(cmd)
	cmd.Flags().StringVar(&s.address, "address", "127.0.0.1:8080", "address to serve on")
	return cmd
}

func demoCommand() *cobra.Command {
	var s settings
	cmd := &cobra.Command{Use: "demo", Short: "Serve the application with the demo school", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return serve(cmd.Context(), &s, true) }}
	s.flags(cmd)
	cmd.Flags().BoolVar(&s.whole, "whole", true, "load the whole school; without it two exercises and a few attempts")
	cmd.Flags().StringVar(&s.address, "address", "127.0.0.1:8080", "address to serve on")
	return cmd
}

func workCommand() *cobra.Command {
	var s settings
	cmd := &cobra.Command{Use: "work", Short: "Run workers only, on the database of a server", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if s.dsn == "" {
				b, err := os.ReadFile(filepath.Join(s.data, "mariadb", "dsn"))
				if err != nil {
					return fmt.Errorf("give the database with --database, or start the server first: %w", err)
				}
				s.dsn = strings.TrimSpace(string(b))
			}
			st, done, err := s.open(cmd.Context())
			if err != nil {
				return err
			}
			defer done()
			p, err := kernels(s.workers, s.check)
			if err != nil {
				return err
			}
			defer p.Close()
			w := &work.Worker{Store: st, School: school.New(st, p), Kernel: p, Log: slog.Default()}
			w.Run(cmd.Context(), s.workers)
			return nil
		}}
	s.flags(cmd)
	return cmd
}

func migrateCommand() *cobra.Command {
	var s settings
	cmd := &cobra.Command{Use: "migrate", Short: "Bring the tables of the database up to date", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			_, done, err := s.open(cmd.Context())
			if err != nil {
				return err
			}
			done()
			return nil
		}}
	s.flags(cmd)
	return cmd
}

func serve(ctx context.Context, s *settings, withDemo bool) error {
	listener, err := net.Listen("tcp", s.address)
	if err != nil {
		return fmt.Errorf("the address %s cannot be used (%v); stop what uses it or choose another with --address or make "+
			"demo PORT=", s.address, errors.Unwrap(err))
	}
	defer listener.Close()
	dist, err := fs.Sub(web.Dist, "dist")
	if err != nil {
		return err
	}
	if _, err := fs.Stat(dist, "index.html"); err != nil {
		return errors.New("the interface is not built into this program: run make build")
	}
	st, done, err := s.open(ctx)
	if err != nil {
		return err
	}
	defer done()
	p, err := kernels(s.workers+1, s.check)
	if err != nil {
		return err
	}
	defer p.Close()
	sc := school.New(st, p)
	var back []demo.Back
	if withDemo {
		var loaded bool
		if loaded, back, err = demo.Load(ctx, st, sc, p, s.whole); err != nil {
			return fmt.Errorf("the demo data: %w", err)
		}
		if loaded {
			fmt.Println("The demo school is loaded; its attempts are being checked.")
		}
	}
	handler, err := api.New(sc, st.Sessions(), dist, slog.Default())
	if err != nil {
		return err
	}
	var wg sync.WaitGroup
	workers, stopWorkers := context.WithCancel(ctx)
	wg.Go(func() { (&work.Worker{Store: st, School: sc, Kernel: p, Log: slog.Default()}).Run(workers, s.workers) })
	wg.Go(func() {
		if err := demo.Settle(workers, sc, back); err != nil && workers.Err() == nil {
			slog.Error("the demo's returns", "error", err)
		}
	})
	server := &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second,
		BaseContext: func(net.Listener) context.Context {
			return ctx
		}}
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(listener) }()
	fmt.Printf("\nHammerset is at http://%s\n", listener.Addr())
	if withDemo {
		fmt.Printf("\nDemo logins, all with the password %s:\n", demo.Password)
		for _, l := range demo.Logins() {
			fmt.Printf("  %-10s %s (%s)\n", l.Login, l.Name, l.Role)
		}
		fmt.Println("\nCtrl-C stops everything.")
	}
	select {
	case err = <-failed:
	case <-ctx.Done():
		fmt.Println("\nStopping ...")
		end, cancel := context.WithTimeout(context.Background(), 5*time.Second)
		defer cancel()
		if server.Shutdown(end) != nil {
			server.Close() // streams that stay open
		}
		err = nil
	}
	stopWorkers()
	wg.Wait()
	return err
}
