package page

import (
	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/core/report"
	"pinegate/store/records"
)

// Figure is one number that is looked at first, or a few beside each other.
type Figure struct {
	Head
	Title    string    `json:"title"`
	Measures []Measure `json:"measures"`
	// Values are the numbers in the order of the measures, and Before those of the days with which they are compared; null for
	// what is empty.
	Values []*string `json:"values"`
	Before []*string `json:"before,omitempty"`
	// BeforeDays are the days with which it is compared.
	BeforeDays *Days  `json:"beforeDays,omitempty"`
	Better     string `json:"better,omitempty" enum:"higher,lower"`
	// Course are the values of the first measure for each part of its days.
	Course []*string `json:"course,omitempty"`
	Days   Days      `json:"days"`
	Notes  []string  `json:"notes,omitempty"`
	// Badge is what whoever looks can get for it; absent where it gives none, or to no person.
	Badge *Badge `json:"badge,omitempty"`
}

// courseOf gives the unit of a figure's small line and its parts; none where its days have no end, or are not seen.
func (r *reported) courseOf(x *blueprint.FigureBlock) (query.Grouping, []string, error) {
	sees, err := r.sees(x.Date)
	if x.Course == "" || err != nil || !sees {
		return query.Grouping{}, nil, err
	}
	var out []string
	for _, at := range r.calendar.Parts(x.Course, r.span) {
		if !at.After(r.calendar.Today()) { // of what is to come there is no course yet
			out = append(out, report.Written(at))
		}
	}
	return query.Grouping{Field: x.Date, Unit: x.Course}, out, nil
}

func figureReads(v *View, x *blueprint.FigureBlock) ([]records.Read, error) {
	r, err := v.reported(x)
	if err != nil {
		return nil, err
	}
	title, err := v.reading(x.Title)
	if err != nil {
		return nil, err
	}
	whole, err := r.query(r.span)
	if err != nil {
		return nil, err
	}
	out := append(title, records.Read{Report: whole})
	if before, compared := r.before(); compared {
		q, err := r.query(before)
		if err != nil {
			return nil, err
		}
		out = append(out, records.Read{Report: q})
	}
	by, parts, err := r.courseOf(x)
	if err != nil {
		return nil, err
	}
	if len(parts) > 0 {
		q, err := r.query(r.span, by)
		if err != nil {
			return nil, err
		}
		out = append(out, records.Read{Report: q})
	}
	goals, err := r.goalReads("")
	return append(out, goals...), err
}

func showFigure(v *View, x *blueprint.FigureBlock, got []records.Result) (*Figure, error) {
	r, err := v.reported(x)
	if err != nil {
		return nil, err
	}
	out := &Figure{Better: string(x.Better), Days: r.days, Notes: r.notes}
	title, err := v.filled(x.Title, got)
	if err != nil {
		return nil, err
	}
	out.Title = title.Text
	if titled, err := v.reading(x.Title); err != nil {
		return nil, err
	} else {
		got = got[len(titled):]
	}
	places, measures := r.shown()
	out.Measures = measures
	if out.Values, err = r.one(places, got[0]); err != nil {
		return nil, err
	}
	got = got[1:]
	if before, compared := r.before(); compared {
		if out.Before, err = r.one(places, got[0]); err != nil {
			return nil, err
		}
		out.BeforeDays = &Days{From: report.Written(before.From), To: report.Written(before.To)}
		got = got[1:]
	}
	_, parts, err := r.courseOf(x)
	if err != nil {
		return nil, err
	}
	if len(parts) > 0 {
		groups, err := r.groups(got[0])
		if err != nil {
			return nil, err
		}
		out.Course, got = courseIn(parts, places[0], groups, r.r.Measures[places[0]].Total), got[1:]
	}
	goals, err := r.goals(got, "")
	if err != nil {
		return nil, err
	}
	for i, place := range places {
		if at := goals[place]; at != nil {
			out.Measures[i].Goal.At = at[""]
		}
	}
	v.badgeLater(x, out)
	return out, nil
}

// one gives the values of the only group.
func (r *reported) one(places []int, got records.Result) ([]*string, error) {
	groups, err := r.groups(got)
	if err != nil {
		return nil, err
	}
	out := make([]*string, len(places))
	for i, place := range places {
		if len(groups) > 0 {
			out[i] = groups[0].Values[place]
		}
	}
	return out, nil
}

// courseIn puts the values of a measure to the parts of a span; where there are no records, sums and numbers are 0.
func courseIn(parts []string, place int, groups []query.Group, total report.Total) []*string {
	out := make([]*string, len(parts))
	at := map[string]int{}
	for i, p := range parts {
		at[`"`+p+`"`] = i
		out[i] = nothingOf(total)
	}
	for _, g := range groups {
		if i, is := at[string(g.Keys[0])]; is {
			out[i] = g.Values[place]
		}
	}
	return out
}

// nothingOf is what a total over no records is: 0 for what adds up, and empty for all else.
func nothingOf(t report.Total) *string {
	if t != report.Count && t != report.Sum {
		return nil
	}
	zero := "0"
	return &zero
}
