package page

import (
	"encoding/json"
	"fmt"
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/store/records"
)

// inside is what stands in each row of a list: blocks that have the record of the row in
// hand. What they read are texts, which are computed with the row.
type inside struct {
	view   View
	blocks blueprint.Blocks
	texts  []*expr.Checked
	reads  []int          // how many texts each read has
	shares map[string]int // how many reads each block has
}

// within gives what stands in the rows of a list, or nil.
func (v *View) within(x *blueprint.RecordsBlock) (*inside, error) {
	if len(x.Blocks) == 0 {
		return nil, nil
	}
	out := &inside{view: *v, blocks: x.Blocks}
	out.view.Row, out.view.Sources = x.Table, false
	reads, shares, err := out.view.reads(x.Blocks)
	if err != nil {
		return nil, err
	}
	out.shares = shares
	for _, r := range reads {
		if r.List != nil || r.Totals != nil {
			return nil, fmt.Errorf("show rows on %s: a block in them reads more than texts", v.Page.Name)
		}
		out.texts, out.reads = append(out.texts, r.Texts...), append(out.reads, len(r.Texts))
	}
	return out, nil
}

// of gives what stands in the row of a record, with the texts that were computed for it.
func (in *inside) of(record string, texts []*string) ([]Block, error) {
	view := in.view
	view.Hand = record
	got := make([]records.Result, len(in.reads))
	for i, n := range in.reads {
		got[i].Texts, texts = texts[:n], texts[n:]
	}
	return view.show(in.blocks, in.shares, &got)
}

// texts lists what is computed for each row: what stands in it, and the conditions of tones.
func (l *list) texts() []*expr.Checked {
	var out []*expr.Checked
	if l.holds() {
		out = slices.Clone(l.inside.texts)
	}
	for _, c := range l.tones {
		out = append(out, l.boundListed(c))
	}
	return out
}

// holds tells whether something stands in its rows as they are shown now.
func (l *list) holds() bool { return l.inside != nil && l.asked.way != blueprint.CalendarWay }

// rows reads the rows of a list, and adds what stands in them, and their tones.
func (l *list) rows(to *Records, got records.Result) ([]Row, error) {
	rows, err := Rows(got.Rows)
	for _, row := range rows {
		for _, id := range l.gone {
			delete(row, id)
			delete(row, id+"~")
		}
	}
	if err != nil || !l.holds() && len(l.tones) == 0 {
		return rows, err
	}
	if l.holds() && to.Inside == nil {
		to.Inside = map[string][]Block{}
	}
	for i, raw := range got.Rows {
		var row struct {
			Texts []*string `json:"~texts"`
		}
		if err := json.Unmarshal(raw, &row); err != nil {
			return nil, fmt.Errorf("read %s: %w", query.TextsColumn, err)
		}
		id, _ := rows[i]["id"].(string)
		texts := row.Texts
		if l.holds() {
			n := len(l.inside.texts)
			if to.Inside[id], err = l.inside.of(id, texts[:n]); err != nil {
				return nil, err
			}
			texts = texts[n:]
		}
		l.toned(to, id, texts)
	}
	return rows, nil
}

// toned gives a record the first tone whose condition holds.
func (l *list) toned(to *Records, id string, said []*string) {
	for i, text := range said {
		if text == nil || *text != query.Yes {
			continue
		}
		if to.Tones == nil {
			to.Tones = map[string]string{}
		}
		to.Tones[id] = l.RecordsBlock.Tones[i].Field
		return
	}
}

// shownReads lists what is read to know which columns are shown.
func (l *list) shownReads() []records.Read {
	if len(l.shown) == 0 {
		return nil
	}
	var of []*expr.Checked
	for _, c := range l.shown {
		of = append(of, l.bound(c))
	}
	return []records.Read{l.View.texts(of...)}
}

// hide leaves out the columns that are not shown now, and gives what was read besides.
func (l *list) hide(got []records.Result) []records.Result {
	if len(l.shown) == 0 {
		return got
	}
	for i, text := range got[0].Texts {
		placed := l.asked.way == blueprint.BoardWay || l.asked.way == blueprint.CalendarWay
		if placed && slices.Contains(moved(l.RecordsBlock), l.RecordsBlock.Shown[i].Field) {
			continue // without it no record has a place
		}
		if text == nil || *text != query.Yes {
			l.gone = append(l.gone, l.RecordsBlock.Shown[i].Field)
		}
	}
	is := func(id string) bool { return slices.Contains(l.gone, id) }
	l.columns, l.fields, l.sums = slices.DeleteFunc(l.columns, is), slices.DeleteFunc(l.fields, is), slices.DeleteFunc(l.sums, is)
	return got[1:]
}
