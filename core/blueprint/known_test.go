package blueprint_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"pinegate/core/blueprint"
)

// TestWhoOpensATableOfPeople names the rules that let somebody add people.
func TestWhoOpensATableOfPeople(t *testing.T) {
	said := func(list []blueprint.Opening) string {
		var out []string
		for _, o := range list {
			for _, p := range o.People {
				out = append(out, o.Role.ID+" adds "+p.ID+" to "+o.Table.ID)
			}
		}
		return strings.Join(out, "; ")
	}
	small := after(t, loft(t), `{"kind":"set","of":"r.sailor","values":{"add":{"extent":"none"}}}`)
	for _, x := range []struct{ name, change, opens string }{
		{"others' records", `{"kind":"set","of":"visitor.sail","values":{"add":{"extent":"all"}}}`, ""},
		{"seeing people", `{"kind":"set","of":"visitor.sailor","values":{"see":{"extent":"all"}}}`, ""},
		{"adding them", `{"kind":"set","of":"visitor.sailor","values":{"add":{"extent":"all"}}}`, "visitor adds r to sailor"},
		{"some of them", `{"kind":"set","of":"visitor.sailor","values":{"add":{"extent":"where","condition":"member"}}}`,
			"visitor adds r to sailor"},
		{"by people who are known", `{"kind":"set","of":"r.sailor","values":{"add":{"extent":"all"}}}`, ""},
	} {
		assert.Equal(t, x.opens, said(blueprint.NewOpenings(small, after(t, small, x.change))), x.name)
	}
	open := after(t, small, `{"kind":"set","of":"visitor.sailor","values":{"add":{"extent":"all"}}}`)
	assert.Empty(t, blueprint.NewOpenings(open, open))
	assert.Empty(t, blueprint.NewOpenings(open, small))
	again := after(t, open, `{"kind":"add","what":"role","id":"q","values":{"name":"Captains","people":"sailor","email":"s_mail","where":"member"}}`)
	assert.Equal(t, "visitor adds q to sailor", said(blueprint.NewOpenings(open, again)), "a new role of people who could be added before")

	known := after(t, small, `{"kind":"set","of":"r.sailor","values":{"add":{"extent":"all"}}}`)
	signing := after(t, known, `{"kind":"set","of":"r","values":{"signUp.mode":"open"}}`)
	assert.Equal(t, "r adds r to sailor", said(blueprint.NewOpenings(known, signing)), "whom everyone can become")

	assert.Equal(t, [][2]string{{"sailor", "s_mail"}}, again.Addresses(), "each once")
	assert.Len(t, again.KnownBy("sailor", "s_mail"), 2)
	assert.Empty(t, again.KnownBy("sailor", "s_name"))
	assert.Empty(t, again.KnownBy("sail", ""))
}
