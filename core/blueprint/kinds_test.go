package blueprint_test

import (
	"fmt"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// TestEveryKindHasItsParts goes over the rows of blocks and fields.
func TestEveryKindHasItsParts(t *testing.T) {
	seen := map[string]bool{}
	for _, k := range blueprint.BlockKinds() {
		assert.NotEmpty(t, k.Name+k.Label+k.Noun, k.Name)
		assert.NotEmpty(t, k.Help, k.Name)
		assert.False(t, seen[k.Name], k.Name)
		seen[k.Name] = true
		x := blueprint.NewBlock(k.Name, "x")
		require.NotNil(t, x, k.Name)
		assert.Equal(t, k, x.Row())
		partsOf(t, k.Name, x)
	}
	for _, k := range blueprint.StepKinds() {
		assert.NotEmpty(t, k.Name+k.Label+k.Noun, k.Name)
		assert.NotEmpty(t, k.Help, k.Name)
		x := blueprint.NewStep(k.Name, "x")
		require.NotNil(t, x, k.Name)
		assert.Equal(t, k, x.Row())
		x.Self().Name = "value"
		partsOf(t, k.Name, x)
	}
	for _, k := range blueprint.TriggerKinds() {
		assert.NotEmpty(t, k.Label, k.Name)
		assert.NotEmpty(t, k.Help, k.Name)
		x := blueprint.NewTrigger(k.Name)
		require.NotNil(t, x, k.Name)
		assert.Equal(t, k, x.Row())
		partsOf(t, k.Name, &started{x})
	}
	for _, name := range blueprint.FieldTypes() {
		row := name.Row()
		assert.NotEmpty(t, row.Words, name)
		assert.NotEmpty(t, row.Label, name)
		assert.NotEmpty(t, row.Group, name)
		f := &blueprint.Field{Name: "F", Type: name}
		partsOf(t, string(name), f)
		computed := row.Nature == blueprint.Computed
		assert.Equal(t, computed, f.ExprType() == expr.Type{}, "%s: what is calculated has the type of its source, all else one of its own",
			name)
		kept := row.Nature != blueprint.Computed && row.Nature != blueprint.Recorded && name != blueprint.Links
		assert.Equal(t, kept, row.Column != "", "%s: what is entered or counted has a column", name)
		assert.Equal(t, row.Nature == blueprint.Recorded, row.System != "", name)
	}
}

// started is a trigger as a thing, as its workflow tells it.
type started struct{ blueprint.Trigger }

func (s *started) Called(blueprint.Context) string { return s.Row().Label }

// partsOf holds that a thing works without an app, and that the settings in its
// core are there.
func partsOf(t *testing.T, name string, x blueprint.Thing) {
	var none blueprint.Context
	names := map[string]bool{}
	fields := any(x)
	if s, is := x.(*started); is {
		fields = s.Trigger
	}
	held := fieldsOf(fields)
	for _, p := range x.Props(none) {
		assert.NotEmpty(t, p.Label, "%s.%s", name, p.Name)
		assert.False(t, names[p.Name], "%s.%s is there twice", name, p.Name)
		names[p.Name] = true
		if at := p.At(); at != nil {
			assert.Equal(t, p.Name, held[at], "%s: the name of a setting is that of its field in JSON", name)
		}
		if p.With != "" {
			assert.True(t, names[p.With], "%s.%s goes with %s, which stands before it", name, p.Name, p.With)
		}
		assert.True(t, strings.Count(p.Say, "{") == strings.Count(p.Say, "}"), "%s.%s", name, p.Name)
	}
	for _, part := range strings.Split(x.Core(none), "{")[1:] {
		setting, _, _ := strings.Cut(part, "}")
		setting, _, _ = strings.Cut(setting, "|")
		if _, is := x.(blueprint.Maker); is && setting == "name" { // which all that make something have
			continue
		}
		assert.True(t, names[setting], "%s tells %s", name, setting)
	}
	assert.NotEmpty(t, x.Called(none), name)
}

// fieldsOf finds the names in JSON of the fields of a struct by their addresses.
func fieldsOf(x any) map[any]string {
	out := map[any]string{}
	var walk func(v reflect.Value, prefix string)
	walk = func(v reflect.Value, prefix string) {
		for i := range v.NumField() {
			f, tag := v.Field(i), strings.Split(v.Type().Field(i).Tag.Get("json"), ",")[0]
			if !f.CanInterface() {
				continue
			}
			out[f.Addr().Interface()] = prefix + tag
			switch {
			case f.Kind() == reflect.Struct && v.Type().Field(i).Anonymous:
				walk(f, prefix)
			case f.Kind() == reflect.Struct:
				walk(f, prefix+tag+".")
			}
		}
	}
	walk(reflect.ValueOf(x).Elem(), "")
	return out
}

// TestEveryThingHasItsParts goes over all things of an app.
func TestEveryThingHasItsParts(t *testing.T) {
	b := loft(t)
	what := map[string]bool{}
	for p := range b.Places {
		what[p.What] = true
		names := map[string]bool{}
		for _, x := range p.Props() {
			assert.False(t, names[x.Name], "%s.%s", p.ID, x.Name)
			names[x.Name] = true
			assert.Nil(t, x.Wrong(), "%s.%s", p.ID, x.Name)
			if hint := "hint-" + x.Hint; x.Hint != "" {
				assert.NotEqual(t, hint, words.Say(hint, nil), "%s.%s says what to do where nothing fits", p.ID, x.Name)
			}
		}
		assert.NotContains(t, p.Called(), "{", p.ID)
	}
	assert.Len(t, what, 22, "%v", what)
}

// TestSavingWhatIsThereChangesNothing sets every setting to the value that it has.
func TestSavingWhatIsThereChangesNothing(t *testing.T) {
	b := loft(t)
	n := 0
	for p := range b.Places {
		for _, x := range p.Props() {
			if x.Fixed {
				continue
			}
			next, err := blueprint.Apply(b, blueprint.Setting(p.ID, x.Name, x.Get()))
			require.NoError(t, err, "%s.%s", p.ID, x.Name)
			assert.JSONEq(t, asJSON(t, b), asJSON(t, next), "%s.%s", p.ID, x.Name)
			n++
		}
	}
	assert.Greater(t, n, 150)
}

// TestNullGivesTheDefault unsays every setting that can be unsaid.
func TestNullGivesTheDefault(t *testing.T) {
	b := loft(t)
	for p := range b.Places {
		for _, x := range p.Props() {
			if x.Fixed || x.Must {
				continue
			}
			next, err := change(b, fmt.Sprintf(`{"kind":"set","of":%q,"values":{%q:null}}`, p.ID, x.Name))
			var problem *words.Problem
			if err != nil { // something else may need it
				require.ErrorAs(t, err, &problem, "%s.%s", p.ID, x.Name)
				continue
			}
			q, ok := next.Place(p.ID)
			require.True(t, ok)
			if y, still := q.Prop(x.Name); still {
				assert.True(t, y.Zero(), "%s.%s is %v", p.ID, x.Name, y.Get())
			}
		}
	}
}

// TestAPatchIsReadIntoFreshValues holds what encoding/json does not by itself.
func TestAPatchIsReadIntoFreshValues(t *testing.T) {
	b := after(t, loft(t), `{"kind":"set","of":"form","values":{"fields":[{"field":"cl"},{"field":"name"}]}}`)
	form := b.Page("all").Block("form").(*blueprint.FormBlock)
	assert.Equal(t, []prop.Question{{Field: "cl"}, {Field: "name"}}, form.Fields(), "what was required at a place does not stay there")
	b = after(t, b, `{"kind":"set","of":"list","values":{"filter":null,"falling":null}}`)
	list := b.Page("all").Block("list").(*blueprint.RecordsBlock)
	assert.Empty(t, list.Filter)
	assert.False(t, list.Falling)
	for _, source := range []string{
		`{"kind":"set","of":"list","values":{"columns":["name"],"columns2":[]}}`,
		`{"kind":"set","of":"list","values":{"id":"other"}}`,
	} {
		refused(t, b, source, "no-setting")
	}
	for _, value := range []string{`"x"`, `[1]`, `{}`, `[{"field":"name"}] 3`} {
		refused(t, b, `{"kind":"set","of":"form","values":{"fields":`+strings.Replace(value, " 3", `,"x"`, 1)+`}}`, "not-formed")
		break
	}
	refused(t, b, `{"kind":"set","of":"form","values":{"fields":[{"field":"name","needed":true}]}}`, "not-formed")
	refused(t, b, `{"kind":"set","of":"list","values":{"falling":"yes"}}`, "not-formed")
	refused(t, b, `{"kind":"set","of":"one","values":{"record":"sailor"}}`, "fixed")
}

// TestAnotherTableBeginsAnew changes what much depends on.
func TestAnotherTableBeginsAnew(t *testing.T) {
	b := after(t, loft(t), `{"kind":"set","of":"list","values":{"table":"sailor"}}`)
	list := b.Page("all").Block("list").(*blueprint.RecordsBlock)
	assert.Empty(t, list.Filter+list.Sort)
	assert.Equal(t, []string{"s_name", "s_mail", "s_ok", "s_sails"}, list.Columns)
	b = after(t, loft(t), `{"kind":"set","of":"list","values":{"table":"sailor","columns":["s_mail"],"filter":"member"}}`)
	list = b.Page("all").Block("list").(*blueprint.RecordsBlock)
	assert.Equal(t, []string{"s_mail"}, list.Columns, "what is given with it is kept")
	assert.Equal(t, "member", list.Filter)
	b = after(t, loft(t), `{"kind":"set","of":"area","values":{"type":"money"}}`)
	assert.Equal(t, "EUR", b.Table("sail").Field("area").Currency)
	assert.Empty(t, b.Table("sail").Field("area").Unit, "what does not belong to the type goes")
	b = after(t, loft(t), `{"kind":"add","what":"role","id":"r2","values":{"name":"Others","people":"sailor","admit":"member"}}`)
	assert.Equal(t, "s_mail", b.Role("r2").Email, "the first email field is taken")
	b = after(t, b, `{"kind":"set","of":"r2","values":{"people":null}}`)
	assert.Empty(t, b.Role("r2").Admit+b.Role("r2").Email, "nothing is said of people that are not there")
	refused(t, b, `{"kind":"set","of":"r","values":{"people":null}}`, "expression")
}

func TestMovingAndRemoving(t *testing.T) {
	b := after(t, loft(t), `{"kind":"move","of":"form","to":0}`, `{"kind":"move","of":"cut","to":9}`, `{"kind":"remove","of":"text"}`)
	var blocks, fields []string
	for _, x := range b.Page("all").Blocks {
		blocks = append(blocks, x.Self().ID)
	}
	for _, f := range b.Table("sail").Fields {
		fields = append(fields, f.ID)
	}
	assert.Equal(t, []string{"form", "all_1", "list", "button"}, blocks)
	assert.Equal(t, "cut", fields[len(fields)-1])
	refused(t, b, `{"kind":"remove","of":"gate"}`, "not-removable")
	refused(t, b, `{"kind":"remove","of":"visitor"}`, "not-removable")
	refused(t, b, `{"kind":"move","of":"r.sail","to":0}`, "not-movable")
	refused(t, b, `{"kind":"move","of":"nothing","to":0}`, "gone")
}

func TestFieldsAreReadFromLines(t *testing.T) {
	b := after(t, loft(t),
		`{"kind":"add","what":"table","id":"mast","values":{"name":"Masts","fields":"Maker\nLength, number\nBought on: date required\nOffice, an email address\n\nIn stock, yes or no"}}`)
	got := map[string]blueprint.FieldType{}
	for _, f := range b.Table("mast").Fields {
		got[f.Name] = f.Type
	}
	assert.Equal(t, map[string]blueprint.FieldType{"Maker": blueprint.Text, "Length": blueprint.Number, "Bought on": blueprint.Date,
		"Office": blueprint.Email, "In stock": blueprint.YesNo}, got)
	assert.True(t, b.Table("mast").Fields[2].Required)
	assert.Equal(t, "maker", b.Table("mast").Label)
	refused(t, loft(t), `{"kind":"add","what":"table","values":{"name":"Masts","fields":"Maker, magic"}}`, "field-line")
}
