// Package png paints sheets as pictures, where a program shows neither PDF nor SVG.
package png

import (
	"bytes"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"math"

	"golang.org/x/image/vector"

	"hammerset/core/sheet"
	"hammerset/formats/lettering"
)

// DPI is how many pixels an inch of paper has.
const DPI = 200

// painter paints onto a picture, in pixels from its upper left corner.
type painter struct {
	img    *image.RGBA
	font   *lettering.Font
	scale  float64 // pixels for a millimetre
	height float64 // of the paper, mm
}

// Sheet paints a drawing in its true size at DPI, ink on white paper.
func Sheet(d *sheet.Drawing, font *lettering.Font) ([]byte, error) {
	const scale = DPI / 25.4
	size := image.Rect(0, 0, int(math.Ceil(d.Width*scale)), int(math.Ceil(d.Height*scale)))
	p := &painter{image.NewRGBA(size), font, scale, d.Height}
	draw.Draw(p.img, p.img.Bounds(), image.White, image.Point{}, draw.Src)
	for _, it := range d.Items {
		p.item(it)
	}
	var out bytes.Buffer
	if err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&out, p.img); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// ink is the colour of lines and letters, as in the other formats.
func ink() color.Color { return color.RGBA{0x1d, 0x2a, 0x35, 0xff} }

// item paints one piece of a drawing.
func (p *painter) item(it sheet.Item) {
	switch it.Kind {
	case "text":
		runs := p.font.Runs(it.Text, it.Height, it.Anchor, it.Turn, it.Points[0])
		if it.Class == sheet.Dimension {
			p.fill([][][2]float64{blank(it, p.font.Width(it.Text, it.Height))}, color.White)
		}
		p.fill(runs, ink())
	case "fill":
		run := make([][2]float64, len(it.Points))
		for i, q := range it.Points {
			run[i] = q
		}
		p.fill([][][2]float64{run}, ink())
	case "arc":
		n := max(8, int(math.Abs(it.Sweep)*math.Sqrt(it.Radius*p.scale)*2))
		run := make([][2]float64, n+1)
		for i := range run {
			s, c := math.Sincos(it.Start + it.Sweep*float64(i)/float64(n))
			run[i] = [2]float64{it.Centre[0] + it.Radius*c, it.Centre[1] + it.Radius*s}
		}
		p.stroke(run, it)
	default:
		run := make([][2]float64, len(it.Points))
		for i, q := range it.Points {
			run[i] = q
		}
		p.stroke(run, it)
	}
}

// blank is what keeps hatching and lines off the text of a dimension.
func blank(it sheet.Item, width float64) [][2]float64 {
	const pad = 0.4
	back := map[string]float64{"middle": width / 2, "end": width}[it.Anchor]
	s, c := math.Sincos(it.Turn)
	corner := func(x, y float64) [2]float64 {
		return [2]float64{it.Points[0][0] + (x-back)*c - y*s, it.Points[0][1] + (x-back)*s + y*c}
	}
	return [][2]float64{corner(-pad, -pad), corner(width+pad, -pad), corner(width+pad, it.Height+pad),
		corner(-pad, it.Height+pad)}
}

// stroke paints a line as wide as its item is, in its dashes.
func (p *painter) stroke(run [][2]float64, it sheet.Item) {
	var pieces [][][2]float64
	for _, dash := range dashed(run, it.Dash) {
		for i := 1; i < len(dash); i++ {
			pieces = append(pieces, bar(dash[i-1], dash[i], it.Width/2))
		}
	}
	p.fill(pieces, ink())
}

// bar is the area around a straight piece of a line, with round ends, counter-clockwise.
func bar(a, b [2]float64, half float64) [][2]float64 {
	const ends = 6
	t := math.Atan2(b[1]-a[1], b[0]-a[0])
	var out [][2]float64
	for i, at := range [][2]float64{b, a} {
		for k := range ends + 1 {
			s, c := math.Sincos(t - math.Pi/2 + math.Pi*float64(i) + math.Pi*float64(k)/ends)
			out = append(out, [2]float64{at[0] + half*c, at[1] + half*s})
		}
	}
	return out
}

// dashed cuts a line into its dashes, which alternate with gaps.
func dashed(run [][2]float64, dashes []float64) [][][2]float64 {
	if len(dashes) == 0 {
		return [][][2]float64{run}
	}
	var out [][][2]float64
	k, left := 0, dashes[0]
	for i := 1; i < len(run); i++ {
		a, b := run[i-1], run[i]
		length := math.Hypot(b[0]-a[0], b[1]-a[1])
		for at := 0.0; at < length; {
			to := math.Min(length, at+left)
			if k%2 == 0 {
				on := func(u float64) [2]float64 {
					return [2]float64{a[0] + (b[0]-a[0])*u/length, a[1] + (b[1]-a[1])*u/length}
				}
				out = append(out, [][2]float64{on(at), on(to)})
			}
			if left -= to - at; left < 1e-9 {
				k = (k + 1) % len(dashes)
				left = dashes[k]
			}
			at = to
		}
	}
	return out
}

// fill paints areas that are given by closed runs on the paper. Areas of one turning sense that overlap are one; runs
// of the other sense are holes.
func (p *painter) fill(runs [][][2]float64, c color.Color) {
	lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	for _, r := range runs {
		for _, q := range r {
			x, y := q[0]*p.scale, (p.height-q[1])*p.scale
			lo, hi = [2]float64{min(lo[0], x), min(lo[1], y)}, [2]float64{max(hi[0], x), max(hi[1], y)}
		}
	}
	if lo[0] > hi[0] {
		return
	}
	box := image.Rect(int(math.Floor(lo[0])), int(math.Floor(lo[1])), int(math.Ceil(hi[0]))+1, int(math.Ceil(hi[1]))+1)
	z := vector.NewRasterizer(box.Dx(), box.Dy())
	on := func(q [2]float64) (float32, float32) {
		return float32(q[0]*p.scale) - float32(box.Min.X), float32((p.height-q[1])*p.scale) - float32(box.Min.Y)
	}
	for _, r := range runs {
		z.MoveTo(on(r[0]))
		for _, q := range r[1:] {
			z.LineTo(on(q))
		}
		z.ClosePath()
	}
	z.Draw(p.img, box, image.NewUniform(c), image.Point{})
}
