package server_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/server/servertest"
	"pinegate/store/apps"
	"pinegate/store/files"
)

// wordFile makes a Word file of paragraphs.
func wordFile(t *testing.T, paragraphs ...string) []byte {
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	body := ""
	for _, p := range paragraphs {
		body += "<w:p><w:r><w:t>" + p + "</w:t></w:r></w:p>"
	}
	for _, part := range [][2]string{{"[Content_Types].xml", "<Types/>"}, {"word/document.xml",
		`<w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>` + body + "</w:body></w:document>"}} {
		p, err := w.Create(part[0])
		require.NoError(t, err)
		_, err = io.WriteString(p, part[1])
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return out.Bytes()
}

// TestAWorkflowMakesADocument fills in a Word file with an invoice and its lines, keeps it on the invoice, each version of it, and
// mails it; what is wrong in the file is told, and nothing is kept then.
func TestAWorkflowMakesADocument(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	apply(t, y.Site, addField("inv", "inv_paper", "name", "Paper", "type", "file", "several", true),
		addField("inv", "inv_lines", "name", "Lines", "type", "links", "target", "ili", "of", "ili_invoice"))
	steps := []map[string]any{
		{"kind": "find", "what": "first", "table": "pol", "where": `number = "T-1"`, "name": "template"},
		{"kind": "document", "title": "Invoice {{number}}", "template": "made.template.paper", "record": "this", "field": "inv_paper"},
		{"kind": "mail", "to": "owner.email", "subject": "Your invoice", "body": "Here", "attach": "paper"},
	}
	flow := addFlow("d_doc", "Write it", "app", steps...)
	flow[0]["values"].(map[string]any)["record"] = "inv"
	flow[0]["values"].(map[string]any)["roles"] = []string{"r_man"}
	apply(t, y.Site, flow...)

	b, err := y.Apps.Blueprint(t.Context(), y.App, apps.Live)
	require.NoError(t, err)
	seat := apps.FounderSeat(y.App, apps.Live, b, "test")
	pol := b.Table("pol")
	template := func(word []byte) {
		t.Helper()
		kept, err := y.Config.Blobs.Put(t.Context(), seat.FilesFolder(), files.Wanted{Name: "template.docx", Largest: 1 << 20},
			bytes.NewReader(word))
		require.NoError(t, err)
		require.NoError(t, y.Store.DB.Exec(strings.ReplaceAll("UPDATE live.policies SET deleted_at = now() WHERE number = 'T-1'", "live.",
			apps.SchemaName(y.App, apps.Live)+".")).Error)
		require.NoError(t, y.Config.Acts.Do(t.Context(), func(u *act.Unit) error {
			require.NoError(t, u.Road.Receive(t.Context(), seat, pol, pol.Field("pol_paper"), kept))
			_, err := u.Road.Add(t.Context(), seat, pol, acttest.Values(t, map[string]any{"pol_number": "T-1", "pol_insurer": "Us",
				"pol_until": "2027-01-01", "pol_paper": []string{kept.ID}}), nil)
			return err
		}))
	}
	invoice := y.text(`SELECT i.id::text FROM live.invoices i WHERE (SELECT count(*) FROM live.invoice_lines l WHERE l.invoice = i.id) = 2
		ORDER BY i.id LIMIT 1`)
	number := y.text("SELECT number FROM live.invoices WHERE id = ?", invoice)
	manager := y.Person(t, y.text("SELECT email FROM live.crew WHERE manager AND active ORDER BY id LIMIT 1"))
	press := func() (int, string) {
		return manager.Do(http.MethodPost, live+"/workflows/d_doc", map[string]any{"key": servertest.Key(), "record": invoice})
	}
	papers := func() string {
		return y.text("SELECT COALESCE(array_length(paper, 1), 0)::text FROM live.invoices WHERE id = ?", invoice)
	}

	status, answer := press()
	assert.Equal(t, http.StatusUnprocessableEntity, status, answer)
	for _, wrong := range []struct{ word, why string }{
		{"Total {{ nothing }}", "In the Word file, {{ nothing }} doesn’t work: "},
		{"{{ each owner }}", "In the Word file, {{ each owner }} has no matching end."},
	} {
		template(wordFile(t, wrong.word))
		status, answer = press()
		assert.Equal(t, http.StatusUnprocessableEntity, status, answer)
		assert.Contains(t, y.text("SELECT error FROM runs WHERE workflow = 'd_doc' ORDER BY began_at DESC LIMIT 1"), wrong.why)
	}
	template([]byte("not a Word file"))
	status, _ = press()
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Equal(t, "0", papers())

	template(wordFile(t, "Invoice {{number}} for {{owner.name}}", "{{ each lines }}", "{{text}}: {{quantity}}", "{{ end }}",
		"{{ if status = “Draft” }}", "DRAFT", "{{ end }}"))
	for n := 1; n <= 2; n++ {
		status, answer = press()
		require.Equal(t, http.StatusOK, status, answer)
		assert.Equal(t, fmt.Sprint(n), papers(), "each version is kept")
	}
	owner := y.text("SELECT o.email FROM live.invoices i JOIN live.owners o ON o.id = i.owner WHERE i.id = ?", invoice)
	require.Eventually(t, func() bool {
		return strings.Count(mailTo(t, y.Site, owner, "Your invoice").Files, "Invoice "+number+".docx") == 2
	}, 20*time.Second, 20*time.Millisecond)
	id := y.text("SELECT paper[2] FROM live.invoices WHERE id = ?", invoice)
	r, err := y.Config.Blobs.Get(t.Context(), seat.FilesFolder(), id, false)
	require.NoError(t, err)
	raw, err := io.ReadAll(r)
	require.NoError(t, err)
	require.NoError(t, r.Close())
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	part, err := z.Open("word/document.xml")
	require.NoError(t, err)
	text, err := io.ReadAll(part)
	require.NoError(t, err)
	assert.Contains(t, string(text), "Invoice "+number+" for "+y.text("SELECT o.name FROM live.invoices i JOIN live.owners o ON o.id = i.owner WHERE i.id = ?", invoice))
	assert.NotContains(t, string(text), "{{")
	var lines []string
	require.NoError(t, y.Store.DB.Raw("SELECT text || ': ' || trim_scale(quantity)::text FROM "+apps.SchemaName(y.App, apps.Live)+
		".invoice_lines WHERE invoice = ? AND deleted_at IS NULL", invoice).Scan(&lines).Error)
	for _, line := range lines {
		assert.Contains(t, string(text), line)
	}
}
