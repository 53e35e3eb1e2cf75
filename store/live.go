package store

import (
	"context"
	"fmt"
	"log/slog"
	"maps"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
)

// RecordsChannel is where every server tells the others what was written: the
// schema of the environment and the ids of the tables, or none of them where it may
// be any.
const RecordsChannel = "pinegate_records"

// Event names the tables whose records a transaction wrote; none where it may be
// any, or where the app itself changed.
type Event struct{ Tables []string }

// Live hands what any server writes to those who watch.
type Live struct {
	mu      sync.Mutex
	watches map[string]map[chan Event]struct{} // by schema
	last    map[string]map[string]time.Time    // when something was written, by schema and table; "" for any
	missed  time.Time                          // when something may have been missed in all of them
	tidied  time.Time                          // when what is longer ago was forgotten
	done    <-chan struct{}
}

// remembered is how long it is known when something was written.
const remembered = time.Minute

// Lately lists the tables of a schema that were written for so long, "" where it may be any; it is
// known for a minute at most. Whoever begins to watch after they read asks for what came between.
func (l *Live) Lately(schema string, long time.Duration) []string {
	l.mu.Lock()
	defer l.mu.Unlock()
	since := time.Now().Add(-min(long, remembered))
	var out []string
	for table, at := range l.last[schema] {
		if at.After(since) {
			out = append(out, table)
		}
	}
	if l.missed.After(since) {
		out = append(out, "")
	}
	return out
}

// note remembers when tables of a schema were written.
func (l *Live) note(schema string, tables []string) {
	now := time.Now()
	if l.last[schema] == nil {
		l.last[schema] = map[string]time.Time{}
	}
	if len(tables) == 0 {
		tables = []string{""}
	}
	for _, t := range tables {
		l.last[schema][t] = now
	}
	if now.Sub(l.tidied) < remembered {
		return
	}
	l.tidied = now
	for s, tables := range l.last {
		maps.DeleteFunc(tables, func(_ string, at time.Time) bool { return now.Sub(at) > remembered })
		if len(tables) == 0 {
			delete(l.last, s)
		}
	}
}

// Done is closed when nothing is listened to any more.
func (l *Live) Done() <-chan struct{} { return l.done }

// Listen starts to listen to what is written, until the context ends.
func (s *Store) Listen(ctx context.Context) *Live {
	l := &Live{watches: map[string]map[chan Event]struct{}{}, last: map[string]map[string]time.Time{}, done: ctx.Done()}
	go func() {
		for ctx.Err() == nil {
			if err := l.listen(ctx, s); err != nil && ctx.Err() == nil {
				slog.WarnContext(ctx, "listening stopped, and starts again", "error", err)
				l.tellAll() // something may have been missed
				select {
				case <-ctx.Done():
				case <-time.After(time.Second):
				}
			}
		}
	}()
	return l
}

func (l *Live) listen(ctx context.Context, s *Store) error {
	conn, err := pgx.ConnectConfig(ctx, s.Pool.Config().ConnConfig)
	if err != nil {
		return fmt.Errorf("connect to listen: %w", err)
	}
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }() // nothing is lost with a listener
	if _, err := conn.Exec(ctx, "LISTEN "+RecordsChannel); err != nil {
		return fmt.Errorf("listen: %w", err)
	}
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return fmt.Errorf("wait for news: %w", err)
		}
		schema, rest, _ := strings.Cut(n.Payload, " ")
		l.tell(schema, Event{strings.Fields(rest)})
	}
}

func (l *Live) tell(schema string, e Event) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.note(schema, e.Tables)
	for c := range l.watches[schema] {
		select {
		case c <- e:
		default: // whoever is that far behind reads everything anew anyway
		}
	}
}

func (l *Live) tellAll() {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.missed = time.Now()
	for _, watches := range l.watches {
		for c := range watches {
			select {
			case c <- Event{}:
			default:
			}
		}
	}
}

// Watch gives what is written in a schema from now on, until stop is called.
func (l *Live) Watch(schema string) (events <-chan Event, stop func()) {
	c := make(chan Event, 64)
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.watches[schema] == nil {
		l.watches[schema] = map[chan Event]struct{}{}
	}
	l.watches[schema][c] = struct{}{}
	return c, func() {
		l.mu.Lock()
		defer l.mu.Unlock()
		delete(l.watches[schema], c)
		if len(l.watches[schema]) == 0 {
			delete(l.watches, schema)
		}
	}
}
