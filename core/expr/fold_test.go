package expr

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// answering is an environment with two answers.
type answering struct{}

func (answering) Start(root Root) Value { return RecordOf(string(root)) }
func (answering) Field(_ Value, f *Field) Value {
	if f.ID == "a_least" {
		return NumberOf(decimal.NewFromInt(12))
	}
	return TextOf("Tern")
}
func (answering) Records(string) []Value    { return nil }
func (answering) Label(string, Value) Value { return Empty() }
func (answering) Clock() Clock              { return Clock{} }

func asking() Scope {
	s := scope()
	s.Answers = Named(AnswersTable, "the answers", []*Field{{ID: "a_least", Key: "least", Name: "Least", Type: Type{Kind: Number}},
		{ID: "a_name", Key: "called", Name: "Called", Type: Type{Kind: Text}}})
	return s
}

// TestAnswersArePutInTheirPlaces folds what is made of answers alone, and nothing else.
func TestAnswersArePutInTheirPlaces(t *testing.T) {
	c, err := CheckCondition(`length >= answers.least * 2 and (name = answers.called or length > 3)`, asking())
	require.NoError(t, err)
	f := Fold(c, yard(), answering{})
	assert.False(t, f.Root.outside(0))
	assert.True(t, c.Root.outside(0), "the condition itself stays as it is")
	assert.Equal(t, "24", f.Root.Args[0].Args[1].Value.String())
	assert.Equal(t, "Tern", f.Root.Args[1].Args[0].Args[1].Value.String())
	assert.Equal(t, OpGt, f.Root.Args[1].Args[1].Op, "what names a record in hand is left")
}

// TestListsOfAnswersAreFoldedWhole computes what is said of lists among the answers, with what each of
// their records has, and leaves lists in which a record in hand is named.
func TestListsOfAnswersAreFoldedWhole(t *testing.T) {
	s := asking()
	s.Answers.Fields = append(s.Answers.Fields, &Field{ID: "a_boats", Key: "fleet", Name: "Fleet", Table: AnswersTable,
		Type: Type{Kind: Record, Table: s.Row, Many: true}})
	for source, want := range map[string]string{
		"COUNT(answers.fleet)":                                                        "2",
		"SUM(answers.fleet.length)":                                                   "24",
		"COUNT(FILTER(answers.fleet, length > answers.least - 1))":                    "2",
		`COUNT(FILTER(answers.fleet, COUNT(FILTER(answers.fleet, length > 90)) > 0))`: "0",
	} {
		c, err := Check(source, s)
		require.NoError(t, err, source)
		f := Fold(c, yard(), fleet{})
		assert.Equal(t, OpConst, f.Root.Op, source)
		assert.Equal(t, want, f.Root.Value.String(), source)
	}
	c, err := Check("COUNT(FILTER(answers.fleet, length > this.length))", s)
	require.NoError(t, err)
	assert.NotEqual(t, OpConst, Fold(c, yard(), fleet{}).Root.Op, "it depends on the record in hand")
}

// fleet answers with two boats of twelve metres.
type fleet struct{ answering }

func (fleet) Field(record Value, f *Field) Value {
	switch f.ID {
	case "a_boats":
		return ListValue([]Value{RecordOf("x"), RecordOf("y")})
	case "a_name":
		return TextOf("Tern")
	}
	return NumberOf(decimal.NewFromInt(12))
}

// TestAnswersAreNamedInFormsOnly tells where there are none, and lets a field be called so.
func TestAnswersAreNamedInFormsOnly(t *testing.T) {
	for source, code := range map[string]string{"answers.least > 1": "expr-no-answers", "answers > 1": "expr-no-answers"} {
		_, err := CheckCondition(source, scope())
		var wrong *Error
		require.ErrorAs(t, err, &wrong, source)
		assert.Equal(t, code, wrong.Code, source)
	}
	_, err := CheckCondition("answers > 1", asking())
	assert.Error(t, err, "one of them is to be named")
	s := scope()
	boats := s.Catalog.Tables[s.Row]
	boats.Fields = append(boats.Fields, &Field{ID: "b_ans", Key: "answers", Name: "Answers", Table: s.Row, Type: Type{Kind: Number}})
	_, err = CheckCondition("answers > 1", s)
	assert.NoError(t, err)
}

// TestPlainConditionsOverAnswers are told as comparisons, too.
func TestPlainConditionsOverAnswers(t *testing.T) {
	c, err := CheckCondition(`answers.least > 5 and answers.called = "Tern"`, asking())
	require.NoError(t, err)
	got, ok := Plain(c, yard())
	require.True(t, ok)
	assert.Equal(t, &Group{Rows: []Row{{Field: "answers.least", Relation: ">", Value: "5"},
		{Field: "answers.called", Relation: "=", Value: "Tern"}}}, got)
}

// TestConditionsAreGrounded makes of conditions about the records of a list, which name the record
// outside, some over a record in hand, and finds lists that cannot be known there.
func TestConditionsAreGrounded(t *testing.T) {
	s := scope()
	s.Inner = s.Row
	s.Made = Named(MadeTable, "made", []*Field{{ID: "a_least", Key: "least", Name: "Least", Type: Type{Kind: Number}},
		{ID: "a_boats", Key: "fleet", Name: "Fleet", Type: Type{Kind: Record, Table: s.Row, Many: true}}})
	for source, left := range map[string]string{
		"length > made.least":                                                         "",
		"length > this.length or name = this.name":                                    "",
		"COUNT(made.fleet) > 1 and length > 2":                                        "",
		"COUNT(FILTER(made.fleet, length > made.least)) > 1":                          "",
		"INCLUDES(made.fleet.name, name)":                                             "made.fleet",
		"COUNT(FILTER(made.fleet, length > 1 and this.length > 3)) > length":          "",
		"COUNT(FILTER(RECORDS(boats), length > this.length and name <> this.name))>1": "",
	} {
		c, err := CheckCondition(source, s)
		require.NoError(t, err, source)
		at, ok := Grounded(c)
		assert.Equal(t, left == "", ok, source)
		if left != "" {
			assert.Contains(t, c.Source[at.Start:], "made.fleet", source)
			continue
		}
		f := Ground(c, yard(), fleet{})
		assert.False(t, f.Root.outside(0), source)
		row := RecordOf("tern") // of it, both say the same
		assert.Equal(t, EvalIn(c, yard(), fleet{}, row), Eval(f, yard(), inHand{fleet{}, row}), source)
	}
}

// inHand is an environment with a record in hand.
type inHand struct {
	Env
	row Value
}

func (e inHand) Start(root Root) Value {
	if root == RootRow {
		return e.row
	}
	return e.Env.Start(root)
}
