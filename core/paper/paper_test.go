package paper_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/paper"
	"pinegate/core/words"
)

// word makes a Word file of paragraphs, and of rows: those that begin with |.
func word(t testing.TB, body string) []byte {
	t.Helper()
	return packed(t, map[string]string{"[Content_Types].xml": "<Types/>", "word/media/x.png": "pixels {{name}}", "word/document.xml": body})
}

func packed(t testing.TB, parts map[string]string) []byte {
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for name, text := range parts {
		p, err := w.Create(name)
		require.NoError(t, err)
		_, err = io.WriteString(p, text)
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return out.Bytes()
}

const space = `xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"`

func document(inner string) string {
	return `<?xml version="1.0" encoding="UTF-8" standalone="yes"?><w:document ` + space + `><w:body>` + inner +
		`<w:sectPr><w:pgSz w:w="11906"/></w:sectPr></w:body></w:document>`
}

// p is a paragraph of runs, each with looks of its own.
func p(runs ...string) string {
	out := "<w:p><w:pPr><w:jc w:val=\"left\"/></w:pPr>"
	for i, r := range runs {
		out += fmt.Sprintf(`<w:r><w:rPr><w:sz w:val="%d"/></w:rPr><w:t xml:space="preserve">%s</w:t></w:r>`, 20+i, r)
	}
	return out + "</w:p>"
}

func tr(cells ...string) string {
	out := "<w:tr>"
	for _, c := range cells {
		out += "<w:tc>" + c + "</w:tc>"
	}
	return out + "</w:tr>"
}

// known are values by what names them.
type known struct {
	texts map[string]string
	lists map[string][]paper.Values
}

func (k known) Text(source string) (string, error) {
	if text, is := k.texts[source]; is {
		return text, nil
	}
	return "", fmt.Errorf("there is no %s", source)
}

func (k known) Holds(source string) (bool, error) {
	text, err := k.Text(source)
	return text == "yes", err
}

func (k known) Each(source string) ([]paper.Values, error) {
	list, is := k.lists[source]
	if !is {
		return nil, fmt.Errorf("there is no list %s", source)
	}
	return list, nil
}

func line(text, price string) paper.Values {
	return known{texts: map[string]string{"text": text, "price": price, "big": "no"},
		lists: map[string][]paper.Values{"parts": {known{texts: map[string]string{"part": text + " 1"}},
			known{texts: map[string]string{"part": text + " 2"}}}}}
}

var values = known{
	texts: map[string]string{"name": "Ines & <Co>", "address": "Quay 1\nAlder Cove", "late": "yes", "paid": "no",
		"of.number": "A-1", `of "x"`: "quoted"},
	lists: map[string][]paper.Values{"lines": {line("Oil", "12.50"), line("Filter", "7.00")}, "none": {}},
}

// read gives the text of what was filled in: paragraphs on lines of their own, cells between bars.
func read(t *testing.T, file []byte) string {
	r, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	require.NoError(t, err)
	f, err := r.Open("word/document.xml")
	require.NoError(t, err)
	raw, err := io.ReadAll(f)
	require.NoError(t, err)
	s := strings.NewReplacer("</w:p>", "\n", "</w:tc>", "|", "<w:br/>", "/", "&amp;", "&", "&lt;", "<", "&gt;", ">").Replace(
		regexp.MustCompile(`<(w:body|w:document|w:sectPr|w:pgSz)[^>]*>|<\?xml[^>]*>`).ReplaceAllString(string(raw), ""))
	return strings.TrimSpace(regexp.MustCompile(`<[a-z/][^>]*>`).ReplaceAllString(s, ""))
}

// TestPlaceholdersAreFilledIn fills in files with placeholders in all the places in which Word leaves them.
func TestPlaceholdersAreFilledIn(t *testing.T) {
	for name, c := range map[string]struct{ body, want string }{
		"a word":                 {p("Dear {{name}}, hello"), "Dear Ines & <Co>, hello"},
		"cut into pieces":        {p("Dear {", "{na", "me}", "}, hello"), "Dear Ines & <Co>, hello"},
		"two in one piece":       {p("{{of.number}} {{ name }}"), "A-1 Ines & <Co>"},
		"as Word changes quotes": {p("{{ of\u00a0“x” }}"), "quoted"},
		"none":                   {p("No {braces} here"), "No {braces} here"},
		"lines become breaks":    {p("At {{address}}!"), "At Quay 1/Alder Cove!"},
		"a row for each": {
			"<w:tbl>" + tr(p("Part"), p("Price")) + tr(p("{{ each lines }}{{text}}"), p("{{price}}{{ end }}")) + "</w:tbl>",
			"Part\n|Price\n|Oil\n|12.50\n|Filter\n|7.00\n|",
		},
		"a row for none": {"<w:tbl>" + tr(p("{{each none}}{{text}}"), p("{{end}}")) + tr(p("Total")) + "</w:tbl>", "Total\n|"},
		"a row that is cut up": {
			"<w:tbl>" + tr(p("{{ ea", "ch lines }}", "{{text}}"), p("{{ e", "nd }}")) + "</w:tbl>",
			"Oil\n|\n|Filter\n|\n|",
		},
		"paragraphs for each": {
			p("{{ each lines }}") + p("{{text}}:") + p("{{price}}") + p("{{ end }}") + p("Thanks"),
			"Oil:\n12.50\nFilter:\n7.00\nThanks",
		},
		"each within each": {
			p("{{each lines}}") + p("{{text}}") + p("{{each parts}}") + p("- {{part}}") + p("{{end}}") + p("{{end}}"),
			"Oil\n- Oil 1\n- Oil 2\nFilter\n- Filter 1\n- Filter 2",
		},
		"if it holds, or not": {
			p("{{ if late }}") + p("You are late") + p("{{ end }}") + p("{{ if paid }}") + p("Thanks") + p("{{ end }}") + p("Bye"),
			"You are late\nBye",
		},
		"a table within what repeats": {p("{{each lines}}") + "<w:tbl>" + tr(p("{{text}}")) + "</w:tbl>" + p("{{end}}"), "Oil\n|Filter\n|"},
	} {
		t.Run(name, func(t *testing.T) {
			got, err := paper.Fill(word(t, document(c.body)), values)
			require.NoError(t, err)
			assert.Equal(t, c.want, read(t, got))
		})
	}
}

// TestWhatIsNotAPlaceholderStays keeps looks, other parts and their bytes.
func TestWhatIsNotAPlaceholderStays(t *testing.T) {
	got, err := paper.Fill(word(t, document(p("Dear ", "{{name}}", " and all"))), values)
	require.NoError(t, err)
	r, err := zip.NewReader(bytes.NewReader(got), int64(len(got)))
	require.NoError(t, err)
	for name, want := range map[string]string{"word/media/x.png": "pixels {{name}}", "[Content_Types].xml": "<Types/>"} {
		f, err := r.Open(name)
		require.NoError(t, err)
		raw, err := io.ReadAll(f)
		require.NoError(t, err)
		assert.Equal(t, want, string(raw))
	}
	f, err := r.Open("word/document.xml")
	require.NoError(t, err)
	raw, err := io.ReadAll(f)
	require.NoError(t, err)
	assert.Contains(t, string(raw), `<w:rPr><w:sz w:val="21"/></w:rPr><w:t xml:space="preserve">Ines &amp; &lt;Co&gt;</w:t>`)
	assert.Contains(t, string(raw), `<w:jc w:val="left"/>`)
}

// TestWhatIsWrongIsTold gives files that are none, that are too much, and placeholders that name nothing.
func TestWhatIsWrongIsTold(t *testing.T) {
	many := document(p("{{each lines}}") + p("{{each lines}}") + p("x") + p("{{end}}") + p("{{end}}"))
	for name, c := range map[string]struct {
		file []byte
		code string
	}{
		"no file at all":   {[]byte("hello"), "paper-file"},
		"another archive":  {packed(t, map[string]string{"a.txt": "x"}), "paper-file"},
		"broken XML":       {word(t, "<w:document"), "paper-file"},
		"nothing there":    {word(t, document(p("{{ nothing }}"))), "paper-placeholder"},
		"no end":           {word(t, document(p("{{ each lines }}")+p("x"))), "paper-end"},
		"a bomb":           {word(t, document(p(strings.Repeat("a", 51<<20)))), "paper-large"},
		"an empty file":    {nil, "paper-file"},
		"a list of no one": {word(t, many), ""},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := paper.Fill(c.file, values)
			var told *words.Problem
			require.Error(t, err)
			if c.code != "" {
				require.ErrorAs(t, err, &told)
				assert.Equal(t, c.code, told.Code)
			}
		})
	}
	endless := known{lists: map[string][]paper.Values{"lines": make([]paper.Values, 3000)}}
	for i := range endless.lists["lines"] {
		endless.lists["lines"][i] = endless
	}
	_, err := paper.Fill(word(t, document(p("{{each lines}}")+p("x")+p("{{end}}"))), endless)
	var told *words.Problem
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "paper-times", told.Code)
}

// FuzzFill fills in whatever is given: it ends, and what it gives can be read again.
func FuzzFill(f *testing.F) {
	f.Add(p("Dear {{name}}") + p("{{ each lines }}") + p("{{text}}") + p("{{ end }}"))
	f.Add("<w:tbl>" + tr(p("{{each lines}}{{text}}{{end}}")) + "</w:tbl>")
	f.Fuzz(func(t *testing.T, inner string) {
		got, err := paper.Fill(word(t, document(inner)), values)
		if err != nil {
			var told *words.Problem
			if !errors.As(err, &told) {
				assert.ErrorContains(t, err, "there is no")
			}
			return
		}
		_, err = zip.NewReader(bytes.NewReader(got), int64(len(got)))
		require.NoError(t, err)
	})
}
