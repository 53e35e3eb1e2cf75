package server_test

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"

	"pinegate/server/servertest"
	"pinegate/store"
)

type marks struct{ Breakpoints, Off, Watches []string }

func (m marks) body() map[string]any {
	return map[string]any{"breakpoints": m.Breakpoints, "off": m.Off, "watches": m.Watches}
}

// TestMarksAreEachBuildersOwn keeps breakpoints and watches for each builder, and for nobody else.
func TestMarksAreEachBuildersOwn(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	founder, viewer := s.Founder(t), member(t, s, "vera@aldercove.example", store.Viewer)
	at := "/api/apps/" + s.App.ID + "/workflows/"
	read := func(c *servertest.Client, flow string) (out marks) {
		c.Read(at+flow+"/marks", &out)
		return out
	}
	nothing, mine, theirs := marks{[]string{}, []string{}, []string{}},
		marks{[]string{"w_invoice_4"}, []string{"w_invoice_4"}, []string{"made.new_invoice.total"}},
		marks{[]string{"w_invoice_8"}, []string{}, []string{}}
	assert.Equal(t, nothing, read(founder, "w_invoice"))
	founder.Write(http.MethodPut, at+"w_invoice/marks", mine.body())
	viewer.Write(http.MethodPut, at+"w_invoice/marks", theirs.body())
	assert.Equal(t, mine, read(founder, "w_invoice"))
	assert.Equal(t, theirs, read(viewer, "w_invoice"))
	assert.Equal(t, nothing, read(founder, "w_done"))
	status, _ := founder.Do(http.MethodGet, at+"none/marks", nil)
	assert.Equal(t, http.StatusNotFound, status)
}
