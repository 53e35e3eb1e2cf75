package sentence_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/sentence"
	"pinegate/internal/golden"
)

// tell writes lines as they are read, with what can be set between brackets.
func tell(lines []sentence.Line) string {
	var out strings.Builder
	var walk func(lines []sentence.Line, indent string)
	walk = func(lines []sentence.Line, indent string) {
		for _, l := range lines {
			out.WriteString(indent)
			for _, p := range l.Parts {
				if p.Set != "" {
					fmt.Fprintf(&out, "[%s]", p.Text)
				} else {
					out.WriteString(p.Text)
				}
			}
			if l.More {
				out.WriteString(" and…")
			}
			out.WriteString("\n")
			walk(l.Lines, indent+"  ")
		}
	}
	walk(lines, "")
	return out.String()
}

// full is the loft with much said of everything.
func full(t testing.TB) *blueprint.Blueprint {
	return blueprinttest.After(t, blueprinttest.Loft(t),
		`{"kind":"set","of":"name","values":{"required":true,"unique":true,"default":"\"New\"","help":"As it is sewn in.","maxLength":40}}`,
		`{"kind":"set","of":"area","values":{"decimals":1,"least":"0","most":"500"}}`,
		`{"kind":"set","of":"price","values":{"currency":"EUR"}}`,
		`{"kind":"add","what":"field","into":"sail","id":"photos","values":{"name":"Photos","type":"picture","several":true}}`,
		`{"kind":"add","what":"field","into":"sail","id":"no","values":{"name":"Number","type":"auto number","prefix":"S-","width":4}}`,
		`{"kind":"add","what":"field","into":"sail","id":"made","values":{"name":"Made","type":"created at"}}`,
		`{"kind":"set","of":"sail","values":{"uniques":[["name","owner"]],"word":"sail"}}`,
		`{"kind":"set","of":"r","values":{"second":"app","signUp.mode":"invited",
			"signUp.presets":[{"field":"s_ok","value":"true"}],"refusal":"Call us."}}`,
		`{"kind":"set","of":"r:sign-up","values":{"fields":[{"field":"s_name","required":true}]}}`,
		`{"kind":"set","of":"r.sail","values":{"add":{"extent":"where","condition":"owner = me"},"change":{"extent":"where","condition":"owner = me"},
			"delete":{"extent":"none"},"fixed":["area"]}}`,
		`{"kind":"set","of":"list","values":{"open":"one","empty":"No sails yet.","size":10}}`,
		`{"kind":"set","of":"form","values":{"submit":"Send it","thanks":"Thank you.","then":"all"}}`,
		`{"kind":"add","what":"block","into":"one","id":"det","values":{"kind":"details"}}`,
		`{"kind":"add","what":"block","into":"all","id":"line","values":{"kind":"divider"}}`,
		`{"kind":"set","of":"all","values":{"offMenu":true,"audience":"roles","roles":["r","visitor"]}}`,
		`{"kind":"set","of":"app","values":{"theme":"Clay","zone":"Europe/Lisbon"}}`,
		`{"kind":"set","of":"gate","values":{"ways":["code","password","link"],"session.hours":48,"sender":"The loft","address":"loft@sails.example",
			"words.sign-in title":"Come aboard","mails.code.subject":"{{ code }} for {{ app }}"}}`)
}

// TestTheScriptReadsWell holds the sentences of the small app, as it is first and
// with much said of it. They are what founders read: look at the difference.
func TestTheScriptReadsWell(t *testing.T) {
	for name, b := range map[string]*blueprint.Blueprint{"loft": blueprinttest.Loft(t), "full": full(t), "busy": blueprinttest.Busy(t)} {
		var out strings.Builder
		for _, stop := range sentence.Stops() {
			fmt.Fprintf(&out, "# %s\n%s\n", stop, tell(sentence.Script(b, stop, func(string) bool { return true })))
		}
		golden.Check(t, name, out.String())
	}
}

// TestSettingsReadWell holds, for everything in the small app, what else can be
// said of it, and the controls of what is said.
func TestSettingsReadWell(t *testing.T) {
	b := full(t)
	var out strings.Builder
	for p := range b.Places {
		fmt.Fprintf(&out, "# %s\n", p.Called())
		for _, x := range p.Props() {
			s, ok := sentence.Of(p, x.Name)
			if !ok {
				continue
			}
			fmt.Fprintf(&out, "%s\n", s.Title)
			for _, slot := range s.Slots {
				value, err := json.Marshal(slot.Value)
				require.NoError(t, err)
				fmt.Fprintf(&out, "  %s (%s)%s: %s\n", slot.Label, slot.Control, afterDash(slot.Help), value)
			}
			if len(s.Unsays) > 0 {
				out.WriteString("  can be left unsaid\n")
			}
		}
		for _, c := range sentence.Clauses(p) {
			fmt.Fprintf(&out, "and… %s: %s%s\n", c.Group, c.Label, afterDash(c.Help))
		}
	}
	golden.Check(t, "settings", out.String())
}

func afterDash(text string) string {
	if text == "" {
		return ""
	}
	return " – " + text
}

// TestOnlyWhatIsOpenIsTold holds that a closed group has a heading and nothing
// else, and that ids are told apart.
func TestOnlyWhatIsOpenIsTold(t *testing.T) {
	b := full(t)
	for _, stop := range sentence.Stops() {
		for _, l := range sentence.Script(b, stop, func(string) bool { return false }) {
			if l.Kind == sentence.Heading {
				assert.True(t, l.Folded, l.Text())
				assert.Empty(t, l.Lines, l.Text())
			}
		}
		seen := map[string]bool{}
		var walk func(lines []sentence.Line)
		walk = func(lines []sentence.Line) {
			for _, l := range lines {
				assert.False(t, seen[l.ID], "two lines are called %s", l.ID)
				seen[l.ID] = true
				walk(l.Lines)
			}
		}
		walk(sentence.Script(b, stop, func(string) bool { return true }))
	}
}

// TestEveryUnderlinedWordIsASetting opens every setting that a sentence offers.
func TestEveryUnderlinedWordIsASetting(t *testing.T) {
	b := full(t)
	n := 0
	var walk func(lines []sentence.Line)
	walk = func(lines []sentence.Line) {
		for _, l := range lines {
			for _, part := range l.Parts {
				if part.Set == "" {
					continue
				}
				p, ok := b.Place(l.Of)
				if assert.True(t, ok, "%s tells of %s", l.Text(), l.Of) {
					s, ok := sentence.Of(p, part.Set)
					assert.True(t, ok && len(s.Slots) > 0, "%s offers %s", l.Text(), part.Set)
					n++
				}
			}
			walk(l.Lines)
		}
	}
	walk(sentence.Everything(b))
	assert.Greater(t, n, 80)
}

// TestWhatIsAddedAsks holds what is asked for each thing that can be added.
func TestWhatIsAddedAsks(t *testing.T) {
	b := blueprinttest.Loft(t)
	var out strings.Builder
	for _, add := range []struct {
		what, into string
		values     blueprint.Values
	}{
		{what: "table"}, {what: "list"}, {what: "role"}, {what: "page"},
		{what: "field", into: "sail", values: blueprint.Vals("type", blueprint.Text)},
		{what: "field", into: "sail", values: blueprint.Vals("type", blueprint.Link, "target", "sailor")},
		{what: "field", into: "sailor", values: blueprint.Vals("type", blueprint.RollUp)},
		{what: "choice", into: "cloth"}, {what: "column", into: "cloth"},
		{what: "rule", into: "visitor", values: blueprint.Vals("table", "sail")}, {what: "expectation", into: "r"},
		{what: "block", into: "all", values: blueprint.Vals("kind", "records")},
		{what: "block", into: "one", values: blueprint.Vals("kind", "form")},
		{what: "block", into: "all", values: blueprint.Vals("kind", "button")},
	} {
		if add.values == nil {
			add.values = blueprint.Values{}
		}
		c := &blueprint.AddThing{What: add.what, Into: add.into, ID: "fresh", Values: add.values}
		p, err := blueprint.Tried(b, c)
		require.NoError(t, err, add.what)
		s := sentence.ForNew(p, c)
		fmt.Fprintf(&out, "%s\n", s.Title)
		for _, slot := range s.Slots {
			labels := []string{}
			for _, o := range slot.Options {
				labels = append(labels, o.Label)
			}
			fmt.Fprintf(&out, "  %s (%s) %s\n", slot.Label, slot.Control, strings.Join(labels, ", "))
		}
	}
	golden.Check(t, "adding", out.String())
}
