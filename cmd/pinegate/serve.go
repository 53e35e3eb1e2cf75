package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"os"
	"path/filepath"
	"runtime/debug"
	"strings"
	"time"

	"github.com/riverqueue/river"
	"github.com/spf13/cobra"

	"pinegate/app/act"
	"pinegate/app/imports"
	"pinegate/app/outside"
	"pinegate/app/run"
	"pinegate/demo"
	"pinegate/server"
	"pinegate/server/builder"
	"pinegate/server/gate"
	"pinegate/server/watch"
	"pinegate/standin/harbour"
	"pinegate/standin/mailbox"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apart"
	"pinegate/store/apps"
	"pinegate/store/chores"
	"pinegate/store/files"
	"pinegate/store/kept"
	"pinegate/store/localpg"
	"pinegate/store/once"
	"pinegate/store/runs"
	"pinegate/store/seal"
	"pinegate/web"
)

// options are the flags of serve.
type options struct {
	port           int
	data, database string
	files          string
	smtp, from     string
	address        string
	demo, fresh    bool
	secure, yes    bool
	proxies        []string // believed where requests come from
	quota          apps.Quota
	gigabytes      int64
	metrics        string
	traces         string
	serves         bool // and does not only do something
	here           bool // the database runs on this machine
	watch          *watch.Watch
	key            string   // file of the key of the server
	private        []string // networks that apps may call besides public ones
}

func serveCommand() *cobra.Command {
	var o options
	c := &cobra.Command{Use: "serve", Short: "Serve on loopback", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		return serve(c.Context(), o)
	}}
	f := c.Flags()
	f.IntVar(&o.port, "port", 8080, "port to listen on")
	f.StringVar(&o.data, "data", "data", "folder that holds all data")
	f.StringVar(&o.database, "database", "", "address of a PostgreSQL database; empty for a private one in the data folder")
	f.BoolVar(&o.here, "database-here", false,
		"the database runs on this machine, and its processes can be told to give way while they do what lasts")
	f.StringVar(&o.files, "files", "",
		"address of the store of files: file:///srv/files, or s3://BUCKET?endpoint=https://HOST&region=REGION; empty for a folder in the data folder")
	f.StringVar(&o.smtp, "smtp", "", "host:port of a mail server; empty for the built-in mailbox")
	f.StringVar(&o.from, "from", "no-reply@pinegate.example", "sender of mail")
	f.StringVar(&o.address, "address", "",
		"address by which browsers reach us, for links in mail, such as https://apps.yard.example; empty for loopback")
	f.StringVar(&o.key, "key", "",
		"file that holds the key with which secrets of apps are sealed; empty for one in the data folder. All servers of a database have the same")
	f.StringSliceVar(&o.private, "call-private", nil,
		"network, such as 10.1.2.0/24, that is not public and which apps may call all the same; may be given several times")
	f.BoolVar(&o.demo, "demo", false, "load the demo and offer its account")
	f.BoolVar(&o.fresh, "fresh", false, "load the demo anew; everything in the demo account is lost")
	f.BoolVar(&o.yes, "yes", false, "do not ask before --fresh")
	f.StringVar(&o.metrics, "metrics", "",
		"host:port on which figures are given at /metrics, in the text format of Prometheus; empty for nowhere")
	f.StringVar(&o.traces, "traces", "",
		"address to which traces are sent, such as http://127.0.0.1:4318, by OpenTelemetry's protocol; empty for nowhere")
	f.BoolVar(&o.secure, "secure", false, "browsers reach us over TLS")
	f.IntVar(&o.quota.Apps, "apps-per-workspace", 50, "most apps of a workspace; 0 for as many as they like")
	f.Int64Var(&o.gigabytes, "gigabytes-per-workspace", 10, "most gigabytes of the files of a workspace; 0 for as many as they like")
	f.StringSliceVar(&o.proxies, "trusted-proxy", nil,
		"network of proxies, such as 10.0.0.0/8 or 127.0.0.1, whose X-Forwarded-For says where requests come from; may be given several times")
	return c
}

// postgres finds the database, starting the private one if need be, and gives what
// ends that.
func (o options) postgres(ctx context.Context) (place, func() error, error) {
	stop := func() error { return nil }
	if o.database != "" {
		return place{Database: o.database, Here: o.here}, stop, nil
	}
	pg, err := localpg.Start(ctx, localpg.Options{Dir: filepath.Join(o.data, "postgres")})
	if err != nil {
		return place{}, nil, err
	}
	if pg.Moved != "" {
		fmt.Printf("PostgreSQL does not run as root and may not enter %s. The database is kept in %s.\n", o.data, pg.Moved)
	}
	if o.serves || !pg.Found { // a server that others serve with goes on
		stop = func() error { return pg.Stop(context.Background()) }
	}
	if o.serves {
		go pg.Watch(ctx)
	}
	return place{Database: pg.DSN("postgres"), Here: true}, stop, nil
}

// open connects to the database, and gives where that is and what ends it.
func (o options) open(ctx context.Context) (*store.Store, place, func() error, error) {
	at, stop, err := o.postgres(ctx)
	if err != nil {
		return nil, at, nil, err
	}
	if o.serves && at.Here {
		behind, err := localpg.OpenBehind()
		if err != nil {
			return nil, at, nil, errors.Join(err, stop())
		}
		at.Behind = behind.Dir()
		go lookAfter(ctx, behind)
	}
	how := at.options()
	if o.watch != nil {
		how.Observe = o.watch.Statement
	}
	s, err := store.OpenWith(ctx, at.Database, how)
	if err != nil {
		return nil, at, nil, errors.Join(err, stop())
	}
	return s, at, func() error { s.Close(); return stop() }, nil
}

// lookAfter sees that what gives way gets something now and then.
func lookAfter(ctx context.Context, b localpg.Behind) {
	if err := b.Watch(ctx); err != nil {
		slog.ErrorContext(ctx, "what gives way may stand still", "error", err)
	}
}

// blobs opens the store of files: the one at the address, or a folder of the
// data folder. Large pictures are made small by what the function gives for the address.
func (o options) blobs(ctx context.Context, small func(address string) *apart.Runner) (*files.Store, error) {
	address := o.files
	if address == "" {
		folder, err := filepath.Abs(filepath.Join(o.data, "files"))
		if err != nil {
			return nil, fmt.Errorf("find the folder of files: %w", err)
		}
		address = files.Folder(folder)
	}
	s, err := files.Open(ctx, address)
	if err != nil {
		return nil, err
	}
	s.Apart = small(address)
	return s, nil
}

// serverMemory is how much memory the server takes before it tidies up as hard as it can,
// unless GOMEMLIMIT says otherwise.
const serverMemory = 400 << 20

func serve(ctx context.Context, o options) (err error) {
	slog.SetDefault(slog.New(store.LogHandler(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelWarn}))))
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(serverMemory)
	}
	if err := server.Networks(o.proxies); err != nil {
		return fmt.Errorf("read --trusted-proxy: %w", err)
	}
	listener, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", o.port))
	if err != nil {
		return fmt.Errorf("listen (is another one running? choose a port with --port): %w", err)
	}
	if o.fresh && !o.yes &&
		!confirm("--fresh throws away every app of the demo account, with all its records and changes, and loads the demo anew.") {
		return errors.New("nothing was changed")
	}
	o.serves, o.watch = true, watch.New()
	stopWatching, err := o.watched(ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, stopWatching()) }()
	s, at, closeStore, err := o.open(ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, closeStore()) }()
	config, err := o.wire(ctx, s, at)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, config.Blobs.Close()) }()
	web := &http.Server{Handler: server.New(config), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute}
	context.AfterFunc(ctx, func() {
		stopping, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		if err := web.Shutdown(stopping); err != nil {
			slog.Warn("stop serving", "error", err)
		}
	})
	if o.smtp == "" && config.Demo == nil {
		fmt.Println("No mail server is set (--smtp). Mail stays in a mailbox of our own, and codes and links reach nobody.")
	}
	fmt.Printf("Pine Gate is at http://%s\n", listener.Addr())
	if err := web.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
		return fmt.Errorf("serve: %w", err)
	}
	stopping, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	return config.Gate.Stop(stopping)
}

// watched lets others see how the server is, and gives what ends that.
func (o options) watched(ctx context.Context) (stop func() error, err error) {
	figures := &http.Server{Handler: o.watch.Handler(), ReadHeaderTimeout: 10 * time.Second}
	endTraces := func(context.Context) error { return nil }
	if o.traces != "" {
		if endTraces, err = watch.Traces(ctx, strings.TrimSuffix(o.traces, "/")); err != nil {
			return nil, err
		}
	}
	if o.metrics != "" {
		listener, err := net.Listen("tcp", o.metrics)
		if err != nil {
			return nil, fmt.Errorf("listen for those who ask for figures: %w", err)
		}
		go func() {
			if err := figures.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
				slog.ErrorContext(ctx, "give figures", "error", err)
			}
		}()
	}
	return func() error {
		stopping, cancel := context.WithTimeout(context.Background(), 5*time.Second)
		defer cancel()
		return errors.Join(figures.Close(), endTraces(stopping))
	}, nil
}

// wire puts the parts of the server together.
func (o options) wire(ctx context.Context, s *store.Store, at place) (server.Config, error) {
	c := server.Config{Store: s, Live: s.Listen(ctx), Apps: apps.New(s), Accounts: accounts.New(s), Files: web.Dist(),
		Secure: o.secure, Proxies: o.proxies, Once: once.In(s.DB), Kept: kept.In(s.DB), Watch: o.watch, Holding: server.UsualHolding(),
		FormTime: 2 * time.Second}
	o.watch.Store(s)
	var err error
	if c.Blobs, err = o.blobs(ctx, at.pictures); err != nil {
		return c, err
	}
	o.quota.Bytes = o.gigabytes * 1e9
	c.Apps.Bound(o.quota)
	mailer := gate.Mailer{Address: o.smtp, From: o.from, Base: strings.TrimSuffix(o.address, "/")}
	if mailer.Base == "" {
		mailer.Base = fmt.Sprintf("http://127.0.0.1:%d", o.port)
	}
	c.Base = mailer.Base
	if o.smtp == "" {
		c.Mailbox = mailbox.New(s)
		address, err := c.Mailbox.Serve(ctx)
		if err != nil {
			return c, err
		}
		mailer.Address = address
	}
	if o.demo || o.fresh {
		account, err := demo.Load(ctx, s, c.Apps, c.Accounts, c.Blobs, o.fresh)
		if err != nil {
			return c, err
		}
		c.Demo = &builder.DemoAccount{Email: account.Email, Password: account.Password, Name: account.Name}
	} else if err := demo.Shut(ctx, c.Accounts); err != nil {
		return c, err
	}
	if c.Acts, err = act.New(c.Apps); err != nil {
		return c, err
	}
	c.Imports = imports.New(s, c.Apps, c.Acts)
	c.Imports.Apart = at.runner(apartImports, at, imports.Workers, 0)
	c.Imports.Looks = at.runner(apartImports, at, mostLooks, looksShare)
	services, err := o.services(ctx, s, c.Apps)
	if err != nil {
		return c, err
	}
	c.Runs = &run.Runs{Acts: c.Acts, Apps: c.Apps, Book: runs.In(s.DB), Services: services, Files: c.Blobs, Seals: services.Seals}
	jobs := gate.Jobs{Queues: run.Queues(map[string]int{imports.Queue: imports.Workers}), Periodic: []*river.PeriodicJob{chores.Hourly(), imports.Care(), run.Ticks()},
		Workers: []func(*river.Workers){c.Imports.Worker, chores.Worker(c.Apps.Upgrade, c.Accounts.Sweep, c.Imports.Sweep, c.Blobs.Sweeper(s),
			c.Once.Sweep, c.Kept.Sweep, c.Apps.Recount, c.Runs.Book.Sweep)}, Flows: c.Runs}
	// jobs end by Stop, after the last request
	if c.Gate, err = gate.New(context.WithoutCancel(ctx), s, c.Apps, c.Acts, c.Accounts, mailer, jobs); err != nil {
		return c, err
	}
	return c, c.Imports.Resume(ctx, c.Gate.Jobs())
}

// services gives what calls services elsewhere. The demo has one of its own.
func (o options) services(ctx context.Context, s *store.Store, a *apps.Apps) (*outside.Services, error) {
	file := o.key
	if file == "" {
		file = filepath.Join(o.data, "server.key")
	}
	key, err := seal.KeyIn(file)
	if err != nil {
		return nil, err
	}
	seals, err := seal.In(s.DB, key)
	if err != nil {
		return nil, err
	}
	calls := outside.Options{Names: map[string]string{}}
	for _, text := range o.private {
		network, err := netip.ParsePrefix(text)
		if err != nil {
			return nil, fmt.Errorf("read --call-private: %w", err)
		}
		calls.Private = append(calls.Private, network)
	}
	if o.demo || o.fresh {
		address, err := harbour.New().Serve(ctx)
		if err != nil {
			return nil, err
		}
		calls.Names[harbour.Name] = address
		if err := demo.Secrets(ctx, a, seals); err != nil {
			return nil, err
		}
	}
	return outside.New(seals, calls), nil
}

func confirm(what string) bool {
	fmt.Printf("%s\nType yes to go on: ", what)
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	return err == nil && strings.TrimSpace(line) == "yes"
}
