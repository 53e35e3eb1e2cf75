package expr

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestPlainConditions(t *testing.T) {
	for src, want := range map[string]*Group{
		`length > 12 and status = "Afloat"`: {Rows: []Row{{Field: "length", Relation: ">", Value: "12"},
			{Field: "status", Relation: "=", Value: "Afloat"}}},
		`sold or not sold or owner.name = empty`: {Any: true,
			Rows: []Row{{Field: "sold", Relation: IsYes}, {Field: "sold", Relation: IsNo}, {Field: "owner.name", Relation: IsEmpty}}},
		`owner = me and (name <> empty or due < "2026-01-02")`: {Rows: []Row{{Field: "owner", Relation: IsMe},
			{Group: &Group{Any: true, Rows: []Row{{Field: "name", Relation: IsFilled},
				{Field: "due", Relation: "<", Value: "2026-01-02"}}}}}},
		`CONTAINS(name, "gu")`: {Rows: []Row{{Field: "name", Relation: Contains, Value: "gu"}}},
		`length > unit_price`:  nil,
		`COUNT(boats) > 1`:     nil,
	} {
		c, err := CheckCondition(src, scope())
		require.NoError(t, err, src)
		got, ok := Plain(c, yard())
		assert.Equal(t, want != nil, ok, src)
		if want != nil {
			assert.Equal(t, want, got, src)
		}
	}
}
