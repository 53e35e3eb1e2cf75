package demo

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"slices"

	"golang.org/x/image/vector"

	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/store/files"
	"pinegate/store/records"
)

// pictured is how many boats have a photo, besides those of the first owner.
const pictured = 7

// addPhotos gives the first boats a picture each, and those of the first owner.
func addPhotos(ctx context.Context, road records.Road, seat *records.Seat, kept *files.Store) error {
	t := seat.Blueprint.Table("boat")
	photo := t.Field(fieldID("boat", "photo"))
	first := query.Selection{Table: t, Columns: []string{fieldID("boat", "kind"), fieldID("boat", "owner")}, Limit: pictured}
	rows, _, err := road.List(ctx, seat, first)
	if err != nil {
		return err
	}
	owners, _, err := road.List(ctx, seat, query.Selection{Table: seat.Blueprint.Table("own"), Limit: 1})
	if err != nil {
		return err
	}
	var owner struct{ ID string }
	if err := json.Unmarshal(owners[0], &owner); err != nil {
		return fmt.Errorf("read an owner: %w", err)
	}
	first.Narrows = []query.Narrow{{Field: fieldID("boat", "owner"), In: []string{owner.ID}}}
	theirs, _, err := road.List(ctx, seat, first)
	if err != nil {
		return err
	}
	for _, raw := range theirs {
		if !slices.ContainsFunc(rows, func(r json.RawMessage) bool { return string(r) == string(raw) }) {
			rows = append(rows, raw)
		}
	}
	random := rand.New(rand.NewPCG(4, 11))
	for i, raw := range rows {
		var row map[string]any
		if err := json.Unmarshal(raw, &row); err != nil {
			return fmt.Errorf("read a boat: %w", err)
		}
		drawn, err := draw(random, row[fieldID("boat", "kind")] == choiceID("bk", "Sailing yacht"))
		if err != nil {
			return err
		}
		file, err := kept.Put(ctx, seat.FilesFolder(), files.Wanted{Name: fmt.Sprintf("boat-%02d.png", i+1), Largest: photo.LargestFile(),
			Picture: true}, drawn)
		if err != nil {
			return err
		}
		if err := road.Receive(ctx, seat, t, photo, file); err != nil {
			return err
		}
		value, err := json.Marshal([]string{file.ID})
		if err != nil {
			return fmt.Errorf("write a photo: %w", err)
		}
		revision, _ := row["revision"].(float64)
		if _, err := road.Change(ctx, seat, t, fmt.Sprint(row["id"]), int(revision), records.Values{photo.ID: value}, nil); err != nil {
			return err
		}
	}
	return nil
}

// draw makes a picture of a boat on the water.
func draw(r *rand.Rand, sails bool) (*bytes.Buffer, error) {
	const width, height = 480, 315
	out := image.NewRGBA(image.Rect(0, 0, width, height))
	const scale = 0.75 // the points below are for 640 × 420
	shape := func(c color.RGBA, points ...float32) {
		z := vector.NewRasterizer(width, height)
		z.MoveTo(scale*points[0], scale*points[1])
		for i := 2; i < len(points); i += 2 {
			z.LineTo(scale*points[i], scale*points[i+1])
		}
		z.ClosePath()
		z.Draw(out, out.Bounds(), image.NewUniform(c), image.Point{})
	}
	for y := range height { // the sky, brighter towards the water
		shade := uint8(y * 60 / height)
		for x := range width {
			out.SetRGBA(x, y, color.RGBA{150 + shade, 185 + shade/2, 205 + shade/3, 255})
		}
	}
	shape(color.RGBA{108, 132, 118, 255}, 0, 250, 140, 205+float32(r.IntN(25)), 330, 245, 520, 215+float32(r.IntN(25)), 640, 250, 640, 300,
		0, 300)
	shape(color.RGBA{42, 111, 131, 255}, 0, 285, 640, 285, 640, 420, 0, 420)
	hulls := []color.RGBA{{30, 91, 67, 255}, {154, 52, 52, 255}, {244, 240, 228, 255}, {34, 52, 84, 255}, {184, 100, 27, 255}}
	hull := hulls[r.IntN(len(hulls))]
	if sails {
		shape(color.RGBA{70, 60, 50, 255}, 322, 60, 328, 60, 328, 285, 322, 285)
		shape(color.RGBA{250, 247, 238, 255}, 332, 70, 332, 262, 470, 262)
		shape(color.RGBA{232, 226, 210, 255}, 317, 90, 317, 262, 215, 262)
	} else {
		shape(color.RGBA{250, 247, 238, 255}, 270, 215, 400, 215, 425, 275, 255, 275)
		shape(color.RGBA{60, 84, 96, 255}, 285, 226, 390, 226, 402, 250, 276, 250)
	}
	shape(hull, 150, 275, 505, 270, 455, 330, 205, 330)
	shape(color.RGBA{250, 247, 238, 255}, 152, 275, 505, 270, 502, 277, 157, 283)
	for range 26 { // light on the water
		x, y := r.IntN(width), 250+r.IntN(60)
		for i := range 15 + r.IntN(30) {
			out.SetRGBA(x+i, y, color.RGBA{120, 170, 182, 255})
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, out); err != nil {
		return nil, fmt.Errorf("draw a boat: %w", err)
	}
	return &b, nil
}

func picture(key, name string, several bool) f {
	return f{Key: key, Name: name, Type: blueprint.Picture, FieldSettings: blueprint.FieldSettings{Several: several}}
}
