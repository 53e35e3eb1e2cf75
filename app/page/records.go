package page

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// Records are records of a table as they are shown, the first or the next of
// them.
type Records struct {
	Head
	Title   string   `json:"title"`
	As      string   `json:"as"`   // the way in which they are shown
	Ways    []string `json:"ways"` // in which they can be
	Columns []Column `json:"columns"`
	// Fields are those besides the columns whose values rows have.
	Fields  []Column `json:"fields"`
	Picture string   `json:"picture,omitempty"` // id of a column or field
	Badge   string   `json:"badge,omitempty"`
	Tint    string   `json:"tint,omitempty"` // in whose choice's colour records stand that have no tone
	Edits   []string `json:"edits"`          // ids of columns that whoever looks may change where they stand
	Moves   []string `json:"moves"`          // ids of fields that they may change by moving a record
	Rows    []Row    `json:"rows"`
	Next    string   `json:"next"`
	Open    string   `json:"open"` // path of the page that a row opens, or ""
	OpenAs  string   `json:"openAs,omitempty"`
	Add     *Button  `json:"add,omitempty"`
	Export  bool     `json:"export,omitempty"`
	Empty   string   `json:"empty"`
	Sort    string   `json:"sort"`
	Falling bool     `json:"falling"`
	Search  string   `json:"search"`
	Filters []Filter `json:"filters"`
	// Notes tell what of that which was asked for is left out.
	Notes    []string  `json:"notes"`
	Group    string    `json:"group,omitempty"` // id of the column by which rows are parted
	Totals   []Total   `json:"totals"`
	Board    *Board    `json:"board,omitempty"`
	Calendar *Calendar `json:"calendar,omitempty"`
	// Unfold is the path of the page about a record that a row unfolds to, or "".
	Unfold string `json:"unfold,omitempty"`
	// Inside are what stands in rows, by the ids of their records.
	Inside map[string][]Block `json:"inside,omitempty"`
	// Tones are those of records, by their ids.
	Tones map[string]string `json:"tones,omitempty"`
	// Kept are the kept values by which it is narrowed.
	Kept []Kept `json:"kept,omitempty"`
}

// Filter is one by which whoever looks can narrow the list, and how it is.
type Filter struct {
	Column  Column         `json:"column"`
	Value   string         `json:"value"` // as it stands in the address
	Options []RecordOption `json:"options,omitempty"`
	More    bool           `json:"more,omitempty"` // there are more records than these
}

const pageSize = 25

// list is a list that somebody asked for, with what is read for it.
type list struct {
	*View
	*blueprint.RecordsBlock
	table   *blueprint.Table
	asked   asked
	columns []string // that are shown
	fields  []string // that are read besides
	links   []string // filters by links, whose options are read
	sums    []string // fields that are totalled
	inside  *inside  // what stands in each row, or nil
	tones   []*expr.Checked
	shown   []*expr.Checked // conditions of columns
	gone    []string        // columns that are not shown, as things are
	follows []query.Narrow  // by what somebody chose in the bar that it follows
}

// list reads what somebody asked of a list. Hidden columns are left out.
func (v *View) list(x *blueprint.RecordsBlock) (*list, error) {
	l := &list{View: v, RecordsBlock: x, table: v.Seat.Blueprint.Table(x.Table)}
	var err error
	if l.columns, err = v.seen(x.Table, x.Columns); err != nil {
		return nil, err
	}
	if l.asked, err = v.asked(x, l.columns); err != nil {
		return nil, err
	}
	if err := l.follow(); err != nil {
		return nil, err
	}
	others := []string{x.Picture, x.Badge, x.Tint}
	switch l.asked.way {
	case blueprint.TableWay:
		others = []string{x.Group, x.Tint}
	case blueprint.BoardWay:
		others = append(others, x.Board)
	case blueprint.CalendarWay:
		others = append(others, x.From, x.Until)
	}
	others = slices.DeleteFunc(others, func(id string) bool { return slices.Contains(l.columns, id) })
	if l.fields, err = v.seen(x.Table, others); err != nil {
		return nil, err
	}
	if l.asked.way == blueprint.BoardWay && !l.shows(x.Board) || l.asked.way == blueprint.CalendarWay && !l.shows(x.From) {
		l.asked.way = blueprint.TableWay // for whom there are no columns, or no days
	}
	if l.sums, err = v.seen(x.Table, x.Totals); err != nil {
		return nil, err
	}
	if l.inside, err = v.within(x); err != nil {
		return nil, err
	}
	if l.tones, err = v.Seat.Blueprint.Tones(v.spot(), x, v.Seat.Catalog); err != nil {
		return nil, fmt.Errorf("read the tones of a list on %s: %w", v.Page.Name, err)
	}
	if l.shown, err = v.Seat.Blueprint.Shown(v.spot(), x, v.Seat.Catalog); err != nil {
		return nil, fmt.Errorf("read when columns on %s are shown: %w", v.Page.Name, err)
	}
	offered, err := v.filters(x)
	for _, id := range offered {
		if v.Seat.Catalog.TypeOf(x.Table, id).Kind == expr.Record {
			l.links = append(l.links, id)
		}
	}
	return l, err
}

func (l *list) shows(field string) bool {
	return field != "" && (slices.Contains(l.columns, field) || slices.Contains(l.fields, field))
}

func recordsReads(v *View, x *blueprint.RecordsBlock) ([]records.Read, error) {
	l, err := v.list(x)
	if err != nil {
		return nil, err
	}
	title, err := v.reading(x.Title)
	if err != nil {
		return nil, err
	}
	rows, err := l.reads()
	return slices.Concat(title, l.shownReads(), l.optionReads(), rows), err
}

func showRecords(v *View, x *blueprint.RecordsBlock, got []records.Result) (*Records, error) {
	l, err := v.list(x)
	if err != nil {
		return nil, err
	}
	title, err := v.reading(x.Title)
	if err != nil {
		return nil, err
	}
	w, err := v.filled(x.Title, got)
	if err != nil {
		return nil, err
	}
	got = l.hide(got[len(title):])
	out := l.shape()
	out.Title = w.Text
	if out.Filters, err = l.filters(got); err != nil {
		return nil, err
	}
	if out.Edits, err = l.settable(l.table, l.Edit, l.shows); err != nil {
		return nil, err
	}
	if out.Moves, err = l.settable(l.table, moved(x), l.shows); err != nil {
		return nil, err
	}
	if _, out.Kept, err = l.remembered(); err != nil {
		return nil, err
	}
	return out, l.fill(out, got[len(l.links):])
}

// More gives the rows of a list that follow a cursor; on a board those of a column.
func (v *View) More(ctx context.Context, x *blueprint.RecordsBlock, after, column string) (*Records, error) {
	l, err := v.list(x)
	if err != nil {
		return nil, err
	}
	q, err := l.query()
	if err != nil {
		return nil, err
	}
	q.After = after
	switch l.asked.way {
	case blueprint.CalendarWay:
		l.calendarReads(q)
	case blueprint.BoardWay:
		n, ok := v.narrow(x.Table, x.Board, cmp.Or(column, "-"))
		if !ok {
			return nil, errColumn()
		}
		q.Narrows = append(q.Narrows, n)
	}
	got, err := v.Road.Batch(ctx, v.Seat, append(l.shownReads(), records.Read{List: q}))
	if err != nil {
		return nil, err
	}
	got = l.hide(got)
	out := l.shape()
	out.Head, out.Next = v.headOf(x), got[0].Next
	out.Rows, err = l.rows(out, got[0])
	return out, err
}

// Selection is what a list shows all in all, to be taken away as a file.
func (v *View) Selection(ctx context.Context, x *blueprint.RecordsBlock) (*query.Selection, error) {
	l, err := v.list(x)
	if err != nil {
		return nil, err
	}
	got, err := v.Road.Batch(ctx, v.Seat, l.shownReads())
	if err != nil {
		return nil, err
	}
	l.hide(got)
	l.fields, l.inside, l.tones = nil, nil, nil
	return l.query()
}

// follow takes over what somebody chose in the filter bar that the list follows.
func (l *list) follow() error {
	x := l.Seat.Blueprint.BarOf(l.spot(), l.Bar)
	if x == nil {
		return nil
	}
	b, err := l.bar(x)
	if err != nil {
		return err
	}
	var without []string
	if l.follows, without, err = b.follow(l.table.ID); err != nil {
		return err
	}
	for _, name := range without {
		l.asked.notes = append(l.asked.notes, words.Say("bar-without", words.Args{"field": name}))
	}
	if sees, err := l.Seat.Sees(l.table.ID, l.Dated); err != nil || !sees || l.Dated == "" {
		return err
	}
	if b.days.From+b.days.To != "" {
		l.follows = append(l.follows, query.Narrow{Field: l.Dated, From: b.days.From, To: b.days.To})
	}
	return nil
}

// query says what a list reads. An order that would tell of what is hidden is left out.
func (l *list) query() (*query.Selection, error) {
	limit := cmp.Or(l.Size, pageSize)
	if l.Whole {
		limit = blueprint.MostWhole
	}
	q := &query.Selection{Table: l.table, Columns: slices.Concat(l.columns, l.fields), Search: l.asked.search,
		Limit: limit, FilterName: l.Page.ID + " " + l.known(l.RecordsBlock), Narrows: slices.Concat(l.asked.narrows, l.follows)}
	q.Texts = l.texts()
	sorts := []query.Sort{query.SortBy(l.Sort, l.Falling), query.SortBy(l.Then, l.ThenFalling), query.SortBy(l.Last, l.LastFalling)}
	if l.asked.sort != nil {
		sorts = append([]query.Sort{*l.asked.sort}, sorts...)
	}
	if l.asked.way == blueprint.TableWay && l.Group != "" { // groups stand together
		sorts = append([]query.Sort{query.SortBy(l.Group, false)}, sorts...)
	}
	for _, by := range sorts {
		sees, err := l.Seat.Sees(l.table.ID, by.Field)
		if err != nil {
			return nil, err
		}
		within := l.asked.way == blueprint.BoardWay && by.Field == l.Board // those of a column are equal in that
		if by.Field != "" && sees && !within && !slices.ContainsFunc(q.Sorts, func(s query.Sort) bool { return s.Field == by.Field }) {
			q.Sorts = append(q.Sorts, by)
		}
	}
	q.Newest = l.Sort == "" && l.Falling
	filter, err := l.Seat.Blueprint.Filter(l.spot(), l.RecordsBlock, l.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read the condition of a list on %s: %w", l.Page.Name, err)
	}
	kept, _, err := l.remembered()
	if err != nil {
		return nil, err
	}
	if kept != nil {
		q.FilterName += " kept"
	}
	q.Filter = expr.And(l.boundListed(filter), kept)
	return q, nil
}

// reads lists what is read for the rows, in the way in which they are shown.
func (l *list) reads() ([]records.Read, error) {
	q, err := l.query()
	if err != nil {
		return nil, err
	}
	switch l.asked.way {
	case blueprint.BoardWay:
		return l.boardReads(q), nil
	case blueprint.CalendarWay:
		return l.calendarReads(q), nil
	}
	out := []records.Read{{List: q}}
	if totals := l.totals(q); totals != nil {
		out = append(out, records.Read{Totals: totals})
	}
	return out, nil
}

// fill makes what is shown of the rows that were read.
func (l *list) fill(out *Records, got []records.Result) (err error) {
	switch l.asked.way {
	case blueprint.BoardWay:
		out.Board, err = l.board(out, got)
		return err
	case blueprint.CalendarWay:
		out.Calendar = l.calendar()
	}
	out.Next = got[0].Next
	if out.Rows, err = l.rows(out, got[0]); err != nil || len(got) < 2 {
		return err
	}
	out.Totals, err = l.total(got[1].Rows)
	return err
}

// shape makes what is shown of a list, but for its rows.
func (l *list) shape() *Records {
	b := l.Seat.Blueprint
	out := &Records{As: string(l.asked.way), Columns: []Column{}, Fields: []Column{}, Edits: []string{}, Moves: []string{}, Rows: []Row{}, Empty: l.Empty,
		Search: l.asked.search, Filters: []Filter{}, Notes: append([]string{}, l.asked.notes...), Totals: []Total{}, Export: l.Export}
	for _, way := range l.Offered() {
		out.Ways = append(out.Ways, string(way))
	}
	for _, id := range l.columns {
		out.Columns = append(out.Columns, ColumnOf(b, l.Seat.Catalog, l.table, l.table.Field(id)))
	}
	for _, id := range l.fields {
		out.Fields = append(out.Fields, ColumnOf(b, l.Seat.Catalog, l.table, l.table.Field(id)))
	}
	for _, of := range []struct {
		at *string
		id string
	}{{&out.Picture, l.RecordsBlock.Picture}, {&out.Badge, l.Badge}, {&out.Tint, l.Tint}, {&out.Group, l.Group}} {
		if l.shows(of.id) {
			*of.at = of.id
		}
	}
	if l.asked.way != blueprint.TableWay {
		out.Group = ""
	}
	switch by := query.SortBy(l.Sort, l.Falling); {
	case l.asked.sort != nil:
		out.Sort, out.Falling = l.asked.sort.Field, l.asked.sort.Falling
	case l.shows(by.Field):
		out.Sort, out.Falling = by.Field, by.Falling
	}
	if p := b.Page(l.Open); p != nil && l.Seat.Viewer.MayOpen(p) {
		out.Open, out.OpenAs = p.Path, string(l.OpenAs)
	}
	if p := b.Page(l.Unfold); p != nil && l.Seat.Viewer.MayOpen(p) {
		out.Unfold = p.Path
	}
	if to := l.target(l.Add); to != nil {
		out.Add = &Button{Words: Words{Text: words.Say("add-one", words.Args{"word": words.An(l.table.OneWord())})}, To: to}
	}
	return out
}

// optionReads lists what is read for filters by links.
func (l *list) optionReads() []records.Read {
	var out []records.Read
	for _, id := range l.links {
		t := l.Seat.Blueprint.Table(l.Seat.Catalog.TypeOf(l.table.ID, id).Table)
		out = append(out, records.Read{List: &query.Selection{Table: t, Limit: firstOptions}})
	}
	return out
}

// filters gives the filters that are offered, with what is chosen in them.
func (l *list) filters(got []records.Result) ([]Filter, error) {
	offered, err := l.View.filters(l.RecordsBlock)
	if err != nil {
		return nil, err
	}
	out := []Filter{}
	for _, id := range offered {
		f := Filter{Column: ColumnOf(l.Seat.Blueprint, l.Seat.Catalog, l.table, l.table.Field(id))}
		if slices.ContainsFunc(l.asked.narrows, func(n query.Narrow) bool { return n.Field == id }) {
			f.Value = l.Asks.get(l.known(l.RecordsBlock) + ".is." + id)
		}
		if slices.Contains(l.links, id) {
			if f.Options, err = optionsOf(got[0].Rows); err != nil {
				return nil, err
			}
			f.More, got = got[0].Next != "", got[1:]
		}
		out = append(out, f)
	}
	return out, nil
}

// moved lists the fields that are changed by moving records on a board or a calendar.
func moved(x *blueprint.RecordsBlock) []string {
	return slices.DeleteFunc([]string{x.Board, x.From, x.Until}, func(id string) bool { return id == "" })
}

// filteredBy gives the table to whose records a filter leads that is offered to whoever looks.
func (v *View) filteredBy(table string, filters []string, field string) (*blueprint.Table, error) {
	offered, err := v.seen(table, filters)
	if err != nil {
		return nil, err
	}
	if t := v.Seat.Catalog.TypeOf(table, field); slices.Contains(offered, field) && t.Kind == expr.Record {
		return v.Seat.Blueprint.Table(t.Table), nil
	}
	return nil, store.ErrNotFound
}

// Offers gives the table whose records are offered to choose from in a form or a filter,
// where whoever looks is asked for it.
func (v *View) Offers(block, field string) (*blueprint.Table, error) {
	if v, x, err := At[*blueprint.RecordsBlock](v, block); err == nil {
		return v.filteredBy(x.Table, x.Filters, field)
	}
	if v, x, err := At[*blueprint.BarBlock](v, block); err == nil {
		return v.filteredBy(x.Table, x.Fields, field)
	}
	u, err := v.Use(block)
	if err != nil {
		return nil, err
	}
	f, err := u.Asked(field)
	if err != nil {
		return nil, err
	}
	if f == nil || f.Field.Type != blueprint.Link || f.Asker.How().Narrow != "" { // which depends on what is answered
		return nil, store.ErrNotFound
	}
	return v.Seat.Blueprint.Table(f.Field.Target), nil
}
