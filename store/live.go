package store

import (
	"context"
	"fmt"
	"log/slog"
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
	done    <-chan struct{}
}

// Done is closed when nothing is listened to any more.
func (l *Live) Done() <-chan struct{} { return l.done }

// Listen starts to listen to what is written, until the context ends.
func (s *Store) Listen(ctx context.Context) *Live {
	l := &Live{watches: map[string]map[chan Event]struct{}{}, done: ctx.Done()}
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
