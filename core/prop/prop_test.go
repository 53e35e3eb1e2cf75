package prop_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/expr"
	"pinegate/core/prop"
)

// things are what the values in these tests can name.
var things = prop.Of("thing", prop.Option{Value: "a", Words: "Apple"}, prop.Option{Value: "b", Words: "Bean"},
	prop.Option{Value: "c", Words: "the corn", Label: "Corn"})

// scope has a table with a text and a number.
func scope() expr.Scope {
	t := &expr.Table{ID: "t", Key: "things", Name: "Things"}
	for key, kind := range map[string]expr.Kind{"name": expr.Text, "size": expr.Number} {
		t.Fields = append(t.Fields, &expr.Field{ID: key, Key: key, Name: key, Table: "t", Type: expr.Type{Kind: kind}})
	}
	return expr.Scope{Catalog: &expr.Catalog{Tables: map[string]*expr.Table{"t": t}, Lists: map[string]*expr.ChoiceList{}}, Row: "t"}
}

func want(string) expr.Type { return expr.Type{Kind: expr.Number} }

// all has a value of each kind, with what it can hold and what it cannot.
type all struct {
	text, pick, one, condition, template, label string
	number                                      int
	count                                       *int
	on                                          bool
	many                                        []string
	sets                                        [][]string
	questions                                   []prop.Question
	gives                                       []prop.Given
	paths                                       []prop.Path
	reach                                       prop.Reach
	held                                        map[string]string
}

type kind struct {
	name  string
	value prop.Value
	good  []string // JSON
	wrong []string // JSON that is read, and then found wrong or naming nothing
	bad   []string // JSON that is not read
}

func (x *all) kinds() []kind {
	x.held = map[string]string{}
	held := prop.Held(prop.Control{Kind: prop.TextControl}, func() string { return x.held["k"] }, func(s string) {
		delete(x.held, "k")
		if s != "" {
			x.held["k"] = s
		}
	}, nil)
	return []kind{
		{"text", prop.Text(&x.text), []string{`"Hello"`, `" blank "`}, []string{`"two\nlines"`, `"\u0000"`},
			[]string{`3`, `{}`, `"a" "b"`}},
		{"switch", prop.Switch(&x.on), []string{`true`, `false`}, nil, []string{`"yes"`, `1`}},
		{"number", prop.Number(&x.number, 1, 9), []string{`1`, `9`, `0`}, []string{`10`, `-1`}, []string{`"3"`, `1.5`}},
		{"count", prop.Count(&x.count, 4), []string{`0`, `4`}, []string{`5`, `-1`}, []string{`"3"`}},
		{"pick", prop.Pick(&x.pick, prop.Option{Words: "None"}, prop.Option{Value: "x", Words: "Ex"}), []string{`"x"`, `""`},
			[]string{`"y"`},
			[]string{`3`}},
		{"one", prop.One(&x.one, things), []string{`"a"`, `""`}, []string{`"z"`}, []string{`["a"]`}},
		{"many", prop.Many(&x.many, things), []string{`["a","b"]`, `[]`}, []string{`["a","a"]`, `["z"]`}, []string{`"a"`}},
		{"sets", prop.Sets(&x.sets, things, 2, 3), []string{`[["a","b"]]`, `[]`}, []string{`[["a"]]`, `[["a","a"]]`, `[["a","z"]]`},
			[]string{`["a"]`}},
		{"questions", prop.Questions(&x.questions, things), []string{`[{"field":"a","required":true},{"field":"b"}]`},
			[]string{`[{"field":"a"},{"field":"a"}]`}, []string{`[{"fields":"a"}]`, `[{"field":"a","more":1}]`}},
		{"gives", prop.Gives(&x.gives, things, scope(), want), []string{`[{"field":"a","value":"size * 2"}]`},
			[]string{`[{"field":"a","value":" "}]`, `[{"field":"a","value":"1"},{"field":"a","value":"2"}]`}, []string{`[{"value":1}]`}},
		{"paths", prop.Paths(&x.paths, things, scope()), []string{`[{"when":"size > 1","page":"a"},{"page":"b"}]`},
			[]string{`[{"page":"z"}]`},
			[]string{`[{"if":"1"}]`}},
		{"reach", prop.Reaches(&x.reach, scope(), nil), []string{`{"extent":"all"}`, `{"extent":"where","condition":"size > 1"}`},
			[]string{`{"extent":"where"}`, `{"extent":"some"}`}, []string{`"all"`, `{"reach":"all"}`}},
		{"condition", prop.Condition(&x.condition, scope()), []string{`"size > 1"`, `" size > 1 "`}, []string{`"sise > 1"`, `"size"`},
			[]string{`1`}},
		{"label", prop.Label(&x.label, scope()), []string{`"name"`, `"size"`}, []string{`"sise"`}, nil},
		{"template", prop.Template(&x.template, scope()), []string{`"Hello {{ name }}"`}, []string{`"Hello {{ nam }}"`, `"{{"`}, nil},
		{"held", held, []string{`"x"`, `""`}, nil, []string{`1`}},
	}
}

// fits tells whether nothing is wrong with a value, and all that it names is there.
func fits(v prop.Value) bool {
	if v.Wrong() != nil {
		return false
	}
	for _, r := range v.Refs() {
		if _, ok := r.To.Find(r.ID); !ok {
			return false
		}
	}
	for _, e := range v.Exprs() {
		if _, err := e.Check(); err != nil {
			return false
		}
	}
	return true
}

func TestValuesTakeWhatFits(t *testing.T) {
	n := len((&all{}).kinds())
	for i := range n {
		each := func() kind { return (&all{}).kinds()[i] }
		name := each().name
		assert.True(t, each().value.Zero(), name)
		assert.True(t, fits(each().value) || name == "pick", "%s fits at its default", name)
		for _, raw := range each().good {
			k := each()
			require.NoError(t, k.value.Set(json.RawMessage(raw)), "%s %s", name, raw)
			assert.True(t, fits(k.value), "%s %s", name, raw)
		}
		for _, raw := range each().wrong {
			k := each()
			require.NoError(t, k.value.Set(json.RawMessage(raw)), "%s %s", name, raw)
			assert.False(t, fits(k.value), "%s %s", name, raw)
		}
		for _, raw := range each().bad {
			k := each()
			require.NoError(t, k.value.Set(json.RawMessage(k.good[0])))
			before := fmt.Sprint(k.value.Get())
			require.Error(t, k.value.Set(json.RawMessage(raw)), "%s %s", name, raw)
			assert.Equal(t, before, fmt.Sprint(k.value.Get()), "%s stays as it was", name)
		}
	}
}

// TestNullClears sets each value and clears it by null and by Clear.
func TestNullClears(t *testing.T) {
	for i := range (&all{}).kinds() {
		for _, clear := range []func(prop.Value) error{func(v prop.Value) error { return v.Set(json.RawMessage("null")) },
			func(v prop.Value) error { v.Clear(); return nil }} {
			k := (&all{}).kinds()[i]
			require.NoError(t, k.value.Set(json.RawMessage(k.good[0])))
			assert.False(t, k.value.Zero(), k.name)
			require.NoError(t, clear(k.value))
			assert.True(t, k.value.Zero(), k.name)
		}
	}
}

// TestSettingWhatOneGetsChangesNothing holds for all values, drawn at random.
func TestSettingWhatOneGetsChangesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		i := rapid.IntRange(0, len((&all{}).kinds())-1).Draw(t, "kind")
		k := (&all{}).kinds()[i]
		raw := rapid.SampledFrom(append(append([]string{"null"}, k.good...), k.wrong...)).Draw(t, "value")
		require.NoError(t, k.value.Set(json.RawMessage(raw)))
		got, err := json.Marshal(k.value.Get())
		require.NoError(t, err)
		other := (&all{}).kinds()[i]
		require.NoError(t, other.value.Set(got))
		again, err := json.Marshal(other.value.Get())
		require.NoError(t, err)
		assert.Equal(t, string(got), string(again), k.name)
	})
}

// TestAValueNeverReadsIntoTheOldOne reorders questions, of which one is required.
func TestAValueNeverReadsIntoTheOldOne(t *testing.T) {
	list := []prop.Question{{Field: "a", Required: true}, {Field: "b"}}
	v := prop.Questions(&list, things)
	require.NoError(t, v.Set(json.RawMessage(`[{"field":"b"},{"field":"a","required":true}]`)))
	assert.Equal(t, []prop.Question{{Field: "b"}, {Field: "a", Required: true}}, list)
}

// TestWhatIsLostIsCutOut cuts each thing that a value names out of it.
func TestWhatIsLostIsCutOut(t *testing.T) {
	x := &all{one: "b", many: []string{"a", "b", "c"}, sets: [][]string{{"a", "b"}, {"a", "c"}},
		questions: []prop.Question{{Field: "b"}, {Field: "c"}}, gives: []prop.Given{{Field: "b", Value: "1"}, {Field: "c", Value: "2"}},
		paths: []prop.Path{{Page: "b"}, {Page: "c"}}}
	for _, k := range x.kinds() {
		for _, r := range k.value.Refs() {
			if r.ID == "b" {
				r.Cut()
				break
			}
		}
		for _, r := range k.value.Refs() {
			assert.NotEqual(t, "b", r.ID, k.name)
		}
	}
	assert.Equal(t, []string{"a", "c"}, x.many)
	assert.Equal(t, [][]string{{"a", "c"}}, x.sets)
	assert.Equal(t, "", x.one)
	assert.Len(t, x.questions, 1)
	assert.Len(t, x.gives, 1)
	assert.Len(t, x.paths, 1)
}

func TestConditionsBelongToWhereAlone(t *testing.T) {
	var r prop.Reach
	v := prop.Reaches(&r, scope(), nil)
	require.NoError(t, v.Set(json.RawMessage(`{"extent":"all","condition":"size > 1"}`)))
	assert.Equal(t, prop.Reach{Extent: prop.AllRecords}, r)
	require.NoError(t, v.Set(json.RawMessage(`{"extent":"none"}`)))
	assert.True(t, v.Zero())
	assert.Equal(t, prop.Reach{Extent: prop.NoRecords}, v.Get())
}

func TestAListCanStandForWhatItDoesNotSay(t *testing.T) {
	var list []string
	v := prop.Many(&list, things).Else("a", "b")
	assert.Equal(t, []string{"a", "b"}, v.Get())
	require.NoError(t, v.Set(json.RawMessage(`["a","b"]`)))
	assert.Nil(t, list, "what nothing stands for is not stored")
	require.NoError(t, v.Set(json.RawMessage(`["b"]`)))
	assert.Equal(t, []string{"b"}, list)
}

func TestOptionsHaveWordsAndLabels(t *testing.T) {
	o, ok := things.Find("c")
	require.True(t, ok)
	assert.Equal(t, "Corn", o.Shown())
	o, _ = things.Find("a")
	assert.Equal(t, "Apple", o.Shown())
	_, ok = prop.To{}.Find("a")
	assert.False(t, ok)
}
