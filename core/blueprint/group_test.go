package blueprint_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"pinegate/core/blueprint"
)

// order tells the blocks of a page, with those that others hold in brackets, but for questions.
func order(blocks blueprint.Blocks) string {
	out := ""
	for _, x := range blocks {
		out += x.Self().ID + " "
		if h, ok := x.(blueprint.Holder); ok && x.Self().Kind != "form" && (x.Self().Kind == "group" || len(*h.Inside()) > 0) {
			out += "[" + order(*h.Inside()) + "] "
		}
	}
	return out
}

func TestGroupsHoldBlocks(t *testing.T) {
	b := after(t, loft(t), `{"kind":"add","what":"block","into":"all","id":"g","values":{"kind":"group","look":"card"},"at":1}`,
		`{"kind":"add","what":"block","into":"g","id":"inner","values":{"kind":"group"}}`,
		`{"kind":"move","of":"list","into":"inner","to":5}`, `{"kind":"move","of":"text","into":"g","to":0}`)
	assert.Equal(t, "all_1 g [text inner [list ] ] button form ", order(b.Page("all").Blocks))
	assert.NotNil(t, b.Page("all").Block("list"))
	p, ok := b.Place("list")
	assert.True(t, ok)
	assert.Equal(t, "inner", p.In)
	refused(t, b, `{"kind":"move","of":"g","into":"inner","to":0}`, "gone")
	refused(t, b, `{"kind":"move","of":"g","into":"g","to":0}`, "gone")
	refused(t, b, `{"kind":"move","of":"form","into":"list","to":0}`, "block-not-here")
	refused(t, b, `{"kind":"move","of":"s_ok","into":"all","to":0}`, "not-movable")
	refused(t, b, `{"kind":"add","what":"block","into":"text","values":{"kind":"text"}}`, "gone")
	refused(t, b, `{"kind":"add","what":"block","into":"g","id":"d","values":{"kind":"details"}}`, "needs-record")

	out := after(t, b, `{"kind":"move","of":"list","into":"all","to":0}`, `{"kind":"remove","of":"g"}`)
	assert.Equal(t, "list all_1 button form ", order(out.Page("all").Blocks), "what a group holds goes with it")
	mended := after(t, b, `{"kind":"remove","of":"sail","mend":true}`)
	assert.Equal(t, "all_1 g [text inner [] ] button ", order(mended.Page("all").Blocks), "also from within")
	decoded, err := blueprint.Decode([]byte(asJSON(t, b)))
	assert.NoError(t, err)
	assert.JSONEq(t, asJSON(t, b), asJSON(t, decoded))
}

// TestRowsHoldBlocks puts blocks into the rows of a list, where the record of the row is
// in hand.
func TestRowsHoldBlocks(t *testing.T) {
	b := after(t, loft(t), `{"kind":"add","what":"block","into":"list","id":"words","values":{"kind":"text","text":"{{ name }} of {{ me.name }}"}}`,
		`{"kind":"add","what":"block","into":"list","id":"go","values":{"kind":"button","text":"Open","page":"one","when":"area > 5"}}`,
		`{"kind":"set","of":"list","values":{"unfold":"one"}}`)
	assert.Equal(t, "all_1 list [words go ] text button form ", order(b.Page("all").Blocks))
	refused(t, b, `{"kind":"move","of":"words","into":"all","to":0}`, "expression")
	refused(t, b, `{"kind":"add","what":"block","into":"list","values":{"kind":"records","table":"sail"}}`, "block-not-here")
	refused(t, b, `{"kind":"add","what":"block","into":"list","values":{"kind":"text","text":"{{ page.record.name }}"}}`, "expression")
	assert.Contains(t, asJSON(t, after(t, b, `{"kind":"set","of":"area","values":{"name":"Square metres"}}`)), `square_metres \u003e 5`,
		"what stands in rows follows names")
	mended := after(t, b, `{"kind":"remove","of":"one","mend":true}`)
	assert.Equal(t, "all_1 list [words ] text button form ", order(mended.Page("all").Blocks))
	other := after(t, b, `{"kind":"set","of":"list","values":{"table":"sailor"}}`)
	assert.Equal(t, "all_1 list text button form ", order(other.Page("all").Blocks))
}

func TestTabsAreGroupsWithTitles(t *testing.T) {
	b := after(t, loft(t), `{"kind":"add","what":"block","into":"all","id":"tabs","values":{"kind":"group","look":"tabs"}}`,
		`{"kind":"add","what":"block","into":"tabs","id":"t1","values":{"kind":"group"}}`)
	assert.Equal(t, "More", b.Page("all").Block("t1").(*blueprint.GroupBlock).Title)
	refused(t, b, `{"kind":"set","of":"t1","values":{"title":""}}`, "group-title")
	refused(t, b, `{"kind":"move","of":"text","into":"tabs","to":0}`, "tabs-groups")
	refused(t, b, `{"kind":"add","what":"block","into":"tabs","id":"t2","values":{"kind":"text"}}`, "tabs-groups")
	p, _ := b.Place("tabs")
	var offered []string
	for _, k := range blueprint.BlockKinds() {
		if p.Within().Takes(k) {
			offered = append(offered, k.Name)
		}
	}
	assert.Equal(t, []string{"group"}, offered)
	for i := range 3 {
		in := []string{"t1", "deep0", "deep1"}[i]
		change := fmt.Sprintf(`{"kind":"add","what":"block","into":%q,"id":"deep%d","values":{"kind":"group"}}`, in, i)
		if i == 2 {
			refused(t, b, change, "group-deep")
			break
		}
		b = after(t, b, change)
	}
	banner := after(t, b, `{"kind":"set","of":"t1","values":{"look":"band","picture":"01a00000-0000-7000-8000-000000000000"}}`)
	assert.NotEmpty(t, banner.Page("all").Block("t1").(*blueprint.GroupBlock).Picture)
	refused(t, b, `{"kind":"set","of":"t1","values":{"look":"band","picture":"../x"}}`, "not-offered")
	plain := after(t, banner, `{"kind":"set","of":"t1","values":{"look":"card"}}`)
	assert.Empty(t, plain.Page("all").Block("t1").(*blueprint.GroupBlock).Picture)
}

// TestWaysNeedTheirFields holds that a board has columns and a calendar days, also after
// a field goes.
func TestWaysNeedTheirFields(t *testing.T) {
	list := func(b *blueprint.Blueprint) *blueprint.RecordsBlock {
		return b.Page("all").Block("list").(*blueprint.RecordsBlock)
	}
	b := after(t, loft(t), `{"kind":"set","of":"list","values":{"ways":["board","calendar"]}}`)
	assert.Equal(t, "cl cut", list(b).Board+" "+list(b).From, "the first that fit are taken")
	assert.NotEmpty(t, list(b).Filter+list(b).Sort, "all else stays")
	refused(t, b, `{"kind":"set","of":"list","values":{"board":""}}`, "board-by")
	refused(t, b, `{"kind":"set","of":"list","values":{"board":"name"}}`, "not-offered")
	refused(t, b, `{"kind":"set","of":"list","values":{"from":"area"}}`, "not-offered")
	refused(t, b, `{"kind":"set","of":"list","values":{"until":"cut"}}`, "calendar-end")
	refused(t, b, `{"kind":"set","of":"list","values":{"ways":["board","board"]}}`, "twice")
	refused(t, b, `{"kind":"set","of":"list","values":{"ways":["wheel"]}}`, "not-offered")
	gone := after(t, b, `{"kind":"set","of":"list","values":{"filter":null,"sort":null,"falling":null}}`,
		`{"kind":"remove","of":"cut","mend":true}`)
	assert.Equal(t, []blueprint.ListWay{blueprint.BoardWay}, list(gone).Ways, "it is no calendar any more")
	gone = after(t, gone, `{"kind":"remove","of":"cl","mend":true}`)
	assert.Empty(t, list(gone).Ways)
	assert.Equal(t, []blueprint.ListWay{blueprint.TableWay}, list(gone).Offered())
	other := after(t, b, `{"kind":"set","of":"list","values":{"table":"sailor"}}`)
	assert.Empty(t, list(other).Ways, "the other table has neither choices nor dates")
	table := after(t, b, `{"kind":"set","of":"list","values":{"ways":["table"]}}`)
	assert.Empty(t, list(table).Board+list(table).From, "what is not said any more is forgotten")
	assert.True(t, slices.Equal(nil, list(table).Ways))
}

func TestABlockThatIsShownWhen(t *testing.T) {
	b := after(t, loft(t), `{"kind":"set","of":"text","values":{"when":"me.member"}}`)
	refused(t, b, `{"kind":"set","of":"text","values":{"when":"me.gone"}}`, "expression")
	refused(t, b, `{"kind":"set","of":"text","values":{"when":"me.name"}}`, "expression")
	refused(t, b, `{"kind":"set","of":"text","values":{"width":"wide"}}`, "not-offered")
	b = after(t, b, `{"kind":"remove","of":"s_ok","mend":true}`)
	assert.Nil(t, b.Page("all").Block("text"), "rather than show it to everyone it is taken off")
}

// TestAnotherTypeIsLeftOutOfLists changes the type of fields by which a list is shown.
func TestAnotherTypeIsLeftOutOfLists(t *testing.T) {
	b := after(t, loft(t), `{"kind":"add","what":"field","into":"sail","id":"x1","values":{"name":"Reefs","type":"number"}}`,
		`{"kind":"set","of":"list","values":{"ways":["board"],"badge":"cl","filters":["cl","x1"],"totals":["x1","price"],"group":"cl"}}`,
		`{"kind":"set","of":"x1","values":{"type":"text"}}`)
	list := b.Page("all").Block("list").(*blueprint.RecordsBlock)
	assert.Equal(t, "[cl] [price]", fmt.Sprint(list.Filters, list.Totals))
	refused(t, b, `{"kind":"set","of":"cl","values":{"type":"text"}}`, "not-offered")
	b = after(t, b, `{"kind":"set","of":"list","values":{"ways":null,"filter":null}}`, `{"kind":"set","of":"cl","values":{"type":"text"}}`)
	list = b.Page("all").Block("list").(*blueprint.RecordsBlock)
	assert.Empty(t, list.Filters)
	assert.Empty(t, list.Badge+list.Group)
}
