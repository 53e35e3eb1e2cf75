// Package page composes the pages of an app for whoever looks: it decides which
// page is shown, reads all that its blocks need at once, and makes of it what is
// shown. What a kind of block reads and shows is a row in [kinds].
package page

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"pinegate/app/mark"
	"slices"
	"sync"

	"github.com/yuin/goldmark"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// View is a page that is shown to whoever sits in a seat.
type View struct {
	Seat   *records.Seat
	Road   records.Road
	Page   *blueprint.Page
	Record records.Row // of the page, or nil
	// Row is the id of the table in whose rows what is shown stands, and Hand that of the
	// record of the row; both are "" elsewhere.
	Row, Hand string
	part      *blueprint.Part          // in which what is shown stands, or nil
	given     map[string]*expr.Checked // what that is given
	prefix    string                   // of the ids by which its blocks are known
	form      *blueprint.FormBlock     // in which what is shown stands, or nil
	of        *blueprint.RoleForm      // that is shown by itself, or nil
	flow      *blueprint.FlowForm      // likewise
	answered  expr.Env                 // with the answers of that
	// Asks are what somebody asked of its blocks.
	Asks Asks
	// Unread tells that some of that could not be read at all.
	Unread bool
	// Sources tells that texts come with their placeholders, for editing them where
	// they stand.
	Sources bool

	kinds []shower
	// decided tells that whether blocks are shown is decided elsewhere.
	decided bool
	// later is what has to be read once it is known what is shown.
	later *[]func(context.Context) error
	// markdown gives what reads texts, made once for all of them and those in rows.
	markdown func() goldmark.Markdown
}

// Reasons why a page is not shown.
var (
	ErrSignIn   = errors.New("somebody has to sign in to see this page")
	ErrNotYours = errors.New("this page is not open to whoever looks")
	ErrNotNow   = errors.New("this page is not shown as things are")
)

// Open finds the page for the path and checks that it, and the record that it is
// about, are open to whoever looks. An empty path is their home page.
func Open(ctx context.Context, road records.Road, seat *records.Seat, path, record string) (*View, error) {
	b := seat.Blueprint
	p := b.PageAt(path)
	of := b.RoleForm(path)
	switch {
	case path == "":
		var err error
		if p, err = Home(ctx, road, seat); err != nil {
			return nil, err
		}
	case of != nil && of.Own:
		p = of.Page()
	}
	flow := b.FlowForm(path)
	if flow != nil && flow.Any() && flow.Flow.MayPress(seat.Viewer.Founder, seat.Viewer.Roles()) {
		p = flow.Page()
	}
	v := open(road, seat, p)
	v.flow = flow
	v.of = of
	switch {
	case p == nil && path == "" && len(b.Pages) > 0, p != nil && !seat.Viewer.MayOpen(p):
		if seat.Viewer.SignedIn() {
			return nil, ErrNotYours
		}
		return nil, ErrSignIn
	case p == nil, of != nil && !mine(seat, of, record):
		return nil, store.ErrNotFound
	case p.Record == "":
		return v, v.fits(ctx)
	case !blueprint.IsRecordID(record):
		return nil, store.ErrNotFound
	}
	columns, err := v.shown()
	if err != nil {
		return nil, err
	}
	rows, _, err := road.List(ctx, seat, query.Selection{Table: b.Table(p.Record), Columns: columns, ID: record, Limit: 1})
	if err != nil {
		return nil, err
	}
	if len(rows) == 0 {
		return nil, store.ErrNotFound
	}
	v.Record, seat.Page = rows[0], record
	return v, v.fits(ctx)
}

func open(road records.Road, seat *records.Seat, p *blueprint.Page) *View {
	return &View{Seat: seat, Road: road, Page: p, kinds: kinds(), markdown: sync.OnceValue(mark.Reader)}
}

// fits gives [ErrNotNow] where the page is not shown to whoever looks, as things are.
func (v *View) fits(ctx context.Context) error {
	fit, err := fitting(ctx, v.Road, v.Seat, []*blueprint.Page{v.Page})
	if err == nil && len(fit) == 0 {
		return ErrNotNow
	}
	return err
}

// shown lists the fields of the page's record that blocks show and whoever looks
// sees; what is not shown is not computed. Texts read what they need by themselves.
func (v *View) shown() ([]string, error) {
	var out []string
	err := v.each(v.Page.Blocks, func(_ *View, x blueprint.Block) error {
		r, err := v.rowOf(x)
		if err != nil || r.fields == nil {
			return err
		}
		for _, id := range r.fields(x) {
			sees, err := v.Seat.Sees(v.Page.Record, id)
			if err != nil {
				return err
			}
			if sees && v.Seat.Blueprint.Table(v.Page.Record).Field(id) != nil && !slices.Contains(out, id) {
				out = append(out, id)
			}
		}
		return nil
	})
	return out, err
}

// Block is a block as it is shown.
type Block interface{ head() *Head }

// Head is what every shown block has.
type Head struct {
	ID    string `json:"id"`
	Kind  string `json:"kind"`
	Width string `json:"width,omitempty"`
	Tone  string `json:"tone,omitempty"`
	// While and Reacts are of blocks in parts.
	While  *While     `json:"while,omitempty"`
	Reacts []Reaction `json:"reacts,omitempty"`
}

func (v *View) headOf(b blueprint.Block) Head {
	x := b.Self()
	out := Head{ID: v.known(b), Kind: x.Kind, Width: string(x.Width), Tone: string(x.Tone)}
	if v.part != nil && x.While != "" {
		out.While = &While{x.While, x.Is}
	}
	if v.part != nil && len(x.Reacts) > 0 {
		out.Reacts = reactions(x.Reacts)
	}
	return out
}

func (h *Head) head() *Head { return h }

// Divider is a line across the page.
type Divider struct{ Head }

// shower is how a kind of block is shown: what it reads, and what it makes of
// that. Showing reads nothing more.
type shower struct {
	kind  string
	reads func(v *View, x blueprint.Block) ([]records.Read, error)
	show  func(v *View, x blueprint.Block, got []records.Result) (Block, error)
	blank Block // what is shown, for the description of the API
	// fields are those of the page's record that it shows; nil where it shows none.
	fields func(x blueprint.Block) []string
}

// row makes the row of a kind. The types say which one it is.
func row[X blueprint.Block, S Block](kind string, blank S, reads func(*View, X) ([]records.Read, error),
	show func(*View, X, []records.Result) (S, error)) shower {
	return shower{kind,
		func(v *View, x blueprint.Block) ([]records.Read, error) { return reads(v, x.(X)) },
		func(v *View, x blueprint.Block, got []records.Result) (Block, error) { return show(v, x.(X), got) }, blank, nil}
}

// ofRecord adds to the row of a kind which fields of the page's record it shows.
func ofRecord[X blueprint.Block](r shower, fields func(X) []string) shower {
	r.fields = func(x blueprint.Block) []string { return fields(x.(X)) }
	return r
}

// kinds has the row of each kind of block. Views hold on to them, as blocks can hold
// others.
func kinds() []shower {
	return []shower{
		row("heading", &Heading{}, headingReads, showHeading),
		row("text", &Text{}, textReads, showText),
		row("records", &Records{}, recordsReads, showRecords),
		ofRecord(row("details", &Details{}, detailsReads, showDetails), detailFields),
		ofRecord(row("form", &Form{}, nothing[*blueprint.FormBlock], showForm), formFields),
		ofRecord(row("calculator", &Calculator{}, nothing[*blueprint.FormBlock], showCalculator), formFields),
		row("result", &Result{}, nothing[*blueprint.ResultBlock], showResult),
		row("course", &Course{}, nothing[*blueprint.CourseBlock], showCourse),
		row("button", &Button{}, buttonReads, showButton),
		row("group", &Group{}, groupReads, showGroup),
		row("part", &Part{}, partReads, showPart),
		row("keep", &Keep{}, nothing[*blueprint.KeepBlock], showKeep),
		ofRecord(row("picture", &Picture{}, nothing[*blueprint.PictureBlock], showPicture),
			func(x *blueprint.PictureBlock) []string { return []string{x.Field} }),
		ofRecord(row("video", &Video{}, nothing[*blueprint.VideoBlock], showVideo),
			func(x *blueprint.VideoBlock) []string { return []string{x.Field} }),
		row("steps", &Steps{}, stepsReads, showSteps),
		row("embed", &Embed{}, nothing[*blueprint.EmbedBlock], showEmbed),
		row("service", &Service{}, nothing[*blueprint.ServiceBlock], showService),
		row("bar", &Bar{}, barReads, showBar),
		row("badges", &Badges{}, badgesReads, showBadges),
		row("figure", &Figure{}, figureReads, showFigure),
		row("chart", &Chart{}, chartReads, showChart),
		row("timer", &Timer{}, timerReads, showTimer),
		row("checklist", &Checklist{}, checklistReads, showChecklist),
		row("divider", &Divider{}, nothing[*blueprint.DividerBlock], showDivider),
	}
}

func showDivider(*View, *blueprint.DividerBlock, []records.Result) (*Divider, error) {
	return &Divider{}, nil
}

// rowOf gives the row of the kind of a block.
func (v *View) rowOf(x blueprint.Block) (shower, error) {
	for _, r := range v.kinds {
		if r.kind == x.Self().Kind {
			return r, nil
		}
	}
	return shower{}, fmt.Errorf("show a block: there is no kind %q", x.Self().Kind)
}

// Kinds lists the kinds of block with an empty one of each as it is shown.
func Kinds(yield func(kind string, blank Block) bool) {
	for _, r := range kinds() {
		if !yield(r.kind, r.blank) {
			return
		}
	}
}

// nothing is what a block reads that needs only the page's record.
func nothing[X blueprint.Block](*View, X) ([]records.Read, error) { return nil, nil }

// Blocks gives the blocks of the page that are shown. All that they read, and their
// conditions, is read at once.
func (v *View) Blocks(ctx context.Context) ([]Block, error) { return v.all(ctx, v.Page.Blocks) }

func (v *View) all(ctx context.Context, blocks blueprint.Blocks) ([]Block, error) {
	reads, shares, err := v.reads(blocks)
	if err != nil {
		return nil, err
	}
	got, err := v.Road.Batch(ctx, v.Seat, reads)
	if err != nil {
		return nil, err
	}
	var later []func(context.Context) error
	v.later = &later
	out, err := v.show(blocks, shares, &got)
	for i := 0; i < len(later) && err == nil; i++ {
		err = later[i](ctx)
	}
	return out, err
}

// reads lists what blocks and those that they hold read, and how many of that each block
// reads besides its condition.
func (v *View) reads(blocks blueprint.Blocks) ([]records.Read, map[string]int, error) {
	var out []records.Read
	shares := map[string]int{}
	for x := range blocks.Apart {
		r, err := v.rowOf(x)
		if err != nil {
			return nil, nil, err
		}
		more, err := r.reads(v, x)
		if err != nil {
			return nil, nil, err
		}
		when, err := v.when(x)
		if err != nil {
			return nil, nil, err
		}
		out = append(append(out, when...), more...)
		shares[x.Self().ID] = len(more)
	}
	return out, shares, nil
}

// when gives what the condition of a block reads.
func (v *View) when(x blueprint.Block) ([]records.Read, error) {
	if v.decided {
		return nil, nil
	}
	c, err := v.Seat.Blueprint.When(v.spot(), x.Self().When, v.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read when a block on %s is shown: %w", v.Page.Name, err)
	}
	if c == nil {
		return nil, nil
	}
	return []records.Read{v.texts(v.bound(c))}, nil
}

// show makes what is shown of blocks, in the order in which they were read.
func (v *View) show(blocks blueprint.Blocks, shares map[string]int, got *[]records.Result) ([]Block, error) {
	out := []Block{}
	for _, x := range blocks {
		there := true
		if x.Self().When != "" && !v.decided {
			said := (*got)[0].Texts[0]
			there, *got = said != nil && *said == query.Yes, (*got)[1:]
		}
		share := (*got)[:shares[x.Self().ID]]
		*got = (*got)[len(share):]
		var inside []Block
		var err error
		h, holds := blueprint.Together(x)
		if holds { // also of one that is not there, to get past its shares
			if inside, err = v.show(*h.Inside(), shares, got); err != nil {
				return nil, err
			}
		}
		if !there {
			continue
		}
		r, err := v.rowOf(x)
		if err != nil {
			return nil, err
		}
		shown, err := r.show(v, x, share)
		if err != nil {
			return nil, err
		}
		*shown.head() = v.headOf(x)
		if holds {
			shown.(holder).hold(inside)
		}
		out = append(out, shown)
	}
	return out, nil
}

// holder is a shown block that holds blocks.
type holder interface{ hold(inside []Block) }

// template checks a text with placeholders.
func (v *View) template(source string) (expr.Template, error) {
	t, err := v.Seat.Blueprint.Template(v.spot(), source, v.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read a text of the page %s: %w", v.Page.Name, err)
	}
	if v.part != nil {
		t = t.Bind(v.given)
	}
	if v.form != nil {
		t = t.Fold(v.Seat.Catalog, v.answered)
	}
	return t, nil
}

// reading is what a text with placeholders needs to be read.
func (v *View) reading(source string) ([]records.Read, error) {
	t, err := v.template(source)
	if err != nil || len(t.Checked()) == 0 {
		return nil, err
	}
	return []records.Read{v.texts(t.Checked()...)}, nil
}

// texts reads expressions over the page's record.
func (v *View) texts(of ...*expr.Checked) records.Read {
	return records.Read{Texts: of, Table: v.Seat.Blueprint.Table(cmp.Or(v.Row, v.Page.Record)), ID: v.hand()}
}

// filled gives a text with what was read for its placeholders.
func (v *View) filled(source string, got []records.Result) (Words, error) {
	return v.filledBy(source, got, func(text string) string { return text })
}

// filledBy is filled with each of what was read written in a way.
func (v *View) filledBy(source string, got []records.Result, write func(string) string) (Words, error) {
	t, err := v.template(source)
	if err != nil {
		return Words{}, err
	}
	texts := make([]string, len(t.Checked()))
	for i := range texts {
		if text := got[0].Texts[i]; text != nil {
			texts[i] = write(*text)
		}
	}
	out := Words{Text: t.Text(texts)}
	if v.Sources {
		out.Source = source
	}
	return out, nil
}

// Words are a text as it is shown. Source is the text with its placeholders, for
// editing where it stands.
type Words struct {
	Text   string `json:"text"`
	Source string `json:"source,omitempty"`
}

func (v *View) spot() blueprint.Spot {
	return blueprint.Spot{Page: v.Page, Row: v.Row, Part: v.part, Form: v.form}
}

// hand gives the id of the record in hand, or "".
func (v *View) hand() string {
	if v.Row != "" {
		return v.Hand
	}
	return v.Seat.Page
}

// target gives where a page is, about the record in hand where it needs one; nil
// when whoever looks may not open it.
func (v *View) target(id string) *Target {
	p := v.Seat.Blueprint.Page(id)
	if p == nil || !v.Seat.Viewer.MayOpen(p) {
		return nil
	}
	t := &Target{Path: p.Path}
	if p.Record != "" {
		t.Record = v.hand()
	}
	return t
}

// errColumn refuses what is asked of a column that is not shown, or cannot be
// asked; all are answered alike.
func errColumn() error { return words.New("no-such-column") }
