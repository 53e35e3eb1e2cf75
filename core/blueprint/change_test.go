package blueprint_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/words"
)

func TestChangesAreRefusedInWords(t *testing.T) {
	b := loft(t)
	for source, code := range map[string]string{
		`{"kind":"set","of":"app","values":{"name":""}}`:                                                           "must",
		`{"kind":"set","of":"sail","values":{"name":""}}`:                                                          "must",
		`{"kind":"set","of":"sail","values":{"name":"[x]"}}`:                                                       "name-signs",
		`{"kind":"set","of":"sail","values":{"name":"Sailors"}}`:                                                   "same-name",
		`{"kind":"set","of":"app","values":{"theme":"Neon"}}`:                                                      "not-offered",
		`{"kind":"set","of":"app","values":{"zone":"Local"}}`:                                                      "zone",
		`{"kind":"set","of":"app","values":{"zone":"Nowhere/Atoll"}}`:                                              "zone",
		`{"kind":"set","of":"r.sail","values":{"see":{"extent":"where"}}}`:                                         "reach-where",
		`{"kind":"set","of":"r.sail","values":{"see":{"extent":"some"}}}`:                                          "not-offered",
		`{"kind":"set","of":"r.sail","values":{"see":{"extent":"where","condition":"ownr = me"}}}`:                 "expression",
		`{"kind":"set","of":"visitor.sail","values":{"see":{"extent":"where","condition":"owner = me"}}}`:          "expression",
		`{"kind":"set","of":"text","values":{"text":"{{ me.nam }}"}}`:                                              "expression",
		`{"kind":"set","of":"list","values":{"open":"n1"}}`:                                                        "not-offered",
		`{"kind":"set","of":"list","values":{"columns":["name","name"]}}`:                                          "twice",
		`{"kind":"set","of":"one","values":{"audience":"roles"}}`:                                                  "must",
		`{"kind":"set","of":"r","values":{"people":"sail"}}`:                                                       "must",
		`{"kind":"set","of":"r","values":{"homes":[{"page":"one"}]}}`:                                              "not-offered",
		`{"kind":"set","of":"r","values":{"match":["s_ok"]}}`:                                                      "not-offered",
		`{"kind":"set","of":"r","values":{"signUp.mode":"always"}}`:                                                "not-offered",
		`{"kind":"set","of":"r:sign-up","values":{"fields":[{"field":"s_ok"}]}}`:                                   "decides",
		`{"kind":"set","of":"r:sign-up","values":{"fields":[{"field":"s_mail"}]}}`:                                 "not-offered",
		`{"kind":"set","of":"r","values":{"second":"face"}}`:                                                       "not-offered",
		`{"kind":"set","of":"form","values":{"presets":[{"field":"name","value":"\"x\""}]}}`:                       "asked-and-set",
		`{"kind":"set","of":"form","values":{"presets":[{"field":"owner","value":""}]}}`:                           "given-nothing",
		`{"kind":"set","of":"form","values":{"changes":true}}`:                                                     "no-setting",
		`{"kind":"set","of":"area","values":{"least":"5","most":"3"}}`:                                             "limits-crossed",
		`{"kind":"set","of":"area","values":{"least":"many"}}`:                                                     "limit-number",
		`{"kind":"set","of":"area","values":{"decimals":13}}`:                                                      "number-range",
		`{"kind":"set","of":"price","values":{"currency":"euro"}}`:                                                 "currency",
		`{"kind":"set","of":"owner","values":{"type":"text"}}`:                                                     "not-offered",
		`{"kind":"set","of":"each","values":{"formula":"each + 1"}}`:                                               "expression",
		`{"kind":"set","of":"dacron","values":{"rate":"much"}}`:                                                    "column-number",
		`{"kind":"set","of":"sail","values":{"uniques":[["name"]]}}`:                                               "set-size",
		`{"kind":"set","of":"gate","values":{"ways":["magic"]}}`:                                                   "not-offered",
		`{"kind":"set","of":"gate","values":{"session.hours":9000}}`:                                               "number-range",
		`{"kind":"set","of":"gate","values":{"terms.version":"1"}}`:                                                "terms-missing",
		`{"kind":"set","of":"gate","values":{"address":"not an address"}}`:                                         "sender-address",
		`{"kind":"set","of":"gate","values":{"mails.code.subject":"Hello","mails.code.body":"no code here"}}`:      "mail-needs",
		`{"kind":"set","of":"gate","values":{"mails.link.subject":"Hello","mails.link.body":"{{link}} {{code}}"}}`: "mail-unreadable",
		`{"kind":"set","of":"must","values":{"action":"add","except":"owner = me"}}`:                               "no-setting",
		`{"kind":"add","what":"table","values":{"name":"Sails"}}`:                                                  "same-name",
		`{"kind":"add","what":"field","into":"gone","values":{"name":"Mast","type":"text"}}`:                       "gone",
		`{"kind":"add","what":"field","into":"sail","values":{"name":"Mast"}}`:                                     "",
		`{"kind":"add","what":"field","into":"sail","values":{"name":"Mast","type":"choice"}}`:                     "must",
		`{"kind":"add","what":"field","into":"sail","values":{"name":"Mast","type":"text","back":"Sails"}}`:        "back-link",
		`{"kind":"add","what":"list","values":{"name":"Colours","choices":" \n "}}`:                                "list-empty",
		`{"kind":"add","what":"rule","into":"r","values":{"table":"sail"}}`:                                        "rule-there",
		`{"kind":"add","what":"block","into":"all","values":{"kind":"magic"}}`:                                     "no-block",
		`{"kind":"add","what":"block","into":"all","values":{"kind":"details"}}`:                                   "needs-record",
		`{"kind":"add","what":"magic","values":{}}`:                                                                "add-what",
		`{"kind":"remove","of":"owner"}`:                                                                           "in-use",
		`{"kind":"remove","of":"all"}`:                                                                             "in-use",
		`{"kind":"merge","of":"dacron","into":"dacron"}`:                                                           "merge-into",
		`{"kind":"magic"}`:                        "change-unknown",
		`{"kind":"set","of":"app","value":{}}`:    "change-formed",
		`[]`:                                      "change-object",
		`{"kind":"set","of":"gone","values":{}}`:  "gone",
		`{"kind":"merge","of":"sail","into":"x"}`: "gone",
	} {
		if code == "" { // a field holds text unless something else is said
			after(t, b, source)
			continue
		}
		refused(t, b, source, code)
	}
}

func TestAProblemSaysWhatToDo(t *testing.T) {
	b := blueprinttest.Loft(t)
	for source, want := range map[string]string{
		`{"kind":"set","of":"r","values":{"people":"sail"}}`:                                       "Choose the field of their email for the role Sailors. If the table has no field for email addresses, add one first.",
		`{"kind":"set","of":"list","values":{"open":"n1"}}`:                                        "“the page Welcome” can’t be what a row opens of the list on My sails. Choose from the list. If there is none, add a page about one record first.",
		`{"kind":"remove","of":"all"}`:                                                             "Nothing was removed: the home page of the role Sailors uses the page My sails. Change that first.",
		`{"kind":"set","of":"r.sail","values":{"see":{"extent":"where","condition":"ownr = me"}}}`: "There is a mistake in the condition by which Sailors can see Sails: There is no ownr in Sails. Did you mean owner?",
	} {
		_, err := change(b, source)
		if assert.Error(t, err) {
			assert.Equal(t, want, err.Error())
		}
	}
}

// TestMergingGivesRecordsAnotherChoice merges twice: what led to the first leads
// on to the second.
func TestMergingGivesRecordsAnotherChoice(t *testing.T) {
	b := after(t, loft(t), `{"kind":"add","what":"choice","into":"cloth","id":"nylon","values":{"label":"Nylon"}}`,
		`{"kind":"merge","of":"dacron","into":"laminate"}`, `{"kind":"merge","of":"laminate","into":"nylon"}`)
	assert.Equal(t, map[string]string{"dacron": "nylon", "laminate": "nylon"}, b.List("cloth").Merged)
	assert.Equal(t, `owner = me and cloth = "Nylon"`, b.Page("all").Block("list").(*blueprint.RecordsBlock).Filter)
}

func TestExpressionsFollowNames(t *testing.T) {
	b := after(t, loft(t), `{"kind":"set","of":"owner","values":{"name":"Belongs to"}}`,
		`{"kind":"set","of":"dacron","values":{"label":"Poly \"X\""}}`, `{"kind":"set","of":"price","values":{"name":"Cost"}}`,
		`{"kind":"set","of":"s_name","values":{"name":"Full name"}}`)
	assert.Equal(t, `belongs_to = me and cloth = "Poly ""X"""`, b.Page("all").Block("list").(*blueprint.RecordsBlock).Filter)
	assert.Equal(t, "belongs_to = me", b.Role("r").Rule("sail").See.Condition)
	assert.Equal(t, "cost / area", b.Table("sail").Field("each").Formula)
	assert.Equal(t, "cost > 10", b.Table("sailor").Field("s_area").Where)
	assert.Equal(t, "Hello {{ me.full_name }}", b.Page("all").Block("text").(*blueprint.TextBlock).Text)
	assert.Equal(t, "full_name", b.Table("sailor").Label)
}

func TestConditionsKeptElsewhereFollow(t *testing.T) {
	before := loft(t)
	now := after(t, before, `{"kind":"set","of":"cl","values":{"name":"Made of"}}`,
		`{"kind":"set","of":"owner","values":{"name":"Belongs to"}}`, `{"kind":"set","of":"sail","values":{"name":"Covers"}}`,
		`{"kind":"set","of":"dacron","values":{"label":"All \"d\""}}`, `{"kind":"set","of":"rate","values":{"name":"Price rate"}}`)
	for source, want := range map[string]string{
		`cloth = "Dacron" and owner.name = "Ines"`: `made_of = "All ""d""" and belongs_to.name = "Ines"`,
		`[Cloth] <> "Laminate"`:                    `[Made of] <> "Laminate"`,
		`cloth.rate > 1`:                           `made_of.price_rate > 1`,
		`COUNT(RECORDS(sails)) > 3`:                `COUNT(RECORDS(covers)) > 3`,
		`area > 3`:                                 `area > 3`,
		`not ( readable`:                           `not ( readable`,
	} {
		assert.Equal(t, want, blueprint.Follow(source, before, now, "sail"))
	}
}

func TestKeysAreFitForTheDatabase(t *testing.T) {
	b := blueprint.New("Yard", ids())
	for i, name := range []string{"Größe (m)", "and", "42", "日本", "id", "Größe m",
		"A very long name that goes on and on and on until it is over"} {
		var err error
		b, err = blueprint.Apply(b, blueprint.AddingTable(fmt.Sprintf("t%d", i), name, fmt.Sprintf("f%d", i)))
		require.NoError(t, err, name)
	}
	var keys []string
	for _, table := range b.Tables {
		keys = append(keys, table.Key)
	}
	assert.Equal(t, []string{"grosse_m", "and_2", "table_42", "table", "id_2", "grosse_m_2", "a_very_long_name_that_goes_on_and_on_and"},
		keys)
}

// TestChangesKeepABlueprintValid draws changes at random, among them values that
// do not fit: each either gives a valid blueprint or a problem in words, and
// survives being written and read.
func TestChangesKeepABlueprintValid(t *testing.T) {
	start := loft(t)
	rapid.Check(t, func(t *rapid.T) {
		b := start
		n := 0
		newID := func() string { n++; return fmt.Sprintf("new%d", n) }
		for range rapid.IntRange(1, 6).Draw(t, "changes") {
			raw, err := blueprint.Encode(drawChange(t, b))
			require.NoError(t, err)
			c, err := blueprint.DecodeChange(raw, newID)
			require.NoError(t, err, string(raw))
			before, err := json.Marshal(b)
			require.NoError(t, err)
			next, err := blueprint.Apply(b, c)
			left, merr := json.Marshal(b)
			require.NoError(t, merr)
			require.JSONEq(t, string(before), string(left), "a change leaves what it is made on as it was")
			if err != nil {
				var p *words.Problem
				require.ErrorAs(t, err, &p, string(raw))
				require.True(t, words.Known(p.Code), p.Code)
				continue
			}
			require.NoError(t, next.Validate())
			written, err := json.Marshal(next)
			require.NoError(t, err)
			read, err := blueprint.Decode(written)
			require.NoError(t, err)
			again, err := json.Marshal(read)
			require.NoError(t, err)
			require.JSONEq(t, string(written), string(again))
			b = next
		}
	})
}

// drawChange draws a change of any thing, with a value that some setting of the
// app has: it may or may not fit where it is put.
func drawChange(t *rapid.T, b *blueprint.Blueprint) blueprint.Change {
	var places []blueprint.Place
	var values []any
	for p := range b.Places {
		places = append(places, p)
		for _, x := range p.Props() {
			values = append(values, x.Get())
		}
	}
	values = append(values, "New", "", "[x]", "Änderung", true, 3, nil)
	p := rapid.SampledFrom(places).Draw(t, "thing")
	names := []string{"nothing"} // a divider has no settings
	for _, x := range p.Props() {
		names = append(names, x.Name)
	}
	setting := rapid.SampledFrom(names).Draw(t, "setting")
	value := values[rapid.IntRange(0, len(values)-1).Draw(t, "value")]
	name := rapid.SampledFrom([]string{"Name", "New", "Owner", "and"}).Draw(t, "name")
	kind := rapid.SampledFrom(blueprint.BlockKinds()).Draw(t, "block").Name
	return rapid.SampledFrom([]blueprint.Change{
		blueprint.Setting(p.ID, setting, value), blueprint.Setting(p.ID, setting, value), blueprint.Setting(p.ID, setting, nil),
		&blueprint.Remove{Of: p.ID}, &blueprint.Remove{Of: p.ID, Mend: true},
		&blueprint.Move{Of: p.ID, To: rapid.IntRange(-3, 30).Draw(t, "to")}, blueprint.Adding("table", "", "", "name", name),
		blueprint.Adding("page", "", "", "name", name, "record", "sail"),
		blueprint.Adding("field", "sail", "", "name", name, "type", rapid.SampledFrom(blueprint.FieldTypes()).Draw(t, "type"), "list",
			"cloth", "target", "sailor"),
		blueprint.Adding("field", "sail", "", "name", name, "type", rapid.SampledFrom(blueprint.FieldTypes()).Draw(t, "type")),
		blueprint.Adding("block", "all", "", "kind", kind, "table", "sail"), blueprint.Adding("block", "one", "", "kind", kind),
		blueprint.Adding("role", "", "", "name", name, "people", "sailor"),
	}).Draw(t, "change")
}
