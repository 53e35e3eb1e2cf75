package records_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/store/records"
)

func change(t testing.TB, source string) blueprint.Change {
	t.Helper()
	c, err := blueprint.DecodeChange([]byte(source), func() string { return "new" })
	require.NoError(t, err)
	return c
}

// TestExpressionsReadAsThePersonSees evaluates in the server what reads other records,
// for the founder and for a member from whom prices and other people's sails are hidden.
func TestExpressionsReadAsThePersonSees(t *testing.T) {
	l := acttest.NewLoft(t,
		`{"kind":"set","of":"r.sailor","values":{"see":{"extent":"where","condition":"this = me"}}}`,
		`{"kind":"add","what":"field","into":"sail","id":"cloths","values":{"name":"Cloths","type":"several choices","list":"cloth"}}`)
	founder := l.Founder()
	_, err := l.Acts.Edit(t.Context(), l.App, founder, "test", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Change(t.Context(), founder, founder.Blueprint.Table("sail"), l.Sails["Genoa"], 1,
			acttest.Values(t, map[string]any{"cut": "2026-04-01", "cloths": []string{"dacron", "laminate"}}), nil)
	})
	require.NoError(t, err)
	for name, c := range map[string]struct {
		expression      string
		founder, member string
	}{
		"a text":                  {`page.record.name`, "Genoa", "Genoa"},
		"a number":                {`page.record.area + 1`, "21", "21"},
		"a date":                  {`page.record.cut_on`, "2026-04-01", "2026-04-01"},
		"a choice":                {`page.record.cloth = "Dacron"`, "true", "true"},
		"several choices":         {`COUNT(page.record.cloths)`, "2", "2"},
		"a yes or no":             {`page.record.owner.member`, "true", "true"},
		"through a link":          {`page.record.owner.email`, "Ines@sails.example", "Ines@sails.example"},
		"many":                    {`COUNT(page.record.owner.sails)`, "2", "2"},
		"a field of many":         {`SUM(page.record.owner.sails.area)`, "40", "40"},
		"a label":                 {`LABEL(page.record.owner)`, "Ines", "Ines"},
		"all of a table":          {`COUNT(RECORDS(sails))`, "3", "2"},
		"all that fit":            {`COUNT(RECORDS(sailors, member))`, "2", "1"},
		"me, who is nobody there": {`me.name`, "", "Ines"},
		"what is not set is none": {`ISBLANK(page.record.owner.email)`, "false", "false"},
	} {
		for who, want := range map[string]string{"": c.founder, "Ines": c.member} {
			seat := l.Founder()
			if who != "" {
				seat = l.Member(who)
			}
			seat.Page = l.Sails["Genoa"]
			me, page := seat.Blueprint.Table("sailor"), seat.Blueprint.Table("sail")
			checked, err := expr.Check(c.expression, expr.Scope{Catalog: seat.Catalog, Me: me.ID, Page: page.ID})
			require.NoError(t, err, name)
			reads := map[string][]string{}
			for _, r := range checked.Refs {
				reads[r.Table] = append(reads[r.Table], r.Field)
			}
			for how, fields := range map[string]map[string][]string{"all": nil, "what is named": reads, "nothing at first": {}} {
				env := l.Road().Env(t.Context(), seat, me, page).Reading(fields)
				v := expr.Eval(checked, seat.Catalog, env)
				require.NoError(t, env.Err(), name)
				assert.Equal(t, want, v.String(), "%s for %q, reading %s", name, who, how)
			}
		}
	}
}

// TestHiddenFieldsAreNotRead asks for a price, which is hidden from the role.
func TestHiddenFieldsAreNotRead(t *testing.T) {
	l := acttest.NewLoft(t)
	read := func(seat *records.Seat) string {
		seat.Page = l.Sails["Genoa"]
		page := seat.Blueprint.Table("sail")
		checked, err := expr.Check(`page.record.price`, expr.Scope{Catalog: seat.Catalog, Page: page.ID})
		require.NoError(t, err)
		env := l.Road().Env(t.Context(), seat, nil, page).Reading(map[string][]string{"sail": {"price"}})
		v := expr.Eval(checked, seat.Catalog, env)
		require.NoError(t, env.Err())
		return v.String()
	}
	assert.Equal(t, "400", read(l.Founder()))
	assert.Empty(t, read(l.Member("Ines")))
	assert.Empty(t, read(l.Member("Tomas")), "the record is not his")
}

// TestWhoIsSignedInIsKnownByNameWithoutATable evaluates where the table of people is
// not known, as in the form of a page that is for everybody.
func TestWhoIsSignedInIsKnownByNameWithoutATable(t *testing.T) {
	l := acttest.NewLoft(t)
	seat := l.Member("Ines")
	seat.Viewer.Email = "ines@sails.example"
	for source, want := range map[string]string{`me.name`: "Ines", `me.email`: "ines@sails.example"} {
		checked, err := expr.Check(source, expr.Scope{Catalog: seat.Catalog, Me: expr.PersonTable})
		require.NoError(t, err)
		env := l.Road().Env(t.Context(), seat, nil, nil)
		assert.Equal(t, want, expr.Eval(checked, seat.Catalog, env).String())
		require.NoError(t, env.Err())
	}
}

// TestRulesFillInWhatIsNotAsked adds as somebody whose rule sets a value, takes from
// their own record, and overrules what they send.
func TestRulesFillInWhatIsNotAsked(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"r.sailor","values":{"see":{"extent":"all"}}}`,
		`{"kind":"set","of":"r.sail","values":{"add":{"extent":"all"},"given":[
			{"field":"owner","value":"me"},{"field":"name","value":"me.name & \"'s sail\""},{"field":"cut","value":"TODAY()"},
			{"field":"area","value":"SUM(me.sails.area)"}]}}`)
	ctx, ines := t.Context(), l.Member("Ines")
	w, err := l.Acts.Edit(ctx, l.App, ines, "test", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Add(ctx, ines, ines.Blueprint.Table("sail"), acttest.Values(t, map[string]any{"cl": "dacron"}), nil)
	})
	require.NoError(t, err)
	got := row(l, l.Founder(), "sail", w.Record)
	assert.Equal(t, "Ines's sail", got["name"])
	assert.Equal(t, "2026-05-01", got["cut"])
	assert.Equal(t, "40", got["area"])
	assert.Contains(t, names(l, ines, "sail"), "Ines's sail", "it is hers")

	w, err = l.Acts.Edit(ctx, l.App, ines, "test", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Add(ctx, ines, ines.Blueprint.Table("sail"),
			acttest.Values(t, map[string]any{"cl": "dacron", "owner": l.People["Tomas"]}), nil)
	})
	require.NoError(t, err)
	owner, err := json.Marshal(row(l, l.Founder(), "sail", w.Record)["owner"])
	require.NoError(t, err)
	assert.Contains(t, string(owner), l.People["Ines"], "the rule has the last word")
	assert.NotContains(t, string(owner), l.People["Tomas"])
}
