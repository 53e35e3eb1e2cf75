package main

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"sort"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/query"
	"pinegate/store"
)

// evalCommand computes expressions, one a line.
func evalCommand() *cobra.Command {
	var o options
	var backend string
	c := &cobra.Command{Use: "eval", Short: "Compute expressions, given as JSON lines on standard input", Args: cobra.NoArgs,
		Long: `Each line is an object such as
{"fields": {"price": {"type": "number", "value": "12.50"}}, "expression": "price * 2", "today": "2026-03-01"}
and is answered by {"type": …, "value": …} or {"error": {"message": …, "at": …, "suggestion": …}}.
Types are text, number, yes/no, date and time stamp. "zone" may name a time zone.`,
		RunE: func(c *cobra.Command, _ []string) (err error) {
			e := &evaluation{backend: backend}
			if backend == "sql" || backend == "both" {
				s, _, closeStore, err := o.open(c.Context())
				if err != nil {
					return err
				}
				defer func() { err = errors.Join(err, closeStore()) }()
				e.store = s
			} else if backend != "go" {
				return errors.New("--backend is go, sql or both")
			}
			return e.run(c.Context(), c.InOrStdin(), c.OutOrStdout())
		}}
	c.Flags().StringVar(&backend, "backend", "go", "what computes: go, sql, or both, which compares")
	c.Flags().StringVar(&o.data, "data", "data", "folder that holds all data")
	c.Flags().StringVar(&o.database, "database", "", "address of a PostgreSQL database")
	return c
}

type evaluation struct {
	backend string
	store   *store.Store
}

type evalLine struct {
	Fields map[string]struct {
		Type  string          `json:"type"`
		Value json.RawMessage `json:"value"`
	} `json:"fields"`
	Expression string `json:"expression"`
	Today      string `json:"today"`
	Zone       string `json:"zone"`
}

type evalError struct {
	Message    string     `json:"message"`
	At         *expr.Span `json:"at,omitempty"`
	Suggestion string     `json:"suggestion,omitempty"`
}

type evalAnswer struct {
	Type  string     `json:"type,omitempty"`
	Value any        `json:"value"`
	Error *evalError `json:"error,omitempty"`
}

func (e *evaluation) run(ctx context.Context, in io.Reader, out io.Writer) error {
	lines := bufio.NewScanner(in)
	lines.Buffer(nil, 64<<20)
	w := json.NewEncoder(out)
	w.SetEscapeHTML(false)
	for lines.Scan() {
		if strings.TrimSpace(lines.Text()) == "" {
			continue
		}
		answer, err := e.answer(ctx, lines.Bytes())
		if err != nil {
			return err
		}
		if answer.Error != nil {
			err = w.Encode(map[string]any{"error": answer.Error})
		} else {
			err = w.Encode(map[string]any{"type": answer.Type, "value": answer.Value})
		}
		if err != nil {
			return fmt.Errorf("write answer: %w", err)
		}
	}
	return lines.Err()
}

func wrong(format string, args ...any) evalAnswer {
	return evalAnswer{Error: &evalError{Message: fmt.Sprintf(format, args...)}}
}

const evalTable = "t"

func (e *evaluation) answer(ctx context.Context, raw []byte) (evalAnswer, error) {
	var line evalLine
	if err := json.Unmarshal(raw, &line); err != nil {
		return wrong("This line is not well-formed JSON: %v.", err), nil
	}
	clock, err := line.clock()
	if err != nil {
		return wrong("%v", err), nil
	}
	catalog, values, err := line.values()
	if err != nil {
		return wrong("%v", err), nil
	}
	checked, err := expr.Check(line.Expression, expr.Scope{Catalog: catalog, Row: evalTable})
	var mistake *expr.Error
	if errors.As(err, &mistake) {
		message, suggestion := mistake.Parts()
		return evalAnswer{Error: &evalError{message, &mistake.At, suggestion}}, nil
	}
	answer := evalAnswer{Type: string(checked.Type().Kind)}
	texts := map[string]string{}
	if e.backend != "sql" {
		v := expr.Eval(checked, catalog, evalEnv{values, clock})
		texts["go"] = v.String()
	}
	if e.backend != "go" {
		stmt, err := query.BuildEval(catalog, evalTable, values, checked, clock)
		if err != nil {
			return answer, err
		}
		var got *string
		if err := e.store.Pool.QueryRow(ctx, stmt.SQL, stmt.Args...).Scan(&got); err != nil {
			return answer, fmt.Errorf("compute %s: %w", line.Expression, err)
		}
		texts["sql"] = ""
		if got != nil {
			texts["sql"] = *got
		}
	}
	if e.backend == "both" && texts["go"] != texts["sql"] {
		return wrong("The back ends differ: go gives %q, sql gives %q.", texts["go"], texts["sql"]), nil
	}
	for _, text := range texts {
		answer.Value = evalValue(checked.Type().Kind, text)
	}
	return answer, nil
}

// evalValue gives a value as it stands in the answer: yes or no as such, all
// else as text, nothing as null.
func evalValue(kind expr.Kind, text string) any {
	switch {
	case kind == expr.YesNo:
		return text == "true"
	case text == "":
		return nil
	}
	return text
}

func (l evalLine) clock() (expr.Clock, error) {
	zone, err := time.LoadLocation(l.Zone)
	if err != nil {
		return expr.Clock{}, fmt.Errorf("there is no time zone %q", l.Zone)
	}
	c := expr.Clock{Now: time.Now(), Zone: zone}
	if l.Today != "" {
		day, err := time.Parse(time.DateOnly, l.Today)
		if err != nil {
			return c, fmt.Errorf("today must be a date such as 2026-03-01, not %q", l.Today)
		}
		c.Now = c.At(day)
	}
	return c, nil
}

// values gives a catalog with the fields of the line, and what they hold.
func (l evalLine) values() (*expr.Catalog, map[string]expr.Value, error) {
	table := &expr.Table{ID: evalTable, Key: "records", Name: "the fields"}
	values := map[string]expr.Value{}
	var keys []string
	for key := range l.Fields {
		keys = append(keys, key)
	}
	sort.Strings(keys)
	b := &blueprint.Blueprint{Zone: l.Zone}
	for _, key := range keys {
		in := l.Fields[key]
		f := &blueprint.Field{Name: key, Type: blueprint.FieldType(in.Type)}
		switch f.Type {
		case blueprint.Text:
			f.Type = blueprint.LongText // which keeps line breaks
		case blueprint.Number, blueprint.YesNo, blueprint.Date, blueprint.TimeStamp:
		default:
			return nil, nil, fmt.Errorf("the type of %s must be text, number, yes/no, date or time stamp, not %q", key, in.Type)
		}
		table.Fields = append(table.Fields, &expr.Field{ID: key, Key: key, Name: key, Table: evalTable, Type: f.ExprType()})
		if len(in.Value) == 0 {
			continue
		}
		v, mistake := form.Accept(b, f, in.Value)
		if mistake != nil {
			return nil, nil, fmt.Errorf("%s: %s", key, mistake)
		}
		values[key] = v
	}
	return &expr.Catalog{Tables: map[string]*expr.Table{evalTable: table}, Lists: map[string]*expr.ChoiceList{}}, values, nil
}

// evalEnv holds the values of one line.
type evalEnv struct {
	values map[string]expr.Value
	clock  expr.Clock
}

func (evalEnv) Start(expr.Root) expr.Value                     { return expr.RecordOf("row") }
func (e evalEnv) Field(_ expr.Value, f *expr.Field) expr.Value { return e.values[f.Key] }
func (evalEnv) Records(string) []expr.Value                    { return nil }
func (evalEnv) Label(string, expr.Value) expr.Value            { return expr.Empty() }
func (e evalEnv) Clock() expr.Clock                            { return e.clock }
