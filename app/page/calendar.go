package page

import (
	"time"

	"pinegate/core/query"
	"pinegate/store/records"
)

// The spans of a calendar.
const (
	Month  = "month"
	Week   = "week"
	Day    = "day"
	Agenda = "agenda"
)

func spans() []string { return []string{Month, Week, Day, Agenda} }

// Calendar says which days are shown, and by which fields records stand on them.
type Calendar struct {
	From  string `json:"from"` // id of the field
	Until string `json:"until,omitempty"`
	Span  string `json:"span"`
	Day   string `json:"day"` // the day that was asked for
	First string `json:"first"`
	Last  string `json:"last"`
	Today string `json:"today"`
}

// Bounds of a calendar: the most records that are read, and the days of an agenda.
const (
	mostEntries = 500
	agendaDays  = 30
)

// days gives the first and the last day that are shown. Weeks begin as in the region of the
// app.
func (l *list) days() (first, last time.Time) {
	day := l.asked.day
	begins := l.Seat.Blueprint.FirstDay()
	week := func(d time.Time) time.Time { return d.AddDate(0, 0, -(int(d.Weekday())+7-begins)%7) }
	switch l.asked.span {
	case Week:
		return week(day), week(day).AddDate(0, 0, 6)
	case Day:
		return day, day
	case Agenda:
		return day, day.AddDate(0, 0, agendaDays-1)
	}
	month := day.AddDate(0, 0, 1-day.Day())
	return week(month), week(month.AddDate(0, 1, -1)).AddDate(0, 0, 6)
}

// calendarReads lists what is read for a calendar: what is on its days.
func (l *list) calendarReads(q *query.Selection) []records.Read {
	first, last := l.days()
	n := query.Narrow{Field: l.From, From: first.Format(time.DateOnly), To: last.Format(time.DateOnly)}
	if l.shows(l.Until) {
		n.Or = l.Until
	}
	q.Narrows = append(append([]query.Narrow{}, q.Narrows...), n)
	q.Sorts = []query.Sort{{Field: l.From}}
	q.Limit = mostEntries
	return []records.Read{{List: q}}
}

func (l *list) calendar() *Calendar {
	first, last := l.days()
	out := &Calendar{From: l.From, Span: l.asked.span, Day: l.asked.day.Format(time.DateOnly), First: first.Format(time.DateOnly),
		Last: last.Format(time.DateOnly), Today: l.Seat.Clock.Today()}
	if l.shows(l.Until) {
		out.Until = l.Until
	}
	return out
}
