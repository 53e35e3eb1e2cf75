package intake

import (
	"fmt"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/tools/txtar"

	"pinegate/core/blueprint"
)

// TestSets brings sets of files as people have them, and holds what is proposed, and what is read, against what is written of
// each in its file. testdata/README.md says how that is written. A point that begins with "open: " is known to be wrong still.
func TestSets(t *testing.T) {
	for _, half := range []string{"first", "second", "third", "fourth", "fifth", "sixth", "seventh"} {
		t.Run(half, func(t *testing.T) {
			right, all := 0, 0
			files, err := filepath.Glob(filepath.Join("testdata", half, "*.txt"))
			require.NoError(t, err)
			require.NotEmpty(t, files)
			for _, path := range files {
				t.Run(strings.TrimSuffix(filepath.Base(path), ".txt"), func(t *testing.T) {
					set := bring(t, path)
					for _, point := range set.points {
						point, open := strings.CutPrefix(point, "open: ")
						wrong := set.check(point)
						all++
						if wrong == "" {
							right++
						}
						assert.Equal(t, open, wrong != "", "%s: %s", point, wrong)
					}
				})
			}
			t.Logf("%d of %d points are right", right, all)
		})
	}
}

// set are files that were proposed together.
type set struct {
	p       *Proposal
	b       *blueprint.Blueprint
	carried *Carried
	sheets  []*Sheet
	points  []string
}

// bring reads the files of a set, as a server does.
func bring(t *testing.T, path string) *set {
	t.Helper()
	a, err := txtar.ParseFile(path)
	require.NoError(t, err)
	out := &set{}
	for _, f := range a.Files {
		if f.Name == "want" {
			for line := range strings.Lines(string(f.Data)) {
				if line = strings.TrimSpace(line); line != "" {
					out.points = append(out.points, line)
				}
			}
			continue
		}
		name, content := asFile(t, f)
		sheets, err := Sheets(file(name, content))
		require.NoError(t, err, name)
		out.sheets = append(out.sheets, sheets...)
	}
	out.p, err = Propose(out.sheets, nil)
	require.NoError(t, err)
	n := 0
	out.b = blueprint.New("Set", func() string { n++; return fmt.Sprintf("n%d", n) })
	out.carried, err = Carry(out.p, out.b, func() string { n++; return fmt.Sprintf("n%d", n) })
	require.NoError(t, err)
	out.b, err = blueprint.Apply(out.b, out.carried.Changes...)
	require.NoError(t, err)
	return out
}

var encodings = map[string]encoding.Encoding{"windows-1252": charmap.Windows1252,
	"utf-16": unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)}

// asFile gives a file as it would lie on a disk.
func asFile(t *testing.T, f txtar.File) (string, []byte) {
	t.Helper()
	name, rest, _ := strings.Cut(f.Name, " [")
	if strings.HasSuffix(name, ".xlsx") {
		return name, book(t, string(f.Data))
	}
	if e := encodings[strings.TrimSuffix(rest, "]")]; e != nil {
		raw, err := e.NewEncoder().Bytes(f.Data)
		require.NoError(t, err)
		return name, raw
	}
	return name, f.Data
}

var (
	numberText = regexp.MustCompile(`^=([-0-9.eE+]+)(?: \{(.*)\})?$`)
	mergedText = regexp.MustCompile(`^<(\d+)>(.*)$`)
)

// book makes a workbook.
func book(t *testing.T, text string) []byte {
	t.Helper()
	x := excelize.NewFile()
	sheet, row := "", 0
	for line := range strings.Lines(text) {
		line = strings.TrimRight(line, "\n")
		if name, is := strings.CutPrefix(line, "# "); is {
			_, err := x.NewSheet(name)
			require.NoError(t, err)
			sheet, row = name, 0
			continue
		}
		row++
		for i, c := range strings.Split(line, "|") {
			c = strings.TrimSpace(c)
			at, err := excelize.CoordinatesToCellName(i+1, row)
			require.NoError(t, err)
			require.NoError(t, setCell(x, sheet, at, i, row, c))
		}
	}
	require.NoError(t, x.DeleteSheet("Sheet1"))
	b, err := x.WriteToBuffer()
	require.NoError(t, err)
	return b.Bytes()
}

// setCell writes a cell: a text, =a number {with its format}, ?TRUE, or <a text over so many columns.
func setCell(x *excelize.File, sheet, at string, column, row int, c string) error {
	if m := numberText.FindStringSubmatch(c); m != nil {
		n, err := strconv.ParseFloat(m[1], 64)
		if err != nil {
			return err
		}
		if m[2] != "" {
			style, err := x.NewStyle(&excelize.Style{CustomNumFmt: &m[2]})
			if err != nil {
				return err
			}
			if err := x.SetCellStyle(sheet, at, at, style); err != nil {
				return err
			}
		}
		return x.SetCellFloat(sheet, at, n, -1, 64)
	}
	if m := mergedText.FindStringSubmatch(c); m != nil {
		end, err := excelize.CoordinatesToCellName(column+atoi(m[1]), row)
		if err != nil {
			return err
		}
		if err := x.MergeCell(sheet, at, end); err != nil {
			return err
		}
		return x.SetCellStr(sheet, at, m[2])
	}
	if is, bare := strings.CutPrefix(c, "?"); bare {
		return x.SetCellBool(sheet, at, is == "TRUE")
	}
	if c == "" {
		return nil
	}
	return x.SetCellStr(sheet, at, strings.TrimPrefix(c, "'"))
}

var (
	rowsPoint = regexp.MustCompile(`^(.+): (\d+)$`)
	linkPoint = regexp.MustCompile(`^([^.]+)\.(.+?) (->|->>) (.+) by (.+)$`)
	readPoint = regexp.MustCompile(`^([^.]+)\.(.+?) = (.*)$`)
	typePoint = regexp.MustCompile(`^([^.]+)\.(.+): ([a-z -/]+?)( [A-Z]{3})?$`)
	askPoint  = regexp.MustCompile(`^([^.]+)\.(.+)\?$`)
	gonePoint = regexp.MustCompile(`^([^.]+)\.(.+) absent$`)
	leftPoint = regexp.MustCompile(`^([^.]+)\.(.+) leaves out$`)
)

// check tells what is wrong with a point; nothing where it is right.
func (s *set) check(point string) string {
	if n, is := strings.CutPrefix(point, "sheets "); is {
		return differ(n, strconv.Itoa(len(s.p.Sheets)))
	}
	if m := linkPoint.FindStringSubmatch(point); m != nil {
		return s.with(m[1], m[2], func(c *ColumnPlan, _, _ int) string {
			if c.Link == nil || c.Link.Sheet < 0 {
				return "it points to nothing, as " + string(c.Type)
			}
			kind := map[bool]string{true: "->>", false: "->"}[c.Link.Many]
			return differ(m[3]+" "+m[4]+" by "+m[5], kind+" "+s.p.Sheets[c.Link.Sheet].Name+" by "+c.Link.By)
		})
	}
	if m := readPoint.FindStringSubmatch(point); m != nil {
		return s.with(m[1], m[2], func(_ *ColumnPlan, i, j int) string { return s.reads(i, j, strings.Split(m[3], " | ")) })
	}
	if m := rowsPoint.FindStringSubmatch(point); m != nil {
		for i := range s.p.Sheets {
			if s.p.Sheets[i].Name == m[1] {
				return differ(m[2], strconv.Itoa(s.p.Sheets[i].Rows))
			}
		}
		return "there is no such sheet"
	}
	if m := typePoint.FindStringSubmatch(point); m != nil {
		return s.with(m[1], m[2], func(c *ColumnPlan, _, _ int) string {
			is := string(c.Type)
			if m[4] != "" {
				is += " " + c.Format.Currency
			}
			return differ(m[3]+m[4], is)
		})
	}
	if m := askPoint.FindStringSubmatch(point); m != nil {
		return s.with(m[1], m[2], func(c *ColumnPlan, _, _ int) string { return differ("true", strconv.FormatBool(c.Ask != nil)) })
	}
	if m := leftPoint.FindStringSubmatch(point); m != nil {
		return s.with(m[1], m[2], func(c *ColumnPlan, _, _ int) string {
			if c.Link == nil {
				return "it points to nothing"
			}
			return differ(string(LeaveOut), string(c.Link.Unmatched))
		})
	}
	if m := gonePoint.FindStringSubmatch(point); m != nil {
		return differ("there is no such column", s.with(m[1], m[2], func(*ColumnPlan, int, int) string { return "it is there" }))
	}
	return "no such point is known"
}

func differ(want, is string) string {
	if strings.EqualFold(want, is) {
		return ""
	}
	return "it is " + is
}

// with looks at a column, by the names of its sheet and its own.
func (s *set) with(sheet, column string, look func(c *ColumnPlan, i, j int) string) string {
	for i := range s.p.Sheets {
		if !strings.EqualFold(s.p.Sheets[i].Name, sheet) {
			continue
		}
		for j := range s.p.Sheets[i].Columns {
			if strings.EqualFold(s.p.Sheets[i].Columns[j].Name, column) {
				return look(&s.p.Sheets[i].Columns[j], i, j)
			}
		}
		return "there is no such column"
	}
	return "there is no such sheet"
}

// reads holds the first values of a column, as they are read, against others.
func (s *set) reads(i, j int, want []string) string {
	f := s.b.Table(s.carried.Tables[i]).Field(s.carried.Fields[i][j])
	if f == nil {
		return "it goes nowhere"
	}
	reader := NewReader(s.b, f, s.p.Sheets[i].Columns[j])
	var got []string
	err := s.sheets[i].Each(func(_ int, cells []string) error {
		got = append(got, shownValue(s.b, f, reader, cells[j]))
		return nil
	})
	if err != nil {
		return err.Error()
	}
	return differ(strings.Join(want, " | "), strings.Join(got[:min(len(got), len(want))], " | "))
}

// shownValue reads a cell: ! for one that cannot be read.
func shownValue(b *blueprint.Blueprint, f *blueprint.Field, r *Reader, cell string) string {
	if f.Type == blueprint.Link || f.Type == blueprint.Links {
		return cell
	}
	v, wrong := r.Read(cell)
	switch {
	case wrong != nil:
		return "! " + wrong.Error()
	case v.IsEmpty():
		return "–"
	case f.Type == blueprint.YesNo:
		return map[bool]string{true: "yes", false: "no"}[v.Yes]
	case f.List != "":
		l := b.List(f.List)
		at := slices.IndexFunc(l.Choices, func(c blueprint.Choice) bool { return c.ID == v.Text })
		if at >= 0 {
			return l.Choices[at].Label
		}
	}
	return v.String()
}
