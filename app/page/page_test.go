package page_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/store"
	"pinegate/store/records"
	"pinegate/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

// TestEveryKindIsShown holds that each kind of block has its row here, and no other.
func TestEveryKindIsShown(t *testing.T) {
	shown := map[string]bool{}
	for kind, blank := range page.Kinds {
		assert.False(t, shown[kind], kind)
		assert.NotNil(t, blank, kind)
		shown[kind] = true
	}
	for _, k := range blueprint.BlockKinds() {
		assert.True(t, shown[k.Name] || k.Forms == blueprint.OnlyInForms, "a %s is not shown", k.Name) // which its form shows
		delete(shown, k.Name)
	}
	assert.Empty(t, shown, "these are no kinds")
}

// blocks opens a page as somebody and gives its blocks by their ids, as JSON, with those
// that are in others.
func blocks(t *testing.T, l *acttest.Loft, seat *records.Seat, path, record string) map[string]map[string]any {
	t.Helper()
	return asked(t, l, seat, path, record, "")
}

// asked is blocks with what is asked of them.
func asked(t *testing.T, l *acttest.Loft, seat *records.Seat, path, record, asks string) map[string]map[string]any {
	t.Helper()
	v, err := page.Open(t.Context(), l.Road(), seat, path, record)
	require.NoError(t, err)
	values, err := url.ParseQuery(asks)
	require.NoError(t, err)
	v.Asks = page.Asks(values)
	list, err := v.Blocks(t.Context())
	require.NoError(t, err)
	raw, err := json.Marshal(list)
	require.NoError(t, err)
	out := map[string]map[string]any{}
	var gather func(raw []byte)
	gather = func(raw []byte) {
		var all []json.RawMessage
		require.NoError(t, json.Unmarshal(raw, &all))
		for _, one := range all {
			var b map[string]any
			require.NoError(t, json.Unmarshal(one, &b))
			out[fmt.Sprint(b["id"])] = b
			if inside, ok := b["blocks"]; ok {
				more, err := json.Marshal(inside)
				require.NoError(t, err)
				gather(more)
			}
		}
	}
	gather(raw)
	return out
}

func names(rows any) []string {
	out := []string{}
	for _, r := range rows.([]any) {
		out = append(out, fmt.Sprint(r.(map[string]any)["name"]))
	}
	return out
}

func TestAPageShowsWhatIsTheirs(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"list","values":{"columns":["name","area","price"]}}`,
		`{"kind":"add","what":"block","into":"all","id":"line","values":{"kind":"divider"}}`)
	assert.Equal(t, "Hello", blocks(t, l, l.Member("Ines"), "my-sails", "")["text"]["text"], "no rule shows her herself")
	_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Permit("r", "sailor", "see", blueprinttest.Where("this = me")))
	require.NoError(t, err)
	got := blocks(t, l, l.Member("Ines"), "my-sails", "")
	assert.ElementsMatch(t, []string{"Genoa", "Jib"}, names(got["list"]["rows"]))
	columns := []string{}
	for _, c := range got["list"]["columns"].([]any) {
		columns = append(columns, c.(map[string]any)["id"].(string))
	}
	assert.Equal(t, []string{"name", "area"}, columns, "Price is hidden from them")
	assert.NotContains(t, fmt.Sprint(got["list"]["rows"]), "400")
	assert.Equal(t, "sail", got["list"]["open"])
	assert.Equal(t, "Hello Ines", got["text"]["text"])
	assert.Nil(t, got["text"]["source"], "placeholders are for those who build")
	assert.Equal(t, map[string]any{"path": "welcome"}, got["button"]["to"])
	assert.Equal(t, "divider", got["line"]["kind"])
	assert.Equal(t, "Hello Tomas", blocks(t, l, l.Member("Tomas"), "my-sails", "")["text"]["text"])
}

func TestAListShowsSoManyAtATime(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"list","values":{"size":2,"filter":null,"sort":"name","falling":null}}`)
	founder := l.Founder()
	v, err := page.Open(t.Context(), l.Road(), founder, "my-sails", "")
	require.NoError(t, err)
	_, x, err := page.At[*blueprint.RecordsBlock](v, "list")
	require.NoError(t, err)
	first, err := v.More(t.Context(), x, "", "")
	require.NoError(t, err)
	assert.Len(t, first.Rows, 2)
	next, err := v.More(t.Context(), x, first.Next, "")
	require.NoError(t, err)
	assert.Len(t, next.Rows, 1)
	assert.Empty(t, next.Next)
}

func TestWhoCanOpenAPage(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"all","values":{"audience":"roles","roles":["r"]}}`)
	nobody := "01a00000-0000-7000-8000-000000000000"
	for _, x := range []struct {
		who, path, record string
		want              error
	}{
		{"Ines", "my-sails", "", nil}, {"Ines", "welcome", "", nil}, {"visitor", "welcome", "", nil},
		{"visitor", "my-sails", "", page.ErrSignIn},
		{"visitor", "sail", l.Sails["Jib"], page.ErrSignIn}, {"Ines", "sail", l.Sails["Jib"], nil},
		{"Ines", "sail", l.Sails["Spinnaker"], store.ErrNotFound}, {"Ines", "sail", nobody, store.ErrNotFound},
		{"Ines", "sail", "'; DROP", store.ErrNotFound}, {"Ines", "sail", "", store.ErrNotFound}, {"Ines", "gone", "", store.ErrNotFound},
	} {
		_, err := page.Open(t.Context(), l.Road(), l.Member(x.who), x.path, x.record)
		assert.True(t, errors.Is(err, x.want), "%s opens %s %s: %v", x.who, x.path, x.record, err)
	}
	_, err := page.Open(t.Context(), l.Road(), l.Founder(), "sail", l.Sails["Spinnaker"])
	require.NoError(t, err)
	other := l.Member("Ines")
	other.Viewer.Memberships[0].Role = "visitor2"
	_, err = page.Open(t.Context(), l.Road(), other, "my-sails", "")
	require.ErrorIs(t, err, page.ErrNotYours, "somebody signed in is told that it is not theirs")
}

// TestHome takes the first home page that can be opened, else the first page of the
// menu.
func TestHome(t *testing.T) {
	l := acttest.NewLoft(t)
	ines := l.Member("Ines")
	home := func(seat *records.Seat) string {
		p, err := page.Home(t.Context(), l.Road(), seat)
		require.NoError(t, err)
		if p == nil {
			return ""
		}
		return p.ID
	}
	assert.Equal(t, "n1", home(ines), "Welcome is the first")
	ines.Homes = []string{"one", "gone", "all"}
	assert.Equal(t, "all", home(ines), "a page about a record is no home")
	visitor := l.Member("visitor")
	visitor.Homes = []string{"all"}
	assert.Equal(t, "n1", home(visitor), "one that is not open is passed over")
}

// TestAPageIsShownWhen leaves pages out of the menu, and from being home, whose condition does
// not hold, and does not show them.
func TestAPageIsShownWhen(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"all","values":{"when":"me.name = \"Ines\""}}`,
		`{"kind":"set","of":"one","values":{"when":"name = \"Jib\""}}`, `{"kind":"set","of":"n1","values":{"icon":"boat","group":"Yard"}}`,
		`{"kind":"set","of":"r.sailor","values":{"see":{"extent":"where","condition":"this = me"}}}`)
	for name, want := range map[string]int{"Ines": 2, "Tomas": 1, "visitor": 1} {
		seat := l.Member(name)
		seat.Homes = []string{"all"}
		menu, err := page.Menu(t.Context(), l.Road(), seat)
		require.NoError(t, err)
		assert.Len(t, menu, want, name)
		home, err := page.Home(t.Context(), l.Road(), seat)
		require.NoError(t, err)
		assert.Equal(t, map[bool]string{true: "all", false: "n1"}[name == "Ines"], home.ID)
		_, err = page.Open(t.Context(), l.Road(), seat, "my-sails", "")
		switch name {
		case "Ines":
			assert.NoError(t, err)
		case "Tomas":
			assert.ErrorIs(t, err, page.ErrNotNow)
		default:
			assert.ErrorIs(t, err, page.ErrSignIn, "who may not open it does not learn more")
		}
	}
	ines := l.Member("Ines")
	_, err := page.Open(t.Context(), l.Road(), ines, "sail", l.Sails["Jib"])
	assert.NoError(t, err)
	_, err = page.Open(t.Context(), l.Road(), l.Member("Ines"), "sail", l.Sails["Genoa"])
	assert.ErrorIs(t, err, page.ErrNotNow)
}

// TestHomeIsAsTheFieldOfAPersonSays begins at the page that stands in their record.
func TestHomeIsAsTheFieldOfAPersonSays(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"add","what":"list","id":"hl","values":{"name":"Pages","choices":"my sails\nNowhere","ids":["c1","c2"]}}`,
		`{"kind":"add","what":"field","into":"sailor","id":"first","values":{"name":"First page","type":"choice","list":"hl"}}`,
		`{"kind":"set","of":"r","values":{"homes":null,"homeField":"first"}}`)
	for choice, want := range map[string][]string{"c1": {"all"}, "c2": nil} {
		mail := choice + "@loft.example"
		l.Add("sailor", map[string]any{"s_name": choice, "s_mail": mail, "s_ok": true, "first": choice})
		id, err := l.Road().PeopleWith(t.Context(), l.Founder(), mail)
		require.NoError(t, err)
		assert.Equal(t, want, id.Homes)
	}
}

func TestAFormAsksForWhatTheRulesLet(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"r.sail","values":{"add":{"extent":"where","condition":"owner = me"},"fixed":["cl"]}}`)
	ines := l.Member("Ines")
	v, err := page.Open(t.Context(), l.Road(), ines, "my-sails", "")
	require.NoError(t, err)
	use, err := v.Use("form")
	require.NoError(t, err)
	for field, want := range map[string]bool{"name": true, "cl": false, "owner": false, "price": false} {
		asked, err := use.Asked(field)
		require.NoError(t, err)
		assert.Equal(t, want, asked != nil, field)
	}
	for _, x := range []struct {
		answers map[string]any
		code    string
	}{{map[string]any{"name": "Storm jib"}, ""}, {map[string]any{}, "read-missing"},
		{map[string]any{"name": "x", "owner": l.People["Tomas"]}, "not-asked"},
		{map[string]any{"name": "x", "price": "1"}, "not-asked"}, {map[string]any{"name": "x", "cl": "dacron"}, "not-asked"}} {
		_, err := take(t, use, x.answers)
		var fields records.FieldErrors
		if x.code == "" {
			require.NoError(t, err)
			continue
		}
		require.ErrorAs(t, err, &fields, "%v", x.answers)
		for _, p := range fields {
			assert.Equal(t, x.code, p.Code, "%v", x.answers)
		}
	}
	taken, err := use.Take(t.Context(), page.Sent{Values: acttest.Values(t, map[string]any{"name": "Storm jib"})})
	require.NoError(t, err)
	presets, err := use.Presets(taken)
	require.NoError(t, err)
	w, err := use.Write(t.Context(), l.Road(), taken, presets)
	require.NoError(t, err)
	assert.Equal(t, 3, l.Count(ines, "sail"), "it is hers")
	done, err := use.After(t.Context(), l.Road(), w.Record)
	require.NoError(t, err)
	assert.Equal(t, page.Done{Thanks: "Thank you. It is saved."}, done)
}

// TestAfterAForm goes to the page that it names: about the record that was written,
// if the page is about one.
func TestAfterAForm(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"form","values":{"then":"one","thanks":"{{name}} is sewn."}}`)
	v, err := page.Open(t.Context(), l.Road(), l.Member("Ines"), "my-sails", "")
	require.NoError(t, err)
	use, err := v.Use("form")
	require.NoError(t, err)
	for _, x := range []struct{ sail, thanks string }{{"Jib", "Jib is sewn."}, {"Spinnaker", "Is sewn."}} {
		done, err := use.After(t.Context(), l.Road(), l.Sails[x.sail])
		require.NoError(t, err)
		want := page.Done{Thanks: x.thanks, Go: &page.Target{Path: "sail", Record: l.Sails[x.sail]}}
		assert.Equal(t, want, done, "what she does not see is left out")
	}
	_, err = v.Use("list")
	require.ErrorIs(t, err, store.ErrNotFound, "a list is no form")
	_, err = v.Use("change")
	require.ErrorIs(t, err, store.ErrNotFound, "a form of another page")
}

// TestLinksAreOfferedAsTheRulesSay offers, for a link in a form, the records that
// somebody can see.
func TestLinksAreOfferedAsTheRulesSay(t *testing.T) {
	l := acttest.NewLoft(t)
	for who, want := range map[string]int{"Ines": 2, "Tomas": 1, "visitor": 0} {
		seat := l.Member(who)
		options, more, err := page.Options(t.Context(), l.Road(), seat, seat.Blueprint.Table("sail"), "")
		require.NoError(t, err)
		assert.False(t, more)
		assert.Len(t, options, want, who)
	}
	seat := l.Member("Ines")
	options, _, err := page.Options(t.Context(), l.Road(), seat, seat.Blueprint.Table("sail"), "ji")
	require.NoError(t, err)
	require.Len(t, options, 1)
	assert.Equal(t, "Jib", options[0].Label)
}

// TestAFormThatChangesLinksKeepsOne sends parts of a record with links of which the
// form has to have one: what is not sent stays, and the last link does, too.
func TestAFormThatChangesLinksKeepsOne(t *testing.T) {
	l := acttest.NewLoft(t,
		`{"kind":"add","what":"field","into":"sail","id":"crew","values":{"name":"Crew","type":"links","target":"sailor"}}`,
		`{"kind":"set","of":"r.sail","values":{"change":{"extent":"all"}}}`,
		`{"kind":"set","of":"r.sailor","values":{"see":{"extent":"all"}}}`,
		`{"kind":"set","of":"change","values":{"fields":[{"field":"crew","required":true},{"field":"name"}]}}`)
	send := func(answers map[string]any) error {
		seat := l.Member("Ines")
		v, err := page.Open(t.Context(), l.Road(), seat, "sail", l.Sails["Genoa"])
		require.NoError(t, err)
		use, err := v.Use("change")
		require.NoError(t, err)
		taken, err := use.Take(t.Context(), page.Sent{Values: acttest.Values(t, answers)})
		if err != nil {
			return err
		}
		raw, err := l.Road().Get(t.Context(), seat, use.Table, l.Sails["Genoa"])
		require.NoError(t, err)
		var now struct{ Revision int }
		require.NoError(t, json.Unmarshal(raw, &now))
		taken.Revision = now.Revision
		return l.Acts.EditMany(t.Context(), l.App, seat, func(u *act.Unit) ([]*records.Write, string, error) {
			w, err := use.Write(t.Context(), u.Road, taken, page.Presets{})
			return w.Writes, "test", err
		})
	}
	ines, ruth := l.People["Ines"], l.People["Ruth"]
	missing := func(err error) {
		t.Helper()
		var wrong records.FieldErrors
		require.ErrorAs(t, err, &wrong)
		assert.Equal(t, "read-missing", wrong["crew"].Code)
	}
	require.NoError(t, send(map[string]any{"crew": map[string]any{"added": []string{ines, ruth}}}))
	require.NoError(t, send(map[string]any{"name": "Genoa 150 %"}))
	require.NoError(t, send(map[string]any{"crew": map[string]any{"removed": []string{ines}}}))
	missing(send(map[string]any{"crew": map[string]any{"removed": []string{ruth}}}))
	missing(send(map[string]any{"crew": nil}))
	raw, err := l.Road().Get(t.Context(), l.Founder(), l.Founder().Blueprint.Table("sail"), l.Sails["Genoa"])
	require.NoError(t, err)
	var now struct {
		Name string
		Crew []page.RecordOption
	}
	require.NoError(t, json.Unmarshal(raw, &now))
	assert.Equal(t, "Genoa 150 %", now.Name)
	assert.Equal(t, []page.RecordOption{{ID: ruth, Label: "Ruth"}}, now.Crew)
}
