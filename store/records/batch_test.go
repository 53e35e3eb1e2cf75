package records_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act/acttest"
	"pinegate/core/query"
	"pinegate/core/report"
	"pinegate/store"
	"pinegate/store/records"
)

// TestWhatTakesLongIsReadApart reads the same on several connections as on one, in the same order, and fails as a whole.
func TestWhatTakesLongIsReadApart(t *testing.T) {
	l := acttest.NewLoft(t)
	seat := l.Founder()
	table := seat.Blueprint.Table("sail")
	var reads []records.Read
	for _, total := range []report.Total{report.Count, report.Count, report.Count} {
		for _, by := range []string{"cl", "owner", "name", "cut"} {
			reads = append(reads, records.Read{Report: &query.Report{Selection: query.Selection{Table: table},
				Groups: []query.Grouping{{Field: by}}, Measures: []query.Measure{{Total: total}}}})
		}
	}
	want, err := l.Road().Batch(t.Context(), seat, reads)
	require.NoError(t, err)
	ctx := store.As(t.Context(), store.Heavy)
	for range 20 {
		got, err := l.Road().Batch(ctx, seat, reads)
		require.NoError(t, err)
		require.Equal(t, want, got)
	}
	reads = append(reads, records.Read{Report: &query.Report{Selection: query.Selection{Table: table},
		Groups: []query.Grouping{{Field: "cl", Unit: "month"}}}})
	_, err = l.Road().Batch(ctx, seat, reads)
	require.ErrorContains(t, err, "neither a day nor a number")

	broken := *seat
	broken.Schema = "nowhere"
	_, err = l.Road().Batch(ctx, &broken, reads[:12])
	assert.ErrorContains(t, err, "nowhere")
	got, err := l.Road().Batch(ctx, seat, reads[:12])
	require.NoError(t, err, "the connections go on")
	assert.Equal(t, want, got)
}
