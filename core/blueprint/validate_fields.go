package blueprint

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"pinegate/core/expr"
)

var colourPattern = regexp.MustCompile(`^#[0-9A-Fa-f]{6}$`)
var picturePattern = regexp.MustCompile(`^[0-9a-f-]{36}$`)
var currencyPattern = regexp.MustCompile(`^[A-Z]{3}$`)

func (b *Blueprint) checkFields(t *Table) error {
	var names, keys []string
	for i := range t.Fields {
		f := &t.Fields[i]
		if err := checkName("A field", f.Name); err != nil {
			return err
		}
		if !keyPattern.MatchString(f.Key) || slices.Contains(systemColumns(), f.Key) || expr.Reserved(f.Key) {
			return problem("%q cannot be the key of a field.", f.Key)
		}
		names, keys = append(names, f.Name), append(keys, f.Key)
		if !slices.Contains(FieldTypes(), f.Type) {
			return problem("There is no type %q for a field.", f.Type)
		}
		for _, check := range []func(*Table, *Field) error{b.checkTargets, b.checkNumbers, b.checkComputed} {
			if err := check(t, f); err != nil {
				return err
			}
		}
	}
	if err := unique("fields of "+t.Name, names); err != nil {
		return err
	}
	if err := unique("field keys", keys); err != nil {
		return err
	}
	return b.checkUniques(t)
}

// checkTargets checks what choices and links of a field refer to.
func (b *Blueprint) checkTargets(t *Table, f *Field) error {
	choice, link := f.Type == Choose || f.Type == ChooseMany, f.Type == Link || f.Type == Links
	if choice != (f.List != "") || f.List != "" && b.List(f.List) == nil {
		return problem("Say which choice list %s of %s takes its choices from.", f.Name, t.Name)
	}
	if link != (f.Target != "") || f.Target != "" && b.Table(f.Target) == nil {
		return problem("Say which table %s of %s links to.", f.Name, t.Name)
	}
	if f.Of == "" {
		return nil
	}
	of := b.Table(f.Target).Field(f.Of)
	if f.Type != Links || of == nil || of.Target != t.ID || of.Of != "" || of.Type != Link && of.Type != Links {
		return problem("Say which link of %s %s of %s is the other side of.", b.Table(f.Target).Name, f.Name, t.Name)
	}
	for _, other := range t.Fields {
		if other.Of == f.Of && other.ID != f.ID {
			return problem("%s and %s of %s are the other side of the same link; keep one.", other.Name, f.Name, t.Name)
		}
	}
	return nil
}

// checkNumbers checks limits, decimals, currency and auto numbers.
func (b *Blueprint) checkNumbers(t *Table, f *Field) error {
	where := fmt.Sprintf("%s of %s", f.Name, t.Name)
	var limits []decimal.Decimal
	for _, limit := range []string{f.Least, f.Most} {
		if limit == "" {
			continue
		}
		d, err := decimal.NewFromString(limit)
		if err != nil || len(limit) > 40 {
			return problem("A limit of %s must be a number, such as 12.5.", where)
		}
		limits = append(limits, d)
	}
	switch {
	case len(limits) > 0 && !f.Type.Numeric():
		return problem("%s is no number, so it has no least and greatest value.", where)
	case len(limits) == 2 && limits[0].GreaterThan(limits[1]):
		return problem("The least value of %s is above the greatest.", where)
	case f.MaxLength != 0 && (!f.Type.Textual() || f.MaxLength < 1 || f.MaxLength > 100_000):
		return problem("%s can be limited to between 1 and 100,000 characters, if it is a text.", where)
	case f.Decimals != nil && (!f.Type.Numeric() && !f.Type.Computed() || *f.Decimals < 0 || *f.Decimals > 12):
		return problem("%s can have between 0 and 12 decimal places, if it is a number.", where)
	case len(f.Unit) > 20:
		return problem("The unit of %s may have at most 20 characters.", where)
	case f.Currency != "" && !currencyPattern.MatchString(f.Currency), f.Type == Money && f.Currency == "":
		return problem("The currency of %s must be a code of three capitals, such as EUR.", where)
	case f.Largest != 0 && (!f.Type.Filed() || f.Largest < 1 || f.Largest > MostLargest):
		return problem("Files of %s can be limited to between 1 and %d megabytes each.", where, MostLargest)
	case f.Width < 0 || f.Width > 12 || f.First < 0 || len(f.Prefix) > 20 || strings.ContainsAny(f.Prefix, "\x00\n"):
		return problem("An auto number has a prefix of at most 20 characters, at most 12 digits and a first number that is not below zero.")
	}
	return b.checkKept(where, f)
}

// checkKept refuses settings for values that nobody enters.
func (b *Blueprint) checkKept(where string, f *Field) error {
	switch {
	case f.Type.Entered():
	case f.Required:
		return problem("%s fills itself in, so it cannot be required.", where)
	case f.Default != "":
		return problem("%s fills itself in, so it has no default.", where)
	}
	if f.Unique && !Uniqueable(f.Type) {
		return problem("%s cannot be unique: only values that are kept one to a record can.", where)
	}
	if f.Default != "" && (f.Type == Links || f.Type == ChooseMany || f.Type.Filed()) {
		return problem("%s holds several values or files, so it has no default.", where)
	}
	return nil
}

// Uniqueable tells whether values of the type can be kept from being in two
// records.
func Uniqueable(t FieldType) bool {
	return t.Entered() && t != Links && t != ChooseMany && !t.Filed() && t != LongText && t != RichText || t == AutoNumber
}

func (b *Blueprint) checkUniques(t *Table) error {
	for _, set := range t.Uniques {
		if len(set) < 2 || len(set) > 8 {
			return problem("Name two to eight fields of %s that are unique together.", t.Name)
		}
		for i, id := range set {
			f := t.Field(id)
			if f == nil || slices.Contains(set[:i], id) {
				return problem("Name two to eight fields of %s that are unique together.", t.Name)
			}
			if !Uniqueable(f.Type) {
				return problem("%s of %s cannot be unique: only values that are kept one to a record can.", f.Name, t.Name)
			}
		}
	}
	return nil
}

// checkComputed checks what lookups, roll-ups and formulas are made of.
func (b *Blueprint) checkComputed(t *Table, f *Field) error {
	where := fmt.Sprintf("%s of %s", f.Name, t.Name)
	switch f.Type {
	case Formula:
		if strings.TrimSpace(f.Formula) == "" {
			return problem("Write the formula of %s.", where)
		}
		return nil
	case Lookup, RollUp:
	default:
		return nil
	}
	via := t.Field(f.Via)
	if via == nil || f.Type == Lookup && via.Type != Link || f.Type == RollUp && via.Type != Links {
		if f.Type == RollUp {
			return problem("Say through which links %s totals. If %s has none, add links first, or show the other side of a link to it.", where, t.Name)
		}
		return problem("Say through which link %s looks. If %s has none, add a link first.", where, t.Name)
	}
	if f.Type == RollUp && !slices.Contains(Totals(), f.Total) {
		return problem("Say what %s makes of the records.", where)
	}
	if f.Type == RollUp && f.Total == CountTotal {
		return nil
	}
	if take := b.Table(via.Target).Field(f.Take); take == nil || take.Type.Filed() {
		return problem("Say which field of %s %s takes.", b.Table(via.Target).Name, where)
	}
	return nil
}

// checkTypes tells of computed fields whose type cannot be found.
func (b *Blueprint) checkTypes() error {
	catalog := b.Catalog()
	for _, t := range b.Tables {
		for _, f := range catalog.Tables[t.ID].Fields {
			var e *expr.Error
			if err := f.Err(); err != nil {
				e, _ = err.(*expr.Error)
				return &Problem{Message: fmt.Sprintf("%s of %s: %s", f.Name, t.Name, err.Error()), Cause: e}
			}
		}
	}
	return nil
}

func (b *Blueprint) checkLists() error {
	var names []string
	for i := range b.Lists {
		l := &b.Lists[i]
		if err := checkName("A choice list", l.Name); err != nil {
			return err
		}
		names = append(names, l.Name)
		var labels []string
		for _, c := range l.Choices {
			if err := checkName("A choice", c.Label); err != nil {
				return err
			}
			labels = append(labels, c.Label)
			if err := l.checkValues(c); err != nil {
				return err
			}
		}
		if err := unique("choices of "+l.Name, labels); err != nil {
			return err
		}
		if err := l.checkColumns(); err != nil {
			return err
		}
	}
	return unique("choice lists", names)
}

func (l *ChoiceList) checkColumns() error {
	var names []string
	for _, col := range l.Columns {
		if err := checkName("A column", col.Name); err != nil {
			return err
		}
		if !keyPattern.MatchString(col.Key) || expr.Reserved(col.Key) {
			return problem("%q cannot be the key of a column.", col.Key)
		}
		if !slices.Contains(ColumnTypes(), col.Type) {
			return problem("There is no type %q for a column of a choice list.", col.Type)
		}
		names = append(names, col.Name)
	}
	return unique("columns of "+l.Name, names)
}

func (l *ChoiceList) checkValues(c Choice) error {
	for id, text := range c.Values {
		i := slices.IndexFunc(l.Columns, func(x ListColumn) bool { return x.ID == id })
		if i < 0 {
			return problem("The choice %s has a value for a column that is not there.", c.Label)
		}
		if _, ok := columnValue(l.Columns[i].Type, text); !ok {
			return problem("%q cannot stand in the column %s of %s, which holds %s.", text, l.Columns[i].Name, l.Name, map[ColumnType]string{
				TextColumn: "texts of at most 500 characters", NumberColumn: "numbers such as 12.5", YesNoColumn: "yes or no", ColourColumn: "colours such as #1E5B43", PictureColumn: "pictures"}[l.Columns[i].Type])
		}
	}
	return nil
}
