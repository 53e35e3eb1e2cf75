package blueprint_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/words"
)

// loft is a small app that has one of everything.
func loft(t testing.TB) *blueprint.Blueprint { return blueprinttest.Busy(t) }

func ids() func() string { return blueprinttest.IDs() }

// after applies changes that are written as JSON.
func after(t testing.TB, b *blueprint.Blueprint, changes ...string) *blueprint.Blueprint {
	t.Helper()
	for _, source := range changes {
		next, err := change(b, source)
		require.NoError(t, err, source)
		b = next
	}
	return b
}

func change(b *blueprint.Blueprint, source string) (*blueprint.Blueprint, error) {
	c, err := blueprint.DecodeChange([]byte(source), func() string { return "new" })
	if err != nil {
		return nil, err
	}
	return blueprint.Apply(b, c)
}

// refused holds that a change is refused with a problem of the code.
func refused(t *testing.T, b *blueprint.Blueprint, source, code string) {
	t.Helper()
	_, err := change(b, source)
	var p *words.Problem
	if assert.ErrorAs(t, err, &p, source) {
		assert.Equal(t, code, p.Code, "%s: %s", source, p)
		assert.NotRegexp(t, `[^{]\{[a-z]+\}`, p.Error(), "every placeholder is filled in: %s", source)
	}
}

func asJSON(t testing.TB, v any) string {
	t.Helper()
	raw, err := json.Marshal(v)
	require.NoError(t, err)
	return string(raw)
}

// TestATableBeginsWithAField adds tables with fields written in every way, and with none.
func TestATableBeginsWithAField(t *testing.T) {
	for fields, want := range map[string][]string{
		`null`:                               {"Name"},
		`""`:                                 {"Name"},
		`[]`:                                 {"Name"},
		`"Depth, number\n\nFree"`:            {"Depth", "Free"},
		`[{"name":"Depth","type":"number"}]`: {"Depth"},
	} {
		b := blueprinttest.After(t, blueprinttest.Loft(t),
			`{"kind":"add","what":"table","id":"pier","values":{"name":"Piers","fields":`+fields+`}}`)
		var names []string
		for _, f := range b.Table("pier").Fields {
			names = append(names, f.Name)
		}
		assert.Equal(t, want, names, fields)
		assert.NotEmpty(t, b.Table("pier").Label, fields)
	}
	for _, fields := range []string{`[3]`, `3`, `{"name":"Depth"}`, `[null`,
		`"Depth, colour"`, `[{"name":"Depth","type":"colour"}]`, `[{}]`} {
		c, err := blueprint.DecodeChange([]byte(`{"kind":"add","what":"table","id":"pier","values":{"name":"Piers","fields":`+fields+`}}`),
			func() string { return "new" })
		if err == nil {
			_, err = blueprint.Apply(blueprinttest.Loft(t), c)
		}
		require.Error(t, err, fields)
	}
}
