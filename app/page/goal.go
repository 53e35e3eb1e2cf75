package page

import (
	"encoding/json"
	"fmt"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/report"
	"pinegate/store/records"
)

// Goal is what a number is to come to. At is empty where nothing says, or where it differs from group to group.
type Goal struct {
	Kind string  `json:"kind" enum:"least,most,between"`
	At   *string `json:"at"`
	To   string  `json:"to,omitempty"`
	// Left are the days that are left until its days are over.
	Left int `json:"left,omitempty"`
	// Ring tells that a figure shows as a ring how far it is.
	Ring bool `json:"ring,omitempty"`
}

// goalOf gives the target of a measure as it is set; nil where it has none.
func (r *reported) goalOf(m *blueprint.Measure) *Goal {
	if m.Goal.Goal == blueprint.NoGoal {
		return nil
	}
	out := &Goal{Kind: string(m.Goal.Goal), To: m.To, Ring: m.Ring}
	if !m.ByTable() {
		out.At = &m.At
	}
	if today := r.calendar.Today(); !r.span.To.IsZero() && !today.Before(r.span.From) && today.Before(r.span.To) {
		out.Left = int(r.span.To.Sub(today).Hours() / 24)
	}
	return out
}

// goalReads lists what is read of tables of targets: for each measure that is shown and has one, those of its days. Targets
// that whoever looks does not see are none.
func (r *reported) goalReads(unit report.Unit) ([]records.Read, error) {
	var out []records.Read
	places, _ := r.shown()
	for _, place := range places {
		q, err := r.goalQuery(&r.r.Measures[place], unit)
		if err != nil {
			return nil, err
		}
		if q != nil {
			out = append(out, records.Read{Report: q})
		}
	}
	return out, nil
}

// goalQuery is what is read of a table of targets; nil where a measure has none, or whoever looks does not see it.
func (r *reported) goalQuery(m *blueprint.Measure, unit report.Unit) (*query.Report, error) {
	if !m.ByTable() {
		return nil, nil
	}
	t := r.Seat.Blueprint.Table(m.Goals)
	for _, id := range []string{m.GoalsOf, m.GoalsBy} {
		if sees, err := r.Seat.Sees(t.ID, id); err != nil || !sees {
			return nil, err
		}
	}
	of, err := expr.Check(t.Field(m.GoalsOf).Key, expr.Scope{Catalog: r.Seat.Catalog, Row: t.ID})
	if err != nil {
		return nil, fmt.Errorf("read the targets of a chart on %s: %w", r.Page.Name, err)
	}
	out := &query.Report{Selection: query.Selection{Table: t}, Measures: []query.Measure{{Total: report.Sum, Of: of}}}
	if r.r.Date != "" && r.days.From+r.days.To != "" {
		out.Narrows = []query.Narrow{{Field: m.GoalsBy, From: r.days.From, To: r.days.To}}
	}
	if unit != "" {
		out.Groups = []query.Grouping{{Field: m.GoalsBy, Unit: unit}}
	}
	return out, nil
}

// goals takes what was read of targets, by the places of measures: by the first days of units, "" without one.
func (r *reported) goals(got []records.Result, unit report.Unit) (map[int]map[string]*string, error) {
	out := map[int]map[string]*string{}
	places, _ := r.shown()
	for _, place := range places {
		q, err := r.goalQuery(&r.r.Measures[place], unit)
		if err != nil {
			return nil, err
		}
		if q == nil {
			continue
		}
		out[place] = map[string]*string{}
		for _, raw := range got[0].Rows {
			var g query.Group
			if err := json.Unmarshal(raw, &g); err != nil {
				return nil, fmt.Errorf("read the targets of a chart on %s: %w", r.Page.Name, err)
			}
			key := ""
			if len(g.Keys) > 0 {
				if err := json.Unmarshal(g.Keys[0], &key); err != nil {
					continue // a target without a day is none
				}
			}
			out[place][key] = g.Values[0]
		}
		got = got[1:]
	}
	return out, nil
}
