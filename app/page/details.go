package page

import (
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/store"
	"pinegate/store/records"
)

// Details are fields of the record in hand, or of one to which it links, as they are shown.
type Details struct {
	Head
	Title   string   `json:"title,omitempty"`
	Columns []Column `json:"columns"`
	Edits   []string `json:"edits"` // ids of columns that whoever looks may change where they stand
	Row     Row      `json:"row"`   // without an id where the link leads nowhere that they see
}

// detailFields are the fields of the page's record that details show or follow.
func detailFields(x *blueprint.DetailsBlock) []string {
	if x.Via != "" {
		return []string{x.Via}
	}
	return x.Fields
}

// linked gives the id of the record that details of another are about, or "".
func (v *View) linked(x *blueprint.DetailsBlock) (string, error) {
	all, err := Rows([]records.Row{v.Record})
	if err != nil {
		return "", err
	}
	id, _ := all[0][x.Via].(string) // of what they do not see there is none
	return id, nil
}

func (v *View) shownBy(x *blueprint.DetailsBlock) *blueprint.Table {
	return v.Seat.Blueprint.Table(x.Shows(v.Seat.Blueprint, v.Page.Record))
}

func detailsReads(v *View, x *blueprint.DetailsBlock) ([]records.Read, error) {
	title, err := v.reading(x.Title)
	if err != nil || x.Via == "" {
		return title, err
	}
	id, err := v.linked(x)
	if err != nil || id == "" {
		return title, err
	}
	t := v.shownBy(x)
	columns, err := v.seen(t.ID, x.Fields)
	return append(title, records.Read{List: &query.Selection{Table: t, Columns: columns, ID: id, Limit: 1}}), err
}

func showDetails(v *View, x *blueprint.DetailsBlock, got []records.Result) (*Details, error) {
	title, err := v.reading(x.Title)
	if err != nil {
		return nil, err
	}
	w, err := v.filled(x.Title, got)
	if err != nil {
		return nil, err
	}
	raw := []records.Row{v.Record}
	if x.Via != "" {
		raw = nil
		for _, r := range got[len(title):] {
			raw = append(raw, r.Rows...)
		}
	}
	all, err := Rows(raw)
	out := &Details{Title: w.Text, Columns: []Column{}, Edits: []string{}, Row: Row{}}
	if err != nil || len(all) == 0 {
		return out, err
	}
	for _, key := range []string{"id", "revision", "label"} {
		out.Row[key] = all[0][key]
	}
	t := v.shownBy(x)
	for _, id := range x.Fields {
		value, seen := all[0][id]
		if !seen {
			continue
		}
		out.Columns = append(out.Columns, ColumnOf(v.Seat.Blueprint, v.Seat.Catalog, t, t.Field(id)))
		out.Row[id] = value
		if label, ok := all[0][id+"~"]; ok {
			out.Row[id+"~"] = label
		}
	}
	out.Edits, err = v.settable(t, x.Edit, func(id string) bool { _, is := all[0][id]; return is })
	return out, err
}

// settable lists the fields that are shown and whoever looks may change, in some record.
func (v *View) settable(t *blueprint.Table, fields []string, shown func(id string) bool) ([]string, error) {
	out := []string{}
	for _, id := range fields {
		if !shown(id) || !t.Field(id).Type.Entered() {
			continue
		}
		may, err := access.Asks(v.Seat.Blueprint, v.Seat.Catalog, v.Seat.Viewer, t.ID, id, blueprint.Modify)
		if err != nil {
			return nil, err
		}
		if may {
			out = append(out, id)
		}
	}
	return out, nil
}

// Changes gives the table and the fields that are changed where they stand in a block, of a
// record that it shows.
func (v *View) Changes(block, record string) (*blueprint.Table, []string, error) {
	if _, x, err := At[*blueprint.RecordsBlock](v, block); err == nil {
		return v.Seat.Blueprint.Table(x.Table), append(moved(x), x.Edit...), nil
	}
	in, x, err := At[*blueprint.DetailsBlock](v, block)
	if err != nil {
		return nil, nil, err
	}
	id := v.Seat.Page
	if x.Via != "" {
		if id, err = in.linked(x); err != nil {
			return nil, nil, err
		}
	}
	if record != id {
		return nil, nil, store.ErrNotFound
	}
	return in.shownBy(x), x.Edit, nil
}
