package public

import (
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"strconv"
	"strings"

	scale "golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"pinegate/core/look"
)

// Icon draws the icon of the app: its logo on the colour behind its bar, or its initials.
// What is round or has cut corners keeps all of it, as devices cut icons.
func (s Site) Icon(size int, logo image.Image) (image.Image, error) {
	b := s.Blueprint
	bar, _ := look.Bars(b.Theme, b.Look)
	ground, err := rgb(bar)
	if err != nil {
		return nil, err
	}
	out := image.NewRGBA(image.Rect(0, 0, size, size))
	if logo != nil {
		draw.Draw(out, out.Bounds(), image.White, image.Point{}, draw.Src)
		scale.CatmullRom.Scale(out, within(logo.Bounds(), size), logo, logo.Bounds(), scale.Over, nil)
		return out, nil
	}
	draw.Draw(out, out.Bounds(), image.NewUniform(ground), image.Point{}, draw.Src)
	ink := color.RGBA{255, 255, 255, 255}
	if bright(ground) {
		ink = color.RGBA{20, 20, 20, 255}
	}
	return out, letters(out, Initials(b.Name), ink)
}

// within gives where a picture stands in the middle of a square, in that part of it which
// devices leave.
func within(of image.Rectangle, size int) image.Rectangle {
	room := float64(size) * 0.66
	part := min(room/float64(max(of.Dx(), 1)), room/float64(max(of.Dy(), 1)))
	w, h := int(float64(of.Dx())*part), int(float64(of.Dy())*part)
	return image.Rect((size-w)/2, (size-h)/2, (size+w)/2, (size+h)/2)
}

// letters writes a word in the middle of a picture.
func letters(on *image.RGBA, word string, ink color.Color) error {
	size := on.Bounds().Dx()
	f, err := opentype.Parse(gobold.TTF)
	if err != nil {
		return fmt.Errorf("read the face of icons: %w", err)
	}
	face, err := opentype.NewFace(f, &opentype.FaceOptions{Size: float64(size) * 0.42, DPI: 72})
	if err != nil {
		return fmt.Errorf("read the face of icons: %w", err)
	}
	d := font.Drawer{Dst: on, Src: image.NewUniform(ink), Face: face}
	box, wide := font.BoundString(face, word)
	d.Dot = fixed.Point26_6{X: (fixed.I(size) - wide) / 2, Y: (fixed.I(size) - box.Max.Y - box.Min.Y) / 2}
	d.DrawString(word)
	return face.Close()
}

func rgb(hex string) (color.RGBA, error) {
	n, err := strconv.ParseUint(strings.TrimPrefix(hex, "#"), 16, 32)
	if err != nil {
		return color.RGBA{}, fmt.Errorf("read the colour %s: %w", hex, err)
	}
	return color.RGBA{uint8(n >> 16), uint8(n >> 8), uint8(n), 255}, nil
}

func bright(c color.RGBA) bool { return int(c.R)*3+int(c.G)*6+int(c.B) > 10*150 }
