package page

import (
	"cmp"
	"encoding/json"
	"fmt"

	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/store/records"
)

// Board are records in columns by their choices of a field.
type Board struct {
	Field   string        `json:"field"` // id
	Columns []BoardColumn `json:"columns"`
}

// BoardColumn has the records with a choice, or with none.
type BoardColumn struct {
	Value  string            `json:"value"` // id of the choice, or ""
	Label  string            `json:"label"`
	Colour string            `json:"colour,omitempty"`
	Count  int               `json:"count"` // of all its records
	Sums   map[string]string `json:"sums"`
	Rows   []Row             `json:"rows"`
	Next   string            `json:"next"`
}

// boardSize is how many cards of a column are read at once, where nothing is said.
const boardSize = 50

// size is how many cards of a column are read at once.
func (l *list) size() int { return cmp.Or(l.Size, boardSize) }

// choices lists the choices of the columns, those that are not offered any more among them.
func (l *list) choices() []Choice {
	return ColumnOf(l.Seat.Blueprint, l.Seat.Catalog, l.table, l.table.Field(l.Board)).Choices
}

// boardReads lists what is read for a board: the cards of each choice, those of none, and
// how many there are.
func (l *list) boardReads(q *query.Selection) []records.Read {
	q.Limit = l.size()
	if l.byLink() {
		return l.linkReads(q)
	}
	var out []records.Read
	column := func(n query.Narrow) {
		in := *q
		in.Narrows = append(append([]query.Narrow{}, q.Narrows...), n)
		out = append(out, records.Read{List: &in})
	}
	for _, c := range l.choices() {
		column(query.Narrow{Field: l.Board, In: []string{c.ID}})
	}
	column(query.Narrow{Field: l.Board, None: true})
	return append(out, records.Read{Totals: &query.Totals{Selection: *q, Group: l.Board, Sums: l.sums}})
}

func (l *list) board(to *Records, got []records.Result) (*Board, error) {
	if l.byLink() {
		return l.linkBoard(to, got)
	}
	counts, err := l.total(got[len(got)-1].Rows)
	if err != nil {
		return nil, err
	}
	of := map[string]Total{}
	for _, t := range counts {
		of[t.Value] = t
	}
	out := &Board{Field: l.Board, Columns: []BoardColumn{}}
	add := func(value, label, colour string, r records.Result) error {
		rows, err := l.rows(to, r)
		sums := of[value].Sums
		if sums == nil {
			sums = map[string]string{}
		}
		out.Columns = append(out.Columns, BoardColumn{value, label, colour, of[value].Count, sums, rows, r.Next})
		return err
	}
	all := l.choices()
	for i, c := range all {
		if c.Retired && len(got[i].Rows) == 0 {
			continue
		}
		if err := add(c.ID, c.Label, c.Colour, got[i]); err != nil {
			return nil, err
		}
	}
	if without := got[len(all)]; len(without.Rows) > 0 {
		return out, add("", "", "", without)
	}
	return out, nil
}

// Total is how many records there are, in all or with a value, and sums of their numbers.
type Total struct {
	Value string            `json:"value"` // as it stands in a row; "" for none
	Label string            `json:"label"` // of a record
	Count int               `json:"count"`
	Sums  map[string]string `json:"sums"` // by the ids of fields
}

// totals gives what is totalled over a table, or nil.
func (l *list) totals(q *query.Selection) *query.Totals {
	grouped := l.asked.way == blueprint.TableWay && l.shows(l.Group)
	if l.asked.way != blueprint.TableWay || !grouped && len(l.sums) == 0 {
		return nil
	}
	out := &query.Totals{Selection: *q, Sums: l.sums}
	if grouped {
		out.Group = l.Group
	}
	return out
}

// total reads totals as they come from the database.
func (l *list) total(rows []records.Row) ([]Total, error) {
	out := []Total{}
	for _, raw := range rows {
		var all map[string]any
		var t Total
		if err := json.Unmarshal(raw, &t); err != nil {
			return nil, fmt.Errorf("read totals: %w", err)
		}
		if err := json.Unmarshal(raw, &all); err != nil {
			return nil, fmt.Errorf("read totals: %w", err)
		}
		if v := all["group"]; v != nil {
			t.Value = fmt.Sprint(v)
		}
		t.Sums = map[string]string{}
		for _, id := range l.sums {
			if sum, ok := all[id].(string); ok {
				t.Sums[id] = sum
			}
		}
		out = append(out, t)
	}
	return out, nil
}
