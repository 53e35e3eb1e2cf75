package flow_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/flow"
)

// TestClocksShowTheSame lists times across both changes of the clock, at the ends of months, and on days of weeks.
func TestClocksShowTheSame(t *testing.T) {
	london, err := time.LoadLocation("Europe/London")
	require.NoError(t, err)
	for _, c := range []struct {
		clock blueprint.Clock
		after string
		want  string
	}{
		{blueprint.Clock{Every: blueprint.EveryDay, Hour: 8}, "2026-03-27T09:00:00Z",
			"28 Mar 08:00 GMT, 29 Mar 08:00 BST, 30 Mar 08:00 BST"},
		{blueprint.Clock{Every: blueprint.EveryDay, Hour: 8}, "2026-10-23T09:00:00Z",
			"24 Oct 08:00 BST, 25 Oct 08:00 GMT, 26 Oct 08:00 GMT"},
		{blueprint.Clock{Every: blueprint.EveryDay, Hour: 1, Minute: 30}, "2026-03-28T00:00:00Z",
			"28 Mar 01:30 GMT, 29 Mar 02:30 BST, 30 Mar 01:30 BST"},
		{blueprint.Clock{Every: blueprint.EveryDay, Hour: 8}, "2026-03-29T07:00:00Z",
			"30 Mar 08:00 BST, 31 Mar 08:00 BST, 01 Apr 08:00 BST"},
		{blueprint.Clock{Every: blueprint.EveryWorkday, Hour: 7}, "2026-11-27T08:00:00Z",
			"30 Nov 07:00 GMT, 01 Dec 07:00 GMT, 02 Dec 07:00 GMT"},
		{blueprint.Clock{Every: blueprint.EveryWeek, Weekday: time.Sunday, Hour: 7}, "2026-11-22T07:00:00Z",
			"29 Nov 07:00 GMT, 06 Dec 07:00 GMT, 13 Dec 07:00 GMT"},
		{blueprint.Clock{Every: blueprint.EveryMonth, Day: 31, Hour: 6}, "2027-01-31T06:00:00Z",
			"28 Feb 06:00 GMT, 31 Mar 06:00 BST, 30 Apr 06:00 BST"},
		{blueprint.Clock{Every: blueprint.EveryMonth, Day: 5, Hour: 6}, "2027-01-05T06:00:00Z",
			"05 Feb 06:00 GMT, 05 Mar 06:00 GMT, 05 Apr 06:00 BST"},
	} {
		after, err := time.Parse(time.RFC3339, c.after)
		require.NoError(t, err)
		list, err := flow.Times(c.clock, london, after, after.AddDate(1, 0, 0), 3)
		require.NoError(t, err)
		var got []string
		for _, x := range list {
			got = append(got, x.In(london).Format("02 Jan 15:04 MST"))
		}
		assert.Equal(t, c.want, strings.Join(got, ", "))
	}
}

// TestTimesAreNeitherLostNorTwice cuts a stretch of time anywhere: the times of both pieces are those of the whole.
func TestTimesAreNeitherLostNorTwice(t *testing.T) {
	london, err := time.LoadLocation("Europe/London")
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		c := blueprint.Clock{Every: rapid.SampledFrom([]blueprint.Every{blueprint.EveryDay, blueprint.EveryWorkday, blueprint.EveryWeek,
			blueprint.EveryMonth}).Draw(t, "every"), Weekday: time.Weekday(rapid.IntRange(0, 6).Draw(t, "weekday")),
			Day:  rapid.IntRange(1, 31).Draw(t, "day"),
			Hour: rapid.IntRange(0, 23).Draw(t, "hour"), Minute: rapid.IntRange(0, 59).Draw(t, "minute")}
		from := time.Unix(rapid.Int64Range(1_700_000_000, 1_900_000_000).Draw(t, "from"), 0)
		cut := from.Add(time.Duration(rapid.IntRange(0, 60*24*60).Draw(t, "minutes")) * time.Minute)
		end := cut.Add(time.Duration(rapid.IntRange(0, 60*24*60).Draw(t, "more")) * time.Minute)
		times := func(a, b time.Time) []time.Time {
			list, err := flow.Times(c, london, a, b, 1000)
			require.NoError(t, err)
			return list
		}
		whole, parts := times(from, end), append(times(from, cut), times(cut, end)...)
		require.Len(t, parts, len(whole))
		for i := range whole {
			require.True(t, whole[i].Equal(parts[i]), "%s and %s", whole[i], parts[i])
		}
	})
}
