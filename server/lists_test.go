package server_test

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

// board is a list that is shown as a board.
type board struct {
	Edits []string
	Moves []string
	Board struct {
		Columns []struct {
			Value string
			Count int
			Rows  []map[string]any
		}
	}
}

// orders gives the board of work orders as somebody gets it.
func orders(t *testing.T, c *servertest.Client) board {
	t.Helper()
	var p struct {
		Blocks []struct {
			ID string
			board
		}
	}
	c.Read(live+"/page?path=orders", &p)
	for _, b := range p.Blocks {
		if b.ID == "p_orders_b" {
			return b.board
		}
	}
	require.Fail(t, "there is no board")
	return board{}
}

func row(id any, revision int, values map[string]any) (path string, body map[string]any) {
	return fmt.Sprintf("%s/lists/p_orders_b/rows/%s", live, id), map[string]any{"path": "orders", "revision": revision, "values": values}
}

// TestCardsAreMovedOnABoard moves an order as one of the crew, and tries what the list or the
// rules do not allow.
func TestCardsAreMovedOnABoard(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Person(t, crewOf(t, s))
	before := orders(t, c)
	card := before.Board.Columns[0].Rows[0]
	revision := int(card["revision"].(float64))
	assert.Equal(t, "[ord_due] [ord_status]", fmt.Sprint(before.Edits, " ", before.Moves))

	move := func(values map[string]any, at int) (int, string) {
		path, body := row(card["id"], at, values)
		return c.Do(http.MethodPost, path, body)
	}
	status, answer := move(map[string]any{"ord_status": "os_in_the_yard"}, revision)
	require.Equal(t, http.StatusOK, status)
	var changed struct{ Revision int }
	decode(t, answer, &changed)
	assert.Equal(t, revision+1, changed.Revision)
	after := orders(t, c)
	assert.Equal(t, before.Board.Columns[0].Count-1, after.Board.Columns[0].Count)
	assert.Equal(t, before.Board.Columns[1].Count+1, after.Board.Columns[1].Count)
	status, said := move(map[string]any{"ord_status": "os_done"}, revision)
	assert.Equal(t, http.StatusConflict, status, said)
	for values, want := range map[string]int{`{"ord_status":"gone"}`: 422, `{"ord_title":"Mine"}`: 422, `{"ord_price":"1"}`: 422,
		`{"no_such":1}`:              422,
		`{"ord_status":["os_done"]}`: 422} {
		var v map[string]any
		decode(t, values, &v)
		status, said := move(v, revision+1)
		assert.Equal(t, want, status, "%s: %s", values, said)
	}
	assert.Equal(t, after, orders(t, c), "nothing of that was written")

	apply(t, s, set("r_crew.ord", "fixed", []string{"ord_status"}))
	status, said = move(map[string]any{"ord_status": "os_done"}, revision+1)
	assert.Contains(t, []int{http.StatusForbidden, http.StatusUnprocessableEntity}, status, said)
	assert.Empty(t, orders(t, c).Moves, "nobody is offered to move what they may not")
	apply(t, s, set("r_crew.ord", "fixed", nil, "change", map[string]any{"extent": "where", "condition": "crew = me"}))
	said = ""
	for _, r := range after.Board.Columns[1].Rows {
		path, body := row(r["id"], int(r["revision"].(float64)), map[string]any{"ord_status": "os_done"})
		if status, answer := c.Do(http.MethodPost, path, body); status != http.StatusOK {
			assert.Equal(t, http.StatusForbidden, status)
			said = answer
		}
	}
	assert.NotEmpty(t, said, "orders of others are not theirs to move")
}

// TestListsAreTakenAwayUnderTheRules reads files of lists as people of several roles.
func TestListsAreTakenAwayUnderTheRules(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, set("p_orders_b", "columns", []string{"ord_title", "ord_price", "ord_crew"}))
	file := func(c *servertest.Client, more string) string {
		status, body := c.Do(http.MethodGet, live+"/lists/p_orders_b/file?path=orders"+more, nil)
		require.Equal(t, http.StatusOK, status, body)
		return body
	}
	crew, manager := s.Person(t, crewOf(t, s)), s.Person(t, "jonas@aldercove.example")
	header := func(csv string) string { return strings.TrimSpace(strings.SplitN(csv, "\n", 2)[0]) }
	assert.Equal(t, "Title,Who does it", header(file(crew, "")), "the price is hidden from the crew")
	whole := file(manager, "")
	assert.Equal(t, "Title,Price,Who does it", header(whole))
	assert.Equal(t, 401, strings.Count(whole, "\n"), "all of it, not what is shown at once")
	narrowed := file(manager, "&view=p_orders_b.find%3Dhalyards")
	assert.Less(t, strings.Count(narrowed, "\n"), 401)
	assert.Equal(t, strings.Count(narrowed, "\n")-1, strings.Count(narrowed, "New halyards"))
	assert.True(t, strings.HasPrefix(file(manager, "&format=xlsx"), "PK"))
	status, _ := manager.Do(http.MethodGet, live+"/lists/p_orders_b/file?path=orders&format=json", nil)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	apply(t, s, set("p_orders_b", "export", nil))
	status, _ = manager.Do(http.MethodGet, live+"/lists/p_orders_b/file?path=orders", nil)
	assert.Equal(t, http.StatusNotFound, status, "nobody takes away what is not offered")
}

// TestAddressesWithNonsense asks for what there is not: it is told of, and the page is shown.
func TestAddressesWithNonsense(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Person(t, "jonas@aldercove.example")
	for _, view := range []string{"p_orders_b.is.ord_kind=%27%3B+DROP", "p_orders_b.is.ord_due=2026-99-01..", "p_orders_b.as=wheel",
		"%zz&p_orders_b.as=table",
		"p_orders_b.is.ord_crew=x", "p_orders_b.is.ord_price=1..", "p_orders_b.by=ord_price"} {
		var p struct {
			Blocks []struct{ Notes []string }
		}
		c.Read(live+"/page?path=orders&view="+url.QueryEscape(view), &p)
		assert.Len(t, p.Blocks[1].Notes, 1, view)
	}
	status, _ := c.Do(http.MethodGet, live+"/page?path=orders&view="+strings.Repeat("x", 9000), nil)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
}
