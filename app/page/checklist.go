package page

import (
	"context"
	"fmt"
	"slices"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// Checklist is what is to be done for the record of the page, the newest list of that.
type Checklist struct {
	Head
	Title string          `json:"title,omitempty"`
	Items []ChecklistItem `json:"items"`
	Round int             `json:"round"` // the how manieth list it is; 0 while none was begun
	// Earlier are the lists before, the newest of them first.
	Earlier []ChecklistRound `json:"earlier,omitempty"`
	// Ticks, Begins and Again tell what whoever looks may do: tick, begin the first list, and begin another.
	Ticks  bool `json:"ticks,omitempty"`
	Begins bool `json:"begins,omitempty"`
	Again  bool `json:"again,omitempty"`
	// Gained are steps that came after the list was begun, which can be added to it.
	Gained []string `json:"gained,omitempty"`
	// Hidden tells that whoever looks does not see what is done.
	Hidden bool `json:"hidden,omitempty"`
}

// ChecklistItem is something that is to be done, or was. At, an RFC 3339 time or a day, and By say when and by whom.
type ChecklistItem struct {
	ID       string `json:"id"`
	Revision int    `json:"revision"`
	Text     string `json:"text"`
	Done     bool   `json:"done"`
	At       string `json:"at,omitempty"`
	By       string `json:"by,omitempty"`
	Due      string `json:"due,omitempty"`
	Late     bool   `json:"late,omitempty"`
}

// ChecklistRound is a list that was begun before the newest, in short.
type ChecklistRound struct {
	Round int             `json:"round"`
	Items []ChecklistItem `json:"items"`
}

// listed is a checklist for whoever looks, with what it reads.
type listed struct {
	*View
	x            *blueprint.ChecklistBlock
	table, steps *blueprint.Table
}

func (v *View) listed(x *blueprint.ChecklistBlock) listed {
	return listed{v, x, v.Seat.Blueprint.Table(x.Items), v.Seat.Blueprint.Table(x.Steps)}
}

// items says which things are to be done for the record, of all its lists.
func (l listed) items() (*query.Selection, error) {
	columns, err := l.seen(l.table.ID, l.fields())
	if err != nil {
		return nil, err
	}
	out := &query.Selection{Table: l.table, Columns: columns, Limit: mostListed}
	if l.x.Order != "" && slices.Contains(columns, l.x.Order) {
		out.Sorts = []query.Sort{{Field: l.x.Order}}
	}
	out.Filter, err = l.Seat.Blueprint.LeadsHere(l.table, l.x.Link, l.Seat.Catalog)
	return out, err
}

// mostListed is how much of what is, and was, to be done for one record is read.
const mostListed = 5 * blueprint.MostSteps

func (l listed) fields() []string {
	var out []string
	for _, id := range []string{l.x.Text, l.x.Done, l.x.At, l.x.By, l.x.Due, l.x.Order, l.x.Round, l.x.From} {
		if id != "" {
			out = append(out, id)
		}
	}
	return out
}

// template says which steps a list is made from; nil where it is made from none.
func (l listed) template() (*query.Selection, error) {
	if l.steps == nil {
		return nil, nil
	}
	where, _, err := l.Seat.Blueprint.ChecklistSteps(l.spot(), l.x, l.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read the steps of a checklist on %s: %w", l.Page.Name, err)
	}
	out := &query.Selection{Table: l.steps, Limit: blueprint.MostSteps}
	if where != nil {
		out.Filter = l.boundListed(where)
	}
	return out, nil
}

func checklistReads(v *View, x *blueprint.ChecklistBlock) ([]records.Read, error) {
	out, err := v.reading(x.Title)
	if err != nil {
		return nil, err
	}
	l := v.listed(x)
	items, err := l.items()
	if err != nil {
		return nil, err
	}
	out = append(out, records.Read{List: items})
	steps, err := l.template()
	if steps != nil {
		out = append(out, records.Read{List: steps})
	}
	return out, err
}

func showChecklist(v *View, x *blueprint.ChecklistBlock, got []records.Result) (*Checklist, error) {
	l := v.listed(x)
	title, err := v.filled(x.Title, got)
	if err != nil {
		return nil, err
	}
	n := len(got) - 1
	var steps []Row
	if l.steps != nil {
		if steps, err = Rows(got[n].Rows); err != nil {
			return nil, err
		}
		n--
	}
	rows, err := Rows(got[n].Rows)
	if err != nil {
		return nil, err
	}
	out := &Checklist{Title: title.Text, Items: []ChecklistItem{}}
	sees, err := v.Seat.Sees(l.table.ID, x.Done)
	if err != nil || !sees {
		out.Hidden = err == nil
		return out, err
	}
	rounds := l.rounds(rows)
	for i, r := range rounds {
		if i == 0 {
			out.Round, out.Items = r.Round, r.Items
			continue
		}
		out.Earlier = append(out.Earlier, r)
	}
	return out, l.may(out, rows, steps)
}

// rounds parts what is to be done into its lists, the newest first.
func (l listed) rounds(rows []Row) []ChecklistRound {
	today := l.Seat.Clock.Today()
	var out []ChecklistRound
	for _, row := range rows {
		round := l.roundOf(row)
		i := slices.IndexFunc(out, func(r ChecklistRound) bool { return r.Round == round })
		if i < 0 {
			i, out = len(out), append(out, ChecklistRound{Round: round})
		}
		text := func(id string) string {
			if label, ok := row[id+"~"].(string); ok {
				return label
			}
			s, _ := row[id].(string)
			return s
		}
		revision, _ := row["revision"].(float64)
		item := ChecklistItem{Revision: int(revision), Text: text(l.x.Text), At: text(l.x.At), By: text(l.x.By),
			Due: text(l.x.Due)}
		item.ID, _ = row["id"].(string)
		item.Done, _ = row[l.x.Done].(bool)
		item.Late = !item.Done && item.Due != "" && item.Due < today
		out[i].Items = append(out[i].Items, item)
	}
	slices.SortStableFunc(out, func(a, b ChecklistRound) int { return b.Round - a.Round })
	return out
}

// roundOf is the how manieth list of its record something is on.
func (l listed) roundOf(row Row) int {
	if l.x.Round == "" {
		return 1
	}
	return max(int(records.ValueOf(l.Seat.Catalog, l.table.ID, l.x.Round, row[l.x.Round]).Num.IntPart()), 1)
}

// may finds out what whoever looks may do with the list.
func (l listed) may(out *Checklist, rows, steps []Row) error {
	asks, err := access.Asks(l.Seat.Blueprint, l.Seat.Catalog, l.Seat.Viewer, l.table.ID, l.x.Done, blueprint.Modify)
	if err != nil {
		return err
	}
	out.Ticks = asks
	adds, err := l.begins()
	if err != nil || !adds || len(steps) == 0 {
		return err
	}
	out.Begins = out.Round == 0
	out.Again = out.Round > 0 && l.x.Round != ""
	if out.Round > 0 && l.x.From != "" {
		for _, s := range l.gained(rows, steps, out.Round) {
			label, _ := s["label"].(string)
			out.Gained = append(out.Gained, label)
		}
	}
	return nil
}

// begins tells whether whoever looks may begin a list: they may add to what is to be done, and see by what its lists are
// told apart and from which step each was made.
func (l listed) begins() (bool, error) {
	for _, id := range []string{l.x.Link, l.x.Round, l.x.From} {
		if id == "" {
			continue
		}
		if sees, err := l.Seat.Sees(l.table.ID, id); err != nil || !sees {
			return false, err
		}
	}
	return l.Seat.Allowed(l.table.ID, blueprint.Add)
}

// gained are the steps of which nothing was made in a list.
func (l listed) gained(rows, steps []Row, round int) []Row {
	there := map[any]bool{}
	for _, r := range rows {
		if l.roundOf(r) == round {
			there[r[l.x.From]] = true
		}
	}
	return slices.DeleteFunc(slices.Clone(steps), func(s Row) bool { return there[s["id"]] })
}

// Tick writes down that something is done, or that it is not: when, and by whom. It is refused where whoever does so may not
// change that, and where it is on no list of the page's record.
func (v *View) Tick(ctx context.Context, road records.Road, id, item string, done bool, revision int) (*records.Write, string, error) {
	in, x, err := At[*blueprint.ChecklistBlock](v, id)
	if err != nil {
		return nil, "", err
	}
	l := in.listed(x)
	items, err := l.items()
	if err != nil {
		return nil, "", err
	}
	if !blueprint.IsRecordID(item) {
		return nil, "", store.ErrNotFound
	}
	items.ID, items.Limit = item, 1
	rows, _, err := road.List(ctx, l.Seat, *items)
	if err == nil && len(rows) == 0 {
		err = store.ErrNotFound
	}
	if err != nil {
		return nil, "", err
	}
	entered, err := records.Entered(map[string]expr.Value{x.Done: expr.YesNoOf(done)})
	if err != nil {
		return nil, "", err
	}
	w, err := road.Change(ctx, l.Seat, l.table, item, revision, entered, l.marks(done))
	return w, words.Say("checklist-ticked", words.Args{"table": l.table.Name}), err
}

// marks are when something was done, and by whom; empty where it is not done.
func (l listed) marks(done bool) map[string]expr.Value {
	out := map[string]expr.Value{}
	if f := l.table.Field(l.x.At); f != nil {
		out[f.ID] = expr.Empty()
		if done && f.Type == blueprint.Date {
			out[f.ID] = expr.DateOf(l.Seat.Clock.Today())
		} else if done {
			out[f.ID] = expr.TimeOf(l.Seat.Clock.Now)
		}
	}
	if f := l.table.Field(l.x.By); f != nil {
		out[f.ID] = expr.Empty()
		switch me := l.Seat.Viewer.Me(l.Seat.Blueprint, f.Target); {
		case !done:
		case f.Type == blueprint.Text:
			out[f.ID] = expr.TextOf(l.Seat.By)
		case me != "":
			out[f.ID] = expr.RecordOf(me)
		}
	}
	return out
}
