package page

import (
	"encoding/json"
	"fmt"

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

// rows reads the rows of a list, and adds what stands in them.
func (l *list) rows(to *Records, got records.Result) ([]Row, error) {
	rows, err := Rows(got.Rows)
	if err != nil || l.inside == nil || l.asked.way == blueprint.CalendarWay {
		return rows, err
	}
	if to.Inside == nil {
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
		if to.Inside[id], err = l.inside.of(id, row.Texts); err != nil {
			return nil, err
		}
	}
	return rows, nil
}
