package demo

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"math"
	"math/rand/v2"

	"golang.org/x/image/vector"

	"pinegate/app/act"
	"pinegate/core/blueprint"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/files"
)

// addScene puts a picture of the yard's bay into the banner of its home, and behind the sign-in.
func addScene(ctx context.Context, a *apps.Apps, kept *files.Store, app store.App, by string) error {
	drawn, err := bay()
	if err != nil {
		return err
	}
	wanted := files.Wanted{Name: "bay.jpg", Largest: blueprint.DefaultLargest << 20, Picture: true}
	file, err := kept.Put(ctx, apps.PicturesFolder(app), wanted, drawn)
	if err != nil {
		return err
	}
	if err := a.AddPicture(ctx, app, file); err != nil {
		return err
	}
	acts, err := act.New(a)
	if err != nil {
		return err
	}
	banner := Blueprint().Page("p_home").Blocks[0].Self().ID
	_, err = acts.Apply(ctx, app.ID, by, blueprint.Setting(banner, "picture", file.ID), blueprint.Setting("app", "look.behind", file.ID))
	return err
}

// scene is what is drawn upon.
type scene struct {
	*image.RGBA
	random *rand.Rand
}

// shape fills a polygon; its points are x and y in turns.
func (s scene) shape(c color.RGBA, points ...float64) {
	var at image.Rectangle // only where it is: shapes are many, and small
	for i := 0; i < len(points); i += 2 {
		x, y := int(math.Floor(points[i])), int(math.Floor(points[i+1]))
		at = at.Union(image.Rect(x, y, x+2, y+2))
	}
	at = at.Intersect(s.Rect)
	z := vector.NewRasterizer(at.Dx(), at.Dy())
	to := func(i int) (x, y float32) {
		return float32(points[i] - float64(at.Min.X)), float32(points[i+1] - float64(at.Min.Y))
	}
	z.MoveTo(to(0))
	for i := 2; i < len(points); i += 2 {
		z.LineTo(to(i))
	}
	z.ClosePath()
	z.Draw(s, at, image.NewUniform(c), image.Point{})
}

// hills draws a ridge from one side to the other.
func (s scene) hills(c color.RGBA, foot, height, length, from float64) {
	points := []float64{0, foot}
	for x := 0.0; x <= float64(s.Rect.Dx()); x += 8 {
		up := math.Sin(x/length+from)*0.5 + math.Sin(x/length*2.3+from*2)*0.3 + 0.9
		points = append(points, x, foot-height*up)
	}
	s.shape(c, append(points, float64(s.Rect.Dx()), foot)...)
}

// yacht draws one at anchor, of a size.
func (s scene) yacht(x, y, size float64, hull color.RGBA) {
	at := func(points ...float64) []float64 {
		for i := range points {
			points[i] = points[i]*size + []float64{x, y}[i%2]
		}
		return points
	}
	s.shape(color.RGBA{62, 58, 66, 255}, at(0.02, -1.75, 0.05, -1.75, 0.05, -0.1, 0.02, -0.1)...)
	s.shape(color.RGBA{246, 232, 208, 255}, at(0.09, -1.65, 0.09, -0.25, 0.72, -0.25)...)
	s.shape(color.RGBA{226, 205, 180, 255}, at(-0.03, -1.45, -0.03, -0.25, -0.5, -0.25)...)
	s.shape(hull, at(-0.8, -0.15, 0.9, -0.18, 0.68, 0.12, -0.58, 0.12)...)
	for i := range 5 { // what the water shows of it
		d := 0.2 + float64(i)*0.09
		s.shape(color.RGBA{hull.R/2 + 30, hull.G/2 + 50, hull.B/2 + 60, 255}, at(-0.55+d*0.7, d, 0.62-d*0.5, d, 0.6-d*0.5, d+0.03, -0.5+d*0.7, d+0.03)...)
	}
}

// bay draws the bay in the evening: hills, water, yachts at anchor, and the jetty.
func bay() (*bytes.Buffer, error) {
	const width, height, water = 1600, 760, 400
	s := scene{image.NewRGBA(image.Rect(0, 0, width, height)), rand.New(rand.NewPCG(7, 21))}
	mix := func(a, b, part float64) uint8 { return uint8(a + (b-a)*part) }
	for y := range height {
		part, from, to := float64(y)/water, [3]float64{74, 112, 150}, [3]float64{247, 204, 158}
		if y >= water {
			part, from, to = float64(y-water)/(height-water), [3]float64{196, 170, 150}, [3]float64{20, 62, 84}
			part = math.Sqrt(part)
		}
		for x := range width {
			s.SetRGBA(x, y, color.RGBA{mix(from[0], to[0], part), mix(from[1], to[1], part), mix(from[2], to[2], part), 255})
		}
	}
	s.hills(color.RGBA{120, 128, 150, 255}, water, 120, 190, 0.4)
	s.hills(color.RGBA{84, 104, 122, 255}, water, 70, 120, 2.2)
	s.hills(color.RGBA{50, 80, 86, 255}, water, 34, 70, 4.0)
	for range 900 { // light on the water
		y := water + 4 + math.Pow(s.random.Float64(), 1.6)*(height-water-8)
		x, long := s.random.Float64()*width, (y-water)/9+6
		s.shape(color.RGBA{mix(238, 60, (y-water)/(height-water)), mix(206, 118, (y-water)/(height-water)), 150, 255}, x, y, x+long, y-0.6, x+long, y+0.9)
	}
	for i, x := range []float64{180, 520, 905, 1190, 1440} {
		hulls := []color.RGBA{{30, 66, 92, 255}, {150, 60, 48, 255}, {238, 232, 218, 255}, {34, 92, 74, 255}, {52, 52, 62, 255}}
		size := 46 + s.random.Float64()*46
		s.yacht(x, water+20+size*0.9, size, hulls[i])
	}
	for i := range 4 { // the jetty on its piles
		x := 1180 + float64(i)*118
		s.shape(color.RGBA{50, 40, 36, 255}, x, 640, x+16, 640, x+16, 740, x, 740)
	}
	s.shape(color.RGBA{92, 72, 58, 255}, 1130, 628, 1600, 612, 1600, 646, 1130, 646)
	var b bytes.Buffer
	if err := jpeg.Encode(&b, s, &jpeg.Options{Quality: 82}); err != nil {
		return nil, fmt.Errorf("draw the bay: %w", err)
	}
	return &b, nil
}
