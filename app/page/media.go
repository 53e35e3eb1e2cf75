package page

import (
	"slices"

	"pinegate/core/blueprint"
	"pinegate/store/records"
)

// Picture is a picture of the app, or the first of those that a record holds.
type Picture struct {
	Head
	Picture string        `json:"picture,omitempty"` // id of one of the app
	Column  *Column       `json:"column,omitempty"`
	Row     Row           `json:"row,omitempty"`
	File    *records.File `json:"file,omitempty"`
	Text    string        `json:"text"`
}

func showPicture(v *View, x *blueprint.PictureBlock, _ []records.Result) (*Picture, error) {
	out := &Picture{Picture: x.Picture, Text: x.Text}
	if x.Field == "" {
		return out, nil
	}
	out.Picture = ""
	column, row, held, err := v.held(x.Field)
	if err != nil || len(held) == 0 {
		return out, err
	}
	out.Column, out.Row, out.File = column, row, &held[0]
	return out, nil
}

// held gives a field of the page's record with the files that it holds; none where whoever
// looks does not see it.
func (v *View) held(field string) (*Column, Row, []records.File, error) {
	all, err := Rows([]records.Row{v.Record})
	if err != nil {
		return nil, nil, nil, err
	}
	list, err := filesIn(all[0], field)
	if err != nil || len(list) == 0 {
		return nil, nil, nil, err
	}
	t := v.Seat.Blueprint.Table(v.Page.Record)
	column := ColumnOf(v.Seat.Blueprint, v.Seat.Catalog, t, t.Field(field))
	return &column, Row{"id": all[0]["id"]}, list, nil
}

// Video are the videos that a field of the page's record holds.
type Video struct {
	Head
	Column *Column        `json:"column,omitempty"`
	Row    Row            `json:"row,omitempty"`
	Files  []records.File `json:"files"`
}

// videoTypes are those that browsers play; what else a field holds is not shown.
func videoTypes() []string { return []string{"video/mp4", "video/webm", "video/ogg"} }

func showVideo(v *View, x *blueprint.VideoBlock, _ []records.Result) (*Video, error) {
	column, row, list, err := v.held(x.Field)
	list = slices.DeleteFunc(list, func(f records.File) bool { return !slices.Contains(videoTypes(), f.Type) })
	return &Video{Column: column, Row: row, Files: append([]records.File{}, list...)}, err
}

// Steps are the choices of a field, of which a record has one.
type Steps struct {
	Head
	Name  string `json:"name"`
	Steps []Step `json:"steps"`
}

// Step is a choice of a line of steps.
type Step struct {
	Label   string `json:"label"`
	Colour  string `json:"colour,omitempty"`
	Present bool   `json:"present,omitempty"`
}

// stepped is the field of steps with the text that reads its choice.
func (v *View) stepped(x *blueprint.StepsBlock) (*blueprint.Table, *blueprint.Field, string) {
	t := v.Seat.Blueprint.Table(v.spot().Record())
	f := t.Field(x.Field)
	return t, f, "{{ " + f.Key + " }}"
}

func stepsReads(v *View, x *blueprint.StepsBlock) ([]records.Read, error) {
	_, _, source := v.stepped(x)
	return v.reading(source)
}

func showSteps(v *View, x *blueprint.StepsBlock, got []records.Result) (*Steps, error) {
	t, f, source := v.stepped(x)
	w, err := v.filled(source, got)
	if err != nil {
		return nil, err
	}
	out := &Steps{Name: f.Name, Steps: []Step{}}
	for _, c := range ColumnOf(v.Seat.Blueprint, v.Seat.Catalog, t, f).Choices {
		present, apart := c.Label == w.Text, slices.Contains(x.Without, c.ID) // labels of a list differ
		switch {
		case present && apart:
			out.Steps = []Step{{c.Label, c.Colour, true}}
			return out, nil
		case present, !c.Retired && !apart:
			out.Steps = append(out.Steps, Step{c.Label, c.Colour, present})
		}
	}
	return out, nil
}

// Embed is a page of another site.
type Embed struct {
	Head
	Address string `json:"address"`
	Title   string `json:"title"`
	Height  int    `json:"height,omitempty"`
}

func showEmbed(_ *View, x *blueprint.EmbedBlock, _ []records.Result) (*Embed, error) {
	return &Embed{Address: x.Address, Title: x.Title, Height: x.Height}, nil
}
