package expr

import (
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sums is an environment with three answers: 12, nothing and 0.
type sums struct{ answering }

func (sums) Field(_ Value, f *Field) Value {
	switch f.ID {
	case "a_least":
		return NumberOf(decimal.NewFromInt(12))
	case "a_zero":
		return NumberOf(decimal.Zero)
	}
	return Empty()
}

func summing() Scope {
	s := scope()
	number := Type{Kind: Number}
	s.Answers = Named(AnswersTable, "the answers", []*Field{{ID: "a_least", Key: "least", Name: "Least", Type: number},
		{ID: "a_none", Key: "none", Name: "None", Type: number}, {ID: "a_zero", Key: "zero", Name: "Zero", Type: number}})
	return s
}

func text(list []Told) string {
	var b strings.Builder
	for _, p := range list {
		b.WriteString(p.Words)
		if p.Words == "" {
			b.WriteString(p.Value.String())
		}
	}
	return b.String()
}

// TestExpressionsAreTold holds how expressions read with names and with values, by what they would divide that is 0,
// and what they lack.
func TestExpressionsAreTold(t *testing.T) {
	for _, x := range []struct{ source, names, values, zero, lacks string }{
		{"answers.least * 2", "Least × 2", "12 × 2", "", ""},
		{"(answers.least + 1) * 2 - (3 - 1 - answers.zero)", "(Least + 1) × 2 − (2 − Zero)", "(12 + 1) × 2 − (2 − 0)", "", ""},
		{"answers.least - (answers.zero - 1)", "Least − (Zero − 1)", "12 − (0 − 1)", "", ""},
		{"answers.least / (answers.least / 4)", "Least ÷ (Least ÷ 4)", "12 ÷ (12 ÷ 4)", "", ""},
		{"-answers.least", "−Least", "−12", "", ""},
		{"answers.none * 3", "None × 3", " × 3", "", "None"},
		{"answers.none + 3", "None + 3", " + 3", "", ""},
		{"1 / answers.zero", "1 ÷ Zero", "1 ÷ 0", "Zero", ""},
		{"answers.least + 1 / (answers.least - 12)", "Least + 1 ÷ (Least − 12)", "12 + 1 ÷ (12 − 12)", "Least − 12", ""},
		{"IF(answers.zero = 0, answers.least, 1 / answers.zero)", "Least if Zero = 0, otherwise 1 ÷ Zero", "12", "", ""},
		{"IF(answers.zero = 0, 1 / answers.zero, 5) * 2", "(1 ÷ Zero if Zero = 0, otherwise 5) × 2", "1 ÷ 0 × 2", "Zero", ""},
		{"IF(answers.zero = 1, 5) * 2", "(5 if Zero = 1, otherwise nothing) × 2", "nothing × 2", "", ""},
		{"COALESCE(1 / answers.zero, 7)", "COALESCE(1 ÷ Zero, 7)", "COALESCE(1 ÷ 0, 7)", "", ""},
		{"MAX(0, 1 / answers.zero)", "MAX(0, 1 ÷ Zero)", "MAX(0, 1 ÷ 0)", "Zero", ""},
		{"SUM(answers.least, 1 / answers.zero)", "SUM(Least, 1 ÷ Zero)", "SUM(12, 1 ÷ 0)", "Zero", ""},
		{"IF(ISBLANK(1 / answers.zero), 1, 2)", "1 if ISBLANK(1 ÷ Zero), otherwise 2", "1", "", ""},
		{"ROUND(answers.least / 7, 2)", "ROUND(Least ÷ 7, 2)", "ROUND(12 ÷ 7, 2)", "", ""},
		{"SQRT(0 - answers.least)", "SQRT(0 − Least)", "SQRT(0 − 12)", "", ""},
		{"ROUND(answers.none, 1)", "ROUND(None, 1)", "ROUND(, 1)", "", "None"},
		{"SUM(boats.length) + answers.least", "SUM(boats.length) + Least", "0 + 12", "", ""},
		{`IF(answers.least > 5 and answers.none = empty, "many", "few")`, "“many” if Least > 5 and None = nothing, otherwise “few”", "“many”", "", ""},
		{"IF(answers.least > 5 or 1 / answers.zero > 1, 2, 3)", "2 if Least > 5 or 1 ÷ Zero > 1, otherwise 3", "2", "", ""},
	} {
		c, err := Check(x.source, summing())
		require.NoError(t, err, x.source)
		assert.Equal(t, x.names, text(Names(c, yard())), x.source)
		assert.Equal(t, x.values, text(Values(c, yard(), sums{})), x.source)
		assert.Equal(t, x.zero, Zero(c, yard(), sums{}), x.source)
		assert.Equal(t, x.lacks, Lacks(c, yard(), sums{}), x.source)
	}
}
