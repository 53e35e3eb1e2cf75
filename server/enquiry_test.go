package server_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

// TestAnEnquiryFindsItsWay sends enquiries about four things: each goes to somebody else and shows another page, and who
// wants the newsletter gets it whichever path was taken, by one step after the branch.
func TestAnEnquiryFindsItsWay(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	form, newsletter := "p_enquire_c", "p_enquire_c_q8"
	recipients := map[string]bool{}
	for _, c := range []struct{ about, page, trade string }{
		{"ek_storage", "berths", "Crane driver"}, {"ek_repair", "how-we-repair", "Shipwright"}, {"ek_sale", "selling", "Sailmaker"},
		{"ek_something_else", "welcome", "Yard office"}, {"", "welcome", "Yard office"},
	} {
		email := "asks" + c.about + "@sailmail.example"
		values := map[string]any{"enq_subject": "About " + c.about, "enq_message": "Well?", newsletter: c.about == "ek_sale"}
		if c.about != "" {
			values["enq_about"] = c.about
		}
		who := []any{map[string]any{"answers": map[string]any{"own_name": "Kim", "own_email": email}}}
		status, answer := y.Client(t).Do(http.MethodPost, live+"/forms/"+form, map[string]any{"key": servertest.Key(), "path": "ask-us",
			"values": values, "with": map[string]any{with: who}})
		require.Equal(t, http.StatusOK, status, answer)
		assert.Contains(t, answer, `"`+c.page+`"`, c.about)
		to := y.text("SELECT recipient FROM letters WHERE subject = ?", strings.TrimSpace("Kim asks: About "+c.about))
		assert.Equal(t, c.trade, y.text("SELECT trade FROM live.crew WHERE email = ?", to))
		recipients[to] = true
		assert.Equal(t, map[bool]string{true: "true", false: "false"}[c.about == "ek_sale"],
			y.text("SELECT coalesce(news, false)::text FROM live.owners WHERE email = ?", email), c.about)
	}
	assert.Len(t, recipients, 4)
}
