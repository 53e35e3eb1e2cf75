package page

import (
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/store/records"
)

// Boards whose columns are records that a field links to: people who do the work, say. The
// columns are the first records of that table, and those others that have cards.

// columnsOfLink is how many records are columns though they have no cards.
const columnsOfLink = 20

// byLink tells whether the columns of the board are linked records.
func (l *list) byLink() bool { return l.Seat.Catalog.TypeOf(l.table.ID, l.Board).Kind == expr.Record }

// linkedTable gives the table whose records are columns.
func (l *list) linkedTable() *blueprint.Table {
	return l.Seat.Blueprint.Table(l.Seat.Catalog.TypeOf(l.table.ID, l.Board).Table)
}

func (l *list) linkReads(q *query.Selection) []records.Read {
	cards := *q
	cards.Each = l.Board
	return []records.Read{{List: &query.Selection{Table: l.linkedTable(), Limit: columnsOfLink}}, {List: &cards},
		{Totals: &query.Totals{Selection: *q, Group: l.Board, Sums: l.sums}}}
}

func (l *list) linkBoard(to *Records, got []records.Result) (*Board, error) {
	counts, err := l.total(got[2].Rows)
	if err != nil {
		return nil, err
	}
	first, err := optionsOf(got[0].Rows)
	if err != nil {
		return nil, err
	}
	out := &Board{Field: l.Board, Columns: []BoardColumn{}}
	places := map[string]int{}
	column := func(value, label string) int {
		at, known := places[value]
		if !known {
			at = len(out.Columns)
			places[value] = at
			out.Columns = append(out.Columns, BoardColumn{Value: value, Label: label, Sums: map[string]string{}, Rows: []Row{}})
		}
		return at
	}
	for _, o := range first {
		column(o.ID, o.Label)
	}
	rows, err := l.rows(to, got[1])
	if err != nil {
		return nil, err
	}
	last := map[string]int{} // the place of the last row of each column
	for i, row := range rows {
		value, _ := row[l.Board].(string)
		label, _ := row[l.Board+"~"].(string)
		c := &out.Columns[column(value, label)]
		if len(c.Rows) == l.size() { // one more tells that there are more
			if c.Next == "" {
				if c.Next, err = query.Cursor(got[1].Rows[last[value]]); err != nil {
					return nil, err
				}
			}
			continue
		}
		last[value] = i
		c.Rows = append(c.Rows, row)
	}
	for _, t := range counts {
		if at, shown := places[t.Value]; shown {
			out.Columns[at].Count, out.Columns[at].Sums = t.Count, t.Sums
		}
	}
	return out, nil
}
