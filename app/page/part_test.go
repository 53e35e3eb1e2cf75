package page_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act/acttest"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/store/records"
)

// TestAPartIsShownInEachUse shows a part in rows, on a page about a record, and a second time
// there with other inputs, each with blocks of its own.
func TestAPartIsShownInEachUse(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"list","values":{"filter":null,"sort":"name","falling":null}}`,
		`{"kind":"add","what":"part","id":"pt","values":{"name":"Buttons","record":"sail"}}`,
		`{"kind":"add","what":"input","into":"pt","id":"word","values":{"name":"Word","type":"text"}}`,
		`{"kind":"add","what":"input","into":"pt","id":"big","values":{"name":"Big","type":"yes/no"}}`,
		`{"kind":"add","what":"value","into":"pt","id":"here","values":{"name":"Here","start":"no"}}`,
		`{"kind":"add","what":"reaction","into":"pt","id":"over","values":{"value":"here","to":"yes"}}`,
		`{"kind":"add","what":"block","into":"pt","id":"go","values":{"kind":"button","text":"{{ vars.word }} {{ name }}","page":"one",`+
			`"when":"not vars.big","while":"here","is":"yes"}}`,
		`{"kind":"add","what":"block","into":"list","id":"use","values":{"kind":"part","part":"pt","given":[{"field":"word","value":"\"See \" & name"}]}}`,
		`{"kind":"add","what":"block","into":"one","id":"first","values":{"kind":"part","part":"pt","given":[{"field":"word","value":"\"Open\""}]}}`,
		`{"kind":"add","what":"block","into":"one","id":"second","values":{"kind":"part","part":"pt","given":[{"field":"big","value":"name = \"Jib\""}]}}`)
	rows := blocks(t, l, l.Founder(), "my-sails", "")["list"]
	in := rows["inside"].(map[string]any)
	assert.Len(t, in, 3)
	part := in[l.Sails["Jib"]].([]any)[0].(map[string]any)
	assert.Equal(t, map[string]any{"here": "no"}, part["values"])
	assert.Equal(t, []any{map[string]any{"on": "over", "value": "here", "to": "yes"}}, part["here"])
	button := part["blocks"].([]any)[0].(map[string]any)
	assert.Equal(t, "use~go", button["id"])
	assert.Equal(t, "See Jib Jib", button["text"])
	assert.Equal(t, map[string]any{"value": "here", "is": "yes"}, button["while"])

	got := blocks(t, l, l.Founder(), "sail", l.Sails["Jib"])
	assert.Equal(t, "Open Jib", got["first~go"]["text"])
	assert.Nil(t, got["second~go"], "what it is given decides by the record in hand")
	got = blocks(t, l, l.Founder(), "sail", l.Sails["Genoa"])
	assert.Equal(t, "Genoa", got["second~go"]["text"], "what is not given is empty")
}

// TestListsAndFormsInParts reads and writes through blocks that stand in a part.
func TestListsAndFormsInParts(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"add","what":"part","id":"pt","values":{"name":"Others of the cloth","record":"sail"}}`,
		`{"kind":"add","what":"input","into":"pt","id":"least","values":{"name":"Least","type":"text"}}`,
		`{"kind":"add","what":"block","into":"pt","id":"others","values":{"kind":"records","table":"sail",`+
			`"filter":"name <> vars.least and owner = page.record.owner","columns":["name"],"filters":["cl"]}}`,
		`{"kind":"add","what":"block","into":"pt","id":"edit","values":{"kind":"form","table":"sail","changes":true,"fields":[{"field":"name"}]}}`,
		`{"kind":"add","what":"block","into":"one","id":"use","values":{"kind":"part","part":"pt","given":[{"field":"least","value":"name"}]}}`)
	seat := l.Founder()
	got := asked(t, l, seat, "sail", l.Sails["Jib"], "use~others.find=geno")
	assert.Equal(t, []string{"Genoa"}, names(got["use~others"]["rows"]), "those of the same owner, but for itself")
	assert.Equal(t, "geno", got["use~others"]["search"])
	v, err := page.Open(t.Context(), l.Road(), seat, "sail", l.Sails["Jib"])
	require.NoError(t, err)
	in, x, err := page.At[*blueprint.RecordsBlock](v, "use~others")
	require.NoError(t, err)
	more, err := in.More(t.Context(), x, "", "")
	require.NoError(t, err)
	assert.Equal(t, "use~others", more.ID)
	assert.Len(t, more.Rows, 1)
	u, err := v.Use("use~edit")
	require.NoError(t, err)
	_, err = take(t, u, map[string]any{"name": "Jib II"})
	require.NoError(t, err)
	for _, id := range []string{"others", "use~gone", "gone~others", "use~others~others", "use~", "~"} {
		_, _, err := page.At[*blueprint.RecordsBlock](v, id)
		assert.Error(t, err, id)
	}
}

// TestKeptValuesNarrowOnceTheyAreThere shows the whole list until what it names is kept.
func TestKeptValuesNarrowOnceTheyAreThere(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"list","values":{"filter":null,"sort":"name","falling":null,"totals":["area"]}}`,
		`{"kind":"add","what":"kept","id":"k","values":{"name":"Sail","type":"text"}}`,
		`{"kind":"add","what":"kept","id":"c","values":{"name":"Cloth","type":"choice","list":"cloth"}}`,
		`{"kind":"add","what":"block","into":"all","id":"ask","values":{"kind":"keep","values":["k","c"],"text":"Show","page":"n1"}}`,
		`{"kind":"add","what":"block","into":"all","id":"said","values":{"kind":"text","text":"You chose {{ kept.sail }}","when":"kept.sail <> empty"}}`,
		`{"kind":"set","of":"list","values":{"kept":"name = kept.sail and (cloth = kept.cloth or name <> empty)"}}`)
	read := func(kept map[string]string) map[string]map[string]any {
		seat := l.Founder()
		seat.Kept = page.KeptNow(seat.Blueprint, kept)
		return blocks(t, l, seat, "my-sails", "")
	}
	got := read(nil)
	assert.Len(t, names(got["list"]["rows"]), 3)
	assert.Nil(t, got["list"]["kept"])
	assert.Nil(t, got["said"])
	got = read(map[string]string{"k": "Jib"})
	assert.Len(t, names(got["list"]["rows"]), 3, "all that the condition names has to be there")
	assert.Equal(t, "You chose Jib", got["said"]["text"])
	for _, name := range []string{"Jib", "Genoa", "Jib"} { // one statement serves both
		got = read(map[string]string{"k": name, "c": "dacron"})
		assert.Equal(t, []string{name}, names(got["list"]["rows"]))
	}
	assert.Len(t, got["list"]["kept"], 2)
	asks := got["ask"]["kept"].([]any)
	assert.Equal(t, "Jib", asks[0].(map[string]any)["value"])
	assert.Equal(t, map[string]any{"path": "welcome"}, got["ask"]["to"])
	got = read(map[string]string{"k": "Jib", "c": "gone", "x": "y"})
	assert.Len(t, names(got["list"]["rows"]), 3, "what cannot be is not kept")
}

func TestWhatIsKeptIsRead(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"add","what":"kept","id":"n","values":{"name":"Number","type":"number"}}`,
		`{"kind":"add","what":"kept","id":"d","values":{"name":"Day","type":"date"}}`,
		`{"kind":"add","what":"kept","id":"y","values":{"name":"Yes","type":"yes/no"}}`)
	b := l.Blueprint()
	got, err := page.Keeps(b, records.Values{"n": []byte(`"7.50"`), "d": []byte(`"2026-05-01"`), "y": []byte(`false`)})
	require.NoError(t, err)
	assert.Equal(t, got, page.KeptNow(b, got), "what is kept can be read again")
	assert.Equal(t, "false", got["y"])
	cleared, err := page.Keeps(b, records.Values{"n": []byte(`null`)})
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"n": ""}, cleared)
	for id, wrong := range map[string]string{"n": `"x"`, "d": `"2026-13-01"`, "y": `[]`, "gone": `1`} {
		_, err := page.Keeps(b, records.Values{id: []byte(wrong)})
		assert.Error(t, err, id)
	}
	assert.Empty(t, page.KeptNow(b, map[string]string{"n": "1; DROP", "d": "x", "y": "maybe"}))
}

// TestStepsPicturesAndFrames shows the blocks that only show something.
func TestStepsPicturesAndFrames(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"add","what":"block","into":"one","id":"s","values":{"kind":"steps","field":"cl"}}`,
		`{"kind":"add","what":"block","into":"list","id":"rs","values":{"kind":"steps","field":"cl"}}`,
		`{"kind":"add","what":"field","into":"sail","id":"film","values":{"name":"Film","type":"file"}}`,
		`{"kind":"add","what":"field","into":"sail","id":"photo","values":{"name":"Photo","type":"picture"}}`,
		`{"kind":"add","what":"block","into":"one","id":"v","values":{"kind":"video","field":"film"}}`,
		`{"kind":"add","what":"block","into":"one","id":"p","values":{"kind":"picture","field":"photo","text":"The sail"}}`,
		`{"kind":"add","what":"block","into":"one","id":"e","values":{"kind":"embed","address":"https://map.example/","title":"Map"}}`)
	got := blocks(t, l, l.Founder(), "sail", l.Sails["Jib"])
	steps := got["s"]["steps"].([]any)
	assert.Equal(t, map[string]any{"label": "Dacron", "present": true}, steps[0])
	assert.Equal(t, map[string]any{"label": "Laminate"}, steps[1])
	without, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Setting("s", "without", []string{"laminate"}))
	require.NoError(t, err)
	assert.NotNil(t, without)
	assert.Len(t, blocks(t, l, l.Founder(), "sail", l.Sails["Jib"])["s"]["steps"], 1)
	assert.Empty(t, got["v"]["files"])
	assert.Nil(t, got["p"]["file"])
	assert.Equal(t, "https://map.example/", got["e"]["address"])
	list := blocks(t, l, l.Member("Ines"), "my-sails", "")["list"]
	for _, in := range list["inside"].(map[string]any) {
		assert.Len(t, in.([]any)[0].(map[string]any)["steps"], 2)
	}
	_, err = l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Permit("r", "sail", "hidden", []string{"cl", "price"}))
	require.NoError(t, err)
	for _, s := range blocks(t, l, l.Member("Ines"), "sail", l.Sails["Jib"])["s"]["steps"].([]any) {
		assert.Nil(t, s.(map[string]any)["present"], "what is hidden is not marked")
	}
}
