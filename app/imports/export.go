package imports

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"strings"

	"github.com/xuri/excelize/v2"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store/records"
)

// Kind names a format of files that are handed out.
type Kind string

// The formats.
const (
	CSV  Kind = "csv"
	XLSX Kind = "xlsx"
	JSON Kind = "json"
)

// MIME gives the type of files of the kind.
func (k Kind) MIME() string {
	switch k {
	case CSV:
		return "text/csv; charset=utf-8"
	case XLSX:
		return "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
	case JSON:
	}
	return "application/json"
}

// exportPage is how many records are read at once.
const exportPage = 1000

// Export writes records of tables, as the person sees them, to a file: all that
// the queries ask for, not what happens to be shown. CSV holds one table. Links
// are written as the labels of what they point to.
func Export(ctx context.Context, road records.Road, s *records.Seat, kind Kind, lists []query.Selection, to io.Writer) error {
	switch kind {
	case CSV:
		if len(lists) != 1 {
			return words.New("export-csv")
		}
		w := csv.NewWriter(to)
		err := each(ctx, road, s, lists[0], func(cells []any) error { return w.Write(plainCells(cells)) })
		w.Flush()
		if err == nil {
			err = w.Error()
		}
		return err
	case XLSX:
		return exportBook(ctx, road, s, lists, to)
	case JSON:
		return exportJSON(ctx, road, s, lists, to)
	}
	return words.New("export-format")
}

// each gives the header and then the rows of a list: texts, and where the
// format can hold them, numbers and yes or no.
func each(ctx context.Context, road records.Road, s *records.Seat, l query.Selection, use func(cells []any) error) error {
	var header []any
	fields := make([]*expr.Field, len(l.Columns))
	for i, id := range l.Columns {
		for _, f := range s.Catalog.Tables[l.Table.ID].Fields {
			if f.ID == id {
				fields[i] = f
				header = append(header, f.Name)
			}
		}
	}
	if err := use(header); err != nil {
		return err
	}
	l.Limit = exportPage
	for {
		rows, next, err := road.List(ctx, s, l)
		if err != nil {
			return err
		}
		for _, raw := range rows {
			var row map[string]any
			if err := json.Unmarshal(raw, &row); err != nil {
				return fmt.Errorf("read a record: %w", err)
			}
			cells := make([]any, len(fields))
			for i, f := range fields {
				if cells[i], err = exported(ctx, road, s, l.Table, f, row); err != nil {
					return err
				}
			}
			if err := use(cells); err != nil {
				return err
			}
		}
		if next == "" {
			return nil
		}
		l.After = next
	}
}

// exported gives a value as it is handed out.
func exported(ctx context.Context, road records.Road, s *records.Seat, t *blueprint.Table, f *expr.Field, row map[string]any) (any, error) {
	v := row[f.ID]
	if v == nil {
		return nil, nil
	}
	list := s.Blueprint.List(f.Type.List)
	switch {
	case f.Type.Kind == expr.Record && f.Type.Many:
		if labels, whole := linkedHere(v, row[f.ID+"~"]); whole {
			return labels, nil
		}
		return road.LinkedLabels(ctx, s, t, f, fmt.Sprint(row["id"]))
	case f.Type.Kind == expr.Record:
		return row[f.ID+"~"], nil
	case f.Type.Kind == expr.File:
		return named(row[f.ID+"~"], "name"), nil
	case f.Type.Kind == expr.Choice && f.Type.Many:
		var labels []string
		for _, id := range v.([]any) {
			labels = append(labels, label(list, fmt.Sprint(id)))
		}
		return strings.Join(labels, ", "), nil
	case f.Type.Kind == expr.Choice:
		return label(list, fmt.Sprint(v)), nil
	case f.Type.Kind == expr.Number:
		return json.Number(fmt.Sprint(v)), nil
	}
	return v, nil
}

// linkedHere gives the labels of linked records from the row itself, where all
// of them stand there.
func linkedHere(v, count any) (string, bool) {
	list, ok := v.([]any)
	if n, known := count.(float64); !ok || !known || int(n) != len(list) {
		return "", false
	}
	return named(v, "label"), true
}

// named joins what stands under the key in each of a list of objects.
func named(v any, key string) string {
	list, _ := v.([]any)
	var names []string
	for _, x := range list {
		if one, ok := x.(map[string]any); ok && one[key] != nil {
			names = append(names, fmt.Sprint(one[key]))
		}
	}
	return strings.Join(names, ", ")
}

func label(l *blueprint.ChoiceList, id string) string {
	if l != nil {
		if c := l.Choice(id); c != nil {
			return c.Label
		}
	}
	return ""
}

func plainCells(cells []any) []string {
	out := make([]string, len(cells))
	for i, c := range cells {
		switch c := c.(type) {
		case nil:
		case bool:
			out[i] = map[bool]string{true: "yes", false: "no"}[c]
		default:
			out[i] = fmt.Sprint(c)
		}
	}
	return out
}

func exportJSON(ctx context.Context, road records.Road, s *records.Seat, lists []query.Selection, to io.Writer) error {
	say := func(text string) error { _, err := io.WriteString(to, text); return err }
	if err := say("{"); err != nil {
		return err
	}
	for i, l := range lists {
		name, err := json.Marshal(l.Table.Name)
		if err != nil {
			return fmt.Errorf("write JSON: %w", err)
		}
		if err := say(map[bool]string{true: ",\n", false: "\n"}[i > 0] + string(name) + ": ["); err != nil {
			return err
		}
		var header []any
		n := 0
		err = each(ctx, road, s, l, func(cells []any) error {
			if header == nil {
				header = cells
				return nil
			}
			object, err := jsonObject(header, cells)
			if err != nil {
				return err
			}
			n++
			return say(map[bool]string{true: ",\n", false: "\n"}[n > 1] + object)
		})
		if err != nil {
			return err
		}
		if err := say("]"); err != nil {
			return err
		}
	}
	return say("\n}\n")
}

// jsonObject writes an object with its keys in the order of the columns.
func jsonObject(header, cells []any) (string, error) {
	var b strings.Builder
	b.WriteByte('{')
	for i, c := range cells {
		key, err := json.Marshal(header[i])
		if err != nil {
			return "", fmt.Errorf("write JSON: %w", err)
		}
		value, err := json.Marshal(c)
		if err != nil {
			return "", fmt.Errorf("write JSON: %w", err)
		}
		if i > 0 {
			b.WriteString(", ")
		}
		b.Write(key)
		b.WriteString(": ")
		b.Write(value)
	}
	b.WriteByte('}')
	return b.String(), nil
}

// exportBook writes a workbook with a sheet for each table. Numbers of more
// than 15 digits are written as text, because a workbook would round them.
func exportBook(ctx context.Context, road records.Road, s *records.Seat, lists []query.Selection, to io.Writer) error {
	book := excelize.NewFile()
	defer func() { _ = book.Close() }() // it is written by then
	names := map[string]bool{}
	for i, l := range lists {
		name := bookName(l.Table.Name, names)
		if i == 0 {
			if err := book.SetSheetName("Sheet1", name); err != nil {
				return fmt.Errorf("name sheet: %w", err)
			}
		} else if _, err := book.NewSheet(name); err != nil {
			return fmt.Errorf("add sheet: %w", err)
		}
		w, err := book.NewStreamWriter(name)
		if err != nil {
			return fmt.Errorf("write sheet: %w", err)
		}
		n := 0
		err = each(ctx, road, s, l, func(cells []any) error {
			n++
			at, err := excelize.CoordinatesToCellName(1, n)
			if err != nil {
				return words.New("export-rows", "most", excelize.TotalRows, "table", l.Table.Name)
			}
			for i, c := range cells {
				switch c := c.(type) {
				case json.Number:
					if f, err := c.Float64(); err == nil && len(strings.Trim(c.String(), "-0.")) <= 15 {
						cells[i] = f
					} else {
						cells[i] = c.String()
					}
				case bool:
					cells[i] = map[bool]string{true: "yes", false: "no"}[c]
				}
			}
			return w.SetRow(at, cells)
		})
		if err != nil {
			return err
		}
		if err := w.Flush(); err != nil {
			return fmt.Errorf("write sheet: %w", err)
		}
	}
	if err := book.Write(to); err != nil {
		return fmt.Errorf("write workbook: %w", err)
	}
	return nil
}

// bookName makes a name that a sheet may have.
func bookName(name string, taken map[string]bool) string {
	name = strings.NewReplacer(":", " ", "\\", " ", "/", " ", "?", " ", "*", " ", "[", " ", "]", " ").Replace(name)
	if r := []rune(name); len(r) > 28 {
		name = string(r[:28])
	}
	base := name
	for n := 2; taken[strings.ToLower(name)]; n++ {
		name = fmt.Sprintf("%s %d", base, n)
	}
	taken[strings.ToLower(name)] = true
	return name
}
