package store

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"gorm.io/gorm"
)

// News gathers which tables a transaction writes to, so that it is told once, when
// the transaction is over, however much was written.
type News struct{ touched map[string]map[string]bool } // tables by the schema of the environment

// Touch notes that records of a table were written.
func (n *News) Touch(schema, table string) {
	if n.touched == nil {
		n.touched = map[string]map[string]bool{}
	}
	if n.touched[schema] == nil {
		n.touched[schema] = map[string]bool{}
	}
	n.touched[schema][table] = true
}

// mostNews is how long a piece of news can be, in bytes; PostgreSQL takes just
// under 8,000.
const mostNews = 7_900

// Tell lets every server know, when the transaction is over, what was touched.
func (n *News) Tell(ctx context.Context, tx *gorm.DB) error {
	for _, s := range n.Statements() {
		if _, err := Conn(tx).ExecContext(ctx, s.SQL, s.Args...); err != nil {
			return fmt.Errorf("tell of writes: %w", err)
		}
	}
	return nil
}

// Statements are those that tell, which then is done.
func (n *News) Statements() []Statement {
	var out []Statement
	for schema, tables := range n.touched {
		news := schema + " " + strings.Join(slices.Sorted(maps.Keys(tables)), " ")
		if len(news) > mostNews {
			news = schema // whoever looks then reads everything anew
		}
		out = append(out, Statement{"SELECT pg_notify($1, $2)", []any{RecordsChannel, news}})
	}
	n.touched = nil
	return out
}
