package report_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/report"
)

func zone(t testing.TB, name string) *time.Location {
	z, err := time.LoadLocation(name)
	require.NoError(t, err)
	return z
}

func day(t testing.TB, text string) time.Time {
	d, err := time.Parse(time.DateOnly, text)
	require.NoError(t, err)
	return d
}

func TestRangesAreDays(t *testing.T) {
	lisbon := report.Calendar{Now: time.Date(2024, 2, 29, 23, 30, 0, 0, time.UTC), Zone: zone(t, "Europe/Lisbon"), First: time.Monday}
	auckland := report.Calendar{Now: lisbon.Now, Zone: zone(t, "Pacific/Auckland"), First: time.Sunday}
	for _, c := range []struct {
		r              report.Range
		there, farEast string
	}{
		{report.Always, "..", ".."},
		{report.Today, "2024-02-29..2024-02-29", "2024-03-01..2024-03-01"},
		{report.Yesterday, "2024-02-28..2024-02-28", "2024-02-29..2024-02-29"},
		{report.LastHours, "2024-02-28..2024-02-29", "2024-02-29..2024-03-01"},
		{report.Last7, "2024-02-23..2024-02-29", "2024-02-24..2024-03-01"},
		{report.Last30, "2024-01-31..2024-02-29", "2024-02-01..2024-03-01"},
		{report.ThisWeek, "2024-02-26..2024-03-03", "2024-02-25..2024-03-02"},
		{report.LastWeek, "2024-02-19..2024-02-25", "2024-02-18..2024-02-24"},
		{report.ThisMonth, "2024-02-01..2024-02-29", "2024-03-01..2024-03-31"},
		{report.LastMonth, "2024-01-01..2024-01-31", "2024-02-01..2024-02-29"},
		{report.ThisQuarter, "2024-01-01..2024-03-31", "2024-01-01..2024-03-31"},
		{report.LastQuarter, "2023-10-01..2023-12-31", "2023-10-01..2023-12-31"},
		{report.ThisYear, "2024-01-01..2024-12-31", "2024-01-01..2024-12-31"},
		{report.LastYear, "2023-01-01..2023-12-31", "2023-01-01..2023-12-31"},
		{report.Last12, "2023-03-01..2024-02-29", "2023-04-01..2024-03-31"},
	} {
		assert.Equal(t, c.there, lisbon.Span(c.r).String(), c.r)
		assert.Equal(t, c.farEast, auckland.Span(c.r).String(), c.r)
		assert.True(t, c.r.Known(), c.r)
	}
	assert.False(t, report.Range("ages").Known())
}

func TestSpansAreCompared(t *testing.T) {
	c := report.Calendar{Now: time.Date(2024, 3, 31, 12, 0, 0, 0, time.UTC), Zone: zone(t, "Europe/Lisbon"), First: time.Monday}
	for _, x := range []struct{ from, to, before, year string }{
		{"2024-03-01", "2024-03-31", "2024-02-01..2024-02-29", "2023-03-01..2023-03-31"},
		{"2024-02-01", "2024-02-29", "2024-01-01..2024-01-31", "2023-02-01..2023-02-28"},
		{"2025-02-01", "2025-02-28", "2025-01-01..2025-01-31", "2024-02-01..2024-02-29"},
		{"2025-02-28", "2025-02-28", "2025-02-27..2025-02-27", "2024-02-28..2024-02-28"},
		{"2024-02-29", "2024-02-29", "2024-02-28..2024-02-28", "2023-02-28..2023-02-28"},
		{"2024-01-01", "2024-12-31", "2023-01-01..2023-04-01", "2023-01-01..2023-03-31"}, // 91 days of it are over
		{"2023-01-01", "2023-12-31", "2022-01-01..2022-12-31", "2022-01-01..2022-12-31"},
		{"2024-03-25", "2024-04-07", "2024-03-11..2024-03-17", "2023-03-25..2023-03-31"},
		{"2024-04-01", "2024-04-30", "2024-03-01..2024-03-31", "2023-04-01..2023-04-30"}, // none of it is
		{"2024-01-01", "2024-03-31", "2023-10-01..2023-12-31", "2023-01-01..2023-03-31"},
		{"2024-03-04", "2024-03-10", "2024-02-26..2024-03-03", "2023-03-04..2023-03-10"},
		{"2024-03-30", "2024-03-31", "2024-03-28..2024-03-29", "2023-03-30..2023-03-31"},
	} {
		s := report.Span{From: day(t, x.from), To: day(t, x.to)}
		before, ok := c.Before(report.RangeBefore, s)
		assert.True(t, ok)
		assert.Equal(t, x.before, before.String(), s)
		year, ok := c.Before(report.YearBefore, s)
		assert.True(t, ok)
		assert.Equal(t, x.year, year.String(), s)
	}
	_, ok := c.Before(report.RangeBefore, report.Span{From: day(t, "2024-01-01")})
	assert.False(t, ok, "without an end there is nothing before")
	hours := c.Span(report.LastHours)
	before, ok := c.Before(report.RangeBefore, hours)
	assert.True(t, ok)
	assert.Equal(t, hours.Since.Add(-24*time.Hour), before.Since)
}

// TestPartsCoverASpan holds that the parts of any span follow each other without gaps, begin no later than it and reach its end.
func TestPartsCoverASpan(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := report.Calendar{Zone: time.UTC, First: time.Weekday(rapid.IntRange(0, 6).Draw(t, "first"))}
		from := time.Date(1999, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, rapid.IntRange(0, 20000).Draw(t, "from"))
		s := report.Span{From: from, To: from.AddDate(0, 0, rapid.IntRange(0, 900).Draw(t, "days"))}
		u := rapid.SampledFrom(report.Units()).Draw(t, "unit")
		parts := c.Parts(u, s)
		if len(parts) == 0 || parts[0].After(s.From) || !c.Next(u, parts[len(parts)-1]).After(s.To) || parts[len(parts)-1].After(s.To) {
			t.Fatalf("%s of %s: %v", u, s, parts)
		}
		for i, at := range parts {
			if c.Start(u, at) != at || i > 0 && c.Next(u, parts[i-1]) != at {
				t.Fatalf("%s of %s: %v", u, s, parts)
			}
		}
		for at := s.From; !at.After(s.To); at = at.AddDate(0, 0, 13) {
			if start := c.Start(u, at); start.After(at) || !c.Next(u, start).After(at) {
				t.Fatalf("%s is in the %s of %s", at, u, start)
			}
		}
		if u := c.Unit(s); len(c.Parts(u, s)) > 40 {
			t.Fatalf("%s of %s are too many", u, s)
		}
	})
	long := report.Span{From: time.Date(1900, 1, 1, 0, 0, 0, 0, time.UTC), To: time.Date(2100, 1, 1, 0, 0, 0, 0, time.UTC)}
	assert.Nil(t, report.Calendar{}.Parts(report.Day, long), "more than can be looked at")
	assert.Nil(t, report.Calendar{}.Parts(report.Day, report.Span{From: long.From}))
}
