package act_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/app/publish"
	"pinegate/core/blueprint"
	"pinegate/store/records"
)

// conversion is a field whose type changes while a value is in it.
type conversion struct {
	from  blueprint.FieldType
	value any // as it is entered
	to    blueprint.FieldType
	want  any // as it is read; nil where it cannot be turned
}

func conversions(ines string) []conversion {
	return []conversion{
		{blueprint.Text, "Ines", blueprint.LongText, "Ines"},
		{blueprint.Text, " 12.50 ", blueprint.Number, "12.5"},
		{blueprint.Text, "1e3", blueprint.Number, nil},
		{blueprint.Text, "about nine", blueprint.Money, nil},
		{blueprint.Text, "20 %", blueprint.Percent, "0.2"},
		{blueprint.Text, "20", blueprint.Percent, "0.2"},
		{blueprint.Text, "2026-02-28", blueprint.Date, "2026-02-28"},
		{blueprint.Text, "2026-02-30", blueprint.Date, nil},
		{blueprint.Text, "2024-02-29", blueprint.Date, "2024-02-29"},
		{blueprint.Text, "2023-02-29", blueprint.Date, nil},
		{blueprint.Text, "28.02.2026", blueprint.Date, nil},
		{blueprint.Text, "2026-02-28 11:30", blueprint.TimeStamp, "2026-02-28T00:00:00Z"},
		{blueprint.Text, "YES", blueprint.YesNo, true},
		{blueprint.Text, "false", blueprint.YesNo, false},
		{blueprint.Text, "perhaps", blueprint.YesNo, nil},
		{blueprint.Text, " dacron", blueprint.Choose, "dacron"},
		{blueprint.Text, "Paper", blueprint.Choose, nil},
		{blueprint.Text, "Laminate, Dacron", blueprint.ChooseMany, []any{"laminate", "dacron"}},
		{blueprint.Text, "Laminate, Paper", blueprint.ChooseMany, nil},
		{blueprint.Text, "INES", blueprint.Link, ines},
		{blueprint.Text, "Nobody", blueprint.Link, nil},
		{blueprint.Text, "Twin", blueprint.Link, nil},
		{blueprint.Number, "12.50", blueprint.Text, "12.5"},
		{blueprint.Number, "12.5", blueprint.Money, "12.5"},
		{blueprint.Number, "20", blueprint.Percent, "0.2"},
		{blueprint.Number, "20", blueprint.Date, nil},
		{blueprint.Number, "1", blueprint.YesNo, nil},
		{blueprint.Percent, "0.2", blueprint.Number, "20"},
		{blueprint.Percent, "0.2", blueprint.Text, "20 %"},
		{blueprint.Duration, "1.5", blueprint.Text, "1.5"},
		{blueprint.Duration, "1.5", blueprint.Number, "1.5"},
		{blueprint.YesNo, true, blueprint.Text, "yes"},
		{blueprint.YesNo, false, blueprint.Text, "no"},
		{blueprint.YesNo, true, blueprint.Number, nil},
		{blueprint.Date, "2026-02-28", blueprint.Text, "2026-02-28"},
		{blueprint.Date, "2026-02-28", blueprint.TimeStamp, "2026-02-28T00:00:00Z"},
		{blueprint.TimeStamp, "2026-02-28T11:30:00Z", blueprint.Date, "2026-02-28"},
		{blueprint.TimeStamp, "2026-02-28T11:30:00Z", blueprint.Text, "2026-02-28 11:30"},
		{blueprint.Choose, "dacron", blueprint.Text, "Dacron"},
		{blueprint.Choose, "dacron", blueprint.ChooseMany, []any{"dacron"}},
		{blueprint.Choose, "dacron", blueprint.YesNo, nil},
		{blueprint.ChooseMany, []string{"dacron"}, blueprint.Choose, "dacron"},
		{blueprint.ChooseMany, []string{"laminate", "dacron"}, blueprint.Choose, nil},
		{blueprint.ChooseMany, []string{"laminate", "dacron"}, blueprint.Text, "Laminate, Dacron"},
		{blueprint.Link, ines, blueprint.Text, "Ines"},
		{blueprint.Link, ines, blueprint.Links, []any{ines}},
		{blueprint.Link, ines, blueprint.Number, nil},
		{blueprint.Links, []string{ines}, blueprint.Link, ines},
		{blueprint.Links, []string{ines}, blueprint.Text, nil},
		{blueprint.Email, "ines@sails.example", blueprint.Text, "ines@sails.example"},
		{blueprint.Text, "ines@sails.example", blueprint.Email, "ines@sails.example"},
		{blueprint.Phone, "+49 123", blueprint.Text, "+49 123"},
		{blueprint.Text, "sails.example", blueprint.Web, "sails.example"},
	}
}

// settings are what a field of a type needs to be asked for.
func settingsOf(t blueprint.FieldType) blueprint.Values {
	v := blueprint.Vals("type", t)
	switch t {
	case blueprint.Choose, blueprint.ChooseMany:
		v = blueprint.Vals("type", t, "list", "cloth")
	case blueprint.Link, blueprint.Links:
		v = blueprint.Vals("type", t, "target", "sailor")
	}
	return v
}

// plainly is a value as it is read, of records their ids.
func plainly(v any) any {
	switch v := v.(type) {
	case map[string]any:
		return v["id"]
	case []any:
		out := make([]any, len(v))
		for i, x := range v {
			out[i] = plainly(x)
		}
		return out
	}
	return v
}

// TestValuesTurnWithTheTypeOfTheirField changes the types of fields in which values are,
// and changes them back: what could not be turned is counted before, and is there again
// afterwards.
func TestValuesTurnWithTheTypeOfTheirField(t *testing.T) {
	l := acttest.NewLoft(t)
	ctx := t.Context()
	l.Add("sailor", map[string]any{"s_name": "Twin"})
	l.Add("sailor", map[string]any{"s_name": "Twin"})
	cases := conversions(l.People["Ines"])
	var added []blueprint.Change
	values := map[string]any{}
	for i, c := range cases {
		id := fmt.Sprintf("c%d", i)
		v := settingsOf(c.from)
		raw, err := json.Marshal("Case " + id)
		require.NoError(t, err)
		v["name"] = raw
		added = append(added, &blueprint.AddThing{What: "field", Into: "sail", ID: id, Values: v})
		values[id] = c.value
	}
	_, err := l.Acts.Apply(ctx, l.App.ID, "Ann", added...)
	require.NoError(t, err)
	seat, genoa := l.Founder(), l.Sails["Genoa"]
	_, err = l.Acts.Edit(ctx, l.App, seat, "test", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Change(ctx, seat, seat.Blueprint.Table("sail"), genoa, 1, acttest.Values(t, values), nil)
	})
	require.NoError(t, err)
	read := func() map[string]any {
		seat := l.Founder()
		raw, err := l.Road().Get(ctx, seat, seat.Blueprint.Table("sail"), genoa)
		require.NoError(t, err)
		out := map[string]any{}
		require.NoError(t, json.Unmarshal(raw, &out))
		for i := range cases {
			id := fmt.Sprintf("c%d", i)
			out[id] = plainly(out[id])
		}
		return out
	}
	before := read()
	for i, c := range cases {
		id, name := fmt.Sprintf("c%d", i), fmt.Sprintf("%s %v to %s", c.from, c.value, c.to)
		turn := &blueprint.Set{Of: id, Values: settingsOf(c.to)}
		effects, err := publish.EffectsOf(ctx, l.Apps, l.App, turn)
		require.NoError(t, err, name)
		if c.want == nil {
			assert.Len(t, effects.Losses, 1, "%s: it is told before", name)
		} else {
			assert.Empty(t, effects.Losses, "%s: nothing is lost", name)
		}
		_, err = l.Acts.Apply(ctx, l.App.ID, "Ann", turn)
		require.NoError(t, err, name)
		assert.Equal(t, c.want, read()[id], name)
		_, err = l.Acts.Undo(ctx, l.App.ID, "Ann")
		require.NoError(t, err, name)
		assert.Equal(t, before[id], read()[id], "%s, undone", name)
	}
	assert.Equal(t, before, read())
}
