package main

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"sync"
)

// nested is a filter that looks through all records for each of them, twice over.
const nested = "COUNT(RECORDS(Dug, n > this.n and COUNT(RECORDS(Dug, n > this.n)) > 2)) > 1"

// How many thousands of records that is asked of, and how often at once.
const (
	dug     = 4
	diggers = 26
)

// dig makes a table with many records in an app, and gives what filters them as heavily
// as can be.
func (c *client) dig(ctx context.Context, app string) (func(context.Context), error) {
	at := "/api/apps/" + app
	changes := []map[string]any{
		{"kind": "add", "what": "table", "id": "dug", "values": map[string]any{"name": "Dug"}},
		{"kind": "add", "what": "field", "into": "dug", "id": "dug_n", "values": map[string]any{"name": "n", "type": "number"}},
	}
	if err := c.must(ctx, at+"/changes", map[string]any{"changes": changes}, nil); err != nil {
		return nil, fmt.Errorf("make a table: %w", err)
	}
	for range dug {
		edits := make([]map[string]any, 1000)
		for i := range edits {
			edits[i] = map[string]any{"values": map[string]any{"dug_1": fmt.Sprint("Stone ", i), "dug_n": fmt.Sprint(i % 40)}}
		}
		var made struct{ Done int }
		if err := c.must(ctx, at+"/tables/dug/bulk", map[string]any{"what": "paste", "edits": edits}, &made); err != nil || made.Done == 0 {
			return nil, fmt.Errorf("fill a table: %d written: %w", made.Done, err)
		}
	}
	if err := c.right(ctx, app); err != nil {
		return nil, err
	}
	return func(ctx context.Context) {
		var all sync.WaitGroup
		for range diggers {
			all.Go(func() {
				for ctx.Err() == nil {
					c.do(ctx, http.MethodGet, at+"/tables/dug/records?as=founder&filter="+url.QueryEscape(nested), nil)
				}
			})
		}
		all.Wait()
	}, nil
}

// right tells whether the filter is one at all: an attack that is refused at once is none.
func (c *client) right(ctx context.Context, app string) error {
	status, answer := c.ask(ctx, http.MethodGet,
		"/api/apps/"+app+"/tables/dug/records?as=founder&filter="+url.QueryEscape("COUNT(RECORDS(Dug, n > this.n)) > 39"), nil)
	var got struct{ Rows []json.RawMessage }
	if err := json.Unmarshal([]byte(answer), &got); err != nil || status != http.StatusOK {
		return fmt.Errorf("filter: %d %s", status, answer)
	}
	return nil
}
