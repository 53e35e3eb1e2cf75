// Package service puts together what services elsewhere are asked, and reads what they answer. It
// calls nobody.
package service

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/go-openapi/jsonpointer"
	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// Given are the values that are sent, by the ids of what is sent.
type Given func(id string) expr.Value

// Row is what was taken from an answer, or from a row of it, by the ids of what is taken.
type Row map[string]expr.Value

// Asked is what goes out.
type Asked struct {
	Path  string // escaped, RFC 3986
	Query url.Values
	Body  []byte // JSON; nil for none
}

// Line gives what is asked as people read it: the method, the path and the query.
func (a Asked) Line(method blueprint.Method) string {
	out := string(method) + " " + a.Path
	if len(a.Query) > 0 {
		out += "?" + a.Query.Encode()
	}
	return out
}

// Sampled reads the sample of the answer of a call, where nothing is asked; a problem in words tells that
// there is none.
func Sampled(of *blueprint.Connection, x *blueprint.Call) ([]Row, error) {
	if x.Sample == "" {
		return nil, words.New("service-sampled", "service", of.Name, "call", x.Name)
	}
	return Read(x, []byte(x.Sample))
}

// Compose puts together what a call sends. What is empty is not sent.
func Compose(x *blueprint.Call, given Given) (Asked, error) {
	out := Asked{Path: x.Path, Query: url.Values{}}
	inPath := map[string]bool{}
	for _, slot := range x.Slots() {
		if !slices.ContainsFunc(x.Sends, func(s blueprint.Sent) bool { return s.As == slot }) {
			return out, words.New("service-slot", "call", x.Name, "slot", slot)
		}
		inPath[slot] = true
	}
	body := map[string]any{}
	for i := range x.Sends {
		s := &x.Sends[i]
		v := given(s.ID)
		switch {
		case inPath[s.As]:
			text, err := segment(s.Name, v)
			if err != nil {
				return out, err
			}
			out.Path = strings.ReplaceAll(out.Path, "{"+s.As+"}", text)
		case v.IsEmpty():
		case !x.Method.Bodied():
			out.Query.Set(s.As, v.String())
		default:
			if err := put(body, strings.Split(s.As, "."), plain(v)); err != nil {
				return out, err
			}
		}
	}
	if !x.Method.Bodied() {
		return out, nil
	}
	var err error
	if out.Body, err = json.Marshal(body); err != nil {
		return out, fmt.Errorf("write what is sent: %w", err)
	}
	return out, nil
}

// segment writes a value as a piece of a path, which leads nowhere else.
func segment(name string, v expr.Value) (string, error) {
	text := v.String()
	if v.IsEmpty() || strings.Trim(text, ".") == "" {
		return "", words.New("service-empty", "name", name)
	}
	return url.PathEscape(text), nil
}

// plain gives a value as JSON knows it.
func plain(v expr.Value) any {
	switch v.Kind {
	case expr.Number:
		return json.Number(v.String())
	case expr.YesNo:
		return v.True()
	}
	return v.String()
}

// put puts a value at a place in an object.
func put(in map[string]any, at []string, v any) error {
	for _, name := range at[:len(at)-1] {
		inner, is := in[name].(map[string]any)
		if !is {
			if in[name] != nil {
				return words.New("service-twice", "as", strings.Join(at, "."))
			}
			inner = map[string]any{}
			in[name] = inner
		}
		in = inner
	}
	last := at[len(at)-1]
	if in[last] != nil {
		return words.New("service-twice", "as", strings.Join(at, "."))
	}
	in[last] = v
	return nil
}

// MostRows is how many rows of an answer are taken.
const MostRows = 1000

// Read takes from an answer, which is JSON, what a call takes. What is not there, or is of another
// kind than it should be, is empty; an answer without the list of its rows is refused.
func Read(x *blueprint.Call, raw []byte) ([]Row, error) {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	var whole any
	if err := d.Decode(&whole); err != nil || d.More() {
		return nil, words.New("service-nonsense")
	}
	if x.Rows == "" {
		return []Row{take(x, whole)}, nil
	}
	list, is := At(whole, x.Rows).([]any)
	if !is {
		return nil, words.New("service-no-rows", "at", x.Rows)
	}
	if len(list) > MostRows {
		return nil, words.New("service-rows", "n", MostRows)
	}
	out := []Row{}
	for _, one := range list {
		out = append(out, take(x, one))
	}
	return out, nil
}

func take(x *blueprint.Call, from any) Row {
	out := Row{}
	for i := range x.Takes {
		t := &x.Takes[i]
		if v := value(t.Type, At(from, t.From)); !v.IsEmpty() {
			out[t.ID] = v
		}
	}
	return out
}

// At gives what is at a place of some JSON (RFC 6901), nil where there is nothing.
func At(in any, pointer string) any {
	if pointer == "" || pointer == "/" {
		return in
	}
	p, err := jsonpointer.New(pointer)
	if err != nil {
		return nil
	}
	v, _, err := p.Get(in)
	if err != nil {
		return nil
	}
	return v
}

// longest is how long a text of an answer can be, in bytes.
const longest = blueprint.MostSample

// value reads a value of a type.
func value(t blueprint.FieldType, v any) expr.Value {
	text := ""
	switch v := v.(type) {
	case string:
		text = v
	case json.Number:
		text = v.String()
	case bool:
		if t == blueprint.YesNo {
			return expr.YesNoOf(v)
		}
		text = fmt.Sprint(v)
	default:
		return expr.Empty()
	}
	text = strings.ToValidUTF8(strings.ReplaceAll(text, "\x00", ""), "")
	if len(text) > longest {
		return expr.Empty()
	}
	switch t {
	case blueprint.Number:
		d, err := decimal.NewFromString(text)
		if err != nil || len(text) > 60 || d.Exponent() < -30 || d.Exponent() > 30 {
			return expr.Empty()
		}
		return expr.NumberOf(d)
	case blueprint.Date:
		for _, layout := range []string{time.DateOnly, time.RFC3339} {
			if day, err := time.Parse(layout, text); err == nil {
				return expr.Value{Kind: expr.Date, Text: day.Format(time.DateOnly)}
			}
		}
		return expr.Empty()
	case blueprint.TimeStamp:
		if moment, err := time.Parse(time.RFC3339, text); err == nil {
			return expr.TimeOf(moment)
		}
		return expr.Empty()
	case blueprint.YesNo:
		return expr.Empty()
	}
	return expr.TextOf(text)
}
