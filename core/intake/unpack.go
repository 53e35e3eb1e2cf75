package intake

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"

	"pinegate/core/words"
)

// Bounds of what a workbook unfolds to, in bytes: of a part that is held in memory, of
// all of these, and of everything. What is larger than paged is read from the disk.
const (
	mostHeld     = 16 << 20
	mostHeldAll  = 48 << 20
	mostUnpacked = 1 << 30
	paged        = 1 << 20
	mostParts    = 5000
)

// aside are folders of a workbook in which nothing stands that is read.
var aside = map[string]bool{"media": true, "drawings": true, "charts": true, "chartsheets": true, "embeddings": true, "pivotcache": true,
	"pivottables": true, "externallinks": true, "printersettings": true, "customxml": true, "comments": true, "threadedcomments": true,
	"persons": true, "ctrlprops": true, "activex": true, "querytables": true, "slicers": true, "slicercaches": true, "model": true,
	"docprops": true, "docmetadata": true, "diagrams": true, "ink": true, "webextensions": true}

// needed tells whether a part of a workbook is read: where the sheets are, and what
// stands in their cells. Pictures, drawings and the like are not even unpacked.
func needed(name string) bool {
	name = strings.ToLower(strings.ReplaceAll(name, "\\", "/"))
	for folder := range strings.SplitSeq(path.Dir(name), "/") {
		if aside[folder] {
			return false
		}
	}
	switch path.Ext(name) {
	case ".rels":
		return !strings.Contains(name, "worksheets/_rels/")
	case ".xml":
		return !strings.HasPrefix(path.Base(name), "comments") && !strings.HasPrefix(path.Base(name), "calcchain")
	}
	return false
}

// onDisk tells whether a part is read from the disk where it is large.
func onDisk(name string) bool {
	name = strings.ToLower(strings.ReplaceAll(name, "\\", "/"))
	return name == "xl/sharedstrings.xml" || strings.HasPrefix(name, "xl/worksheets/sheet")
}

// unpackable gives a workbook with only what is needed of it, once it is sure that it
// does not unfold to more than can be had: what it says of that is not believed.
func unpackable(name string, raw []byte) ([]byte, error) {
	broken := func(err error) error {
		return words.New("intake-file-broken-book", "file", name, "error", err.Error())
	}
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return nil, broken(err)
	}
	if len(z.File) > mostParts {
		return nil, words.New("intake-file-unfolds", "file", name)
	}
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	var held, all int64
	for _, part := range z.File {
		if !needed(part.Name) || part.FileInfo().IsDir() {
			continue
		}
		most := mostUnpacked - all
		if !onDisk(part.Name) {
			most = min(mostHeld, mostHeldAll-held)
		}
		size, err := sizeOf(part, most)
		if errors.Is(err, errUnfolds) {
			return nil, words.New("intake-file-unfolds", "file", name)
		}
		if err != nil {
			return nil, broken(err)
		}
		if all += size; !onDisk(part.Name) || size <= paged {
			held += size
		}
		if err := w.Copy(part); err != nil {
			return nil, broken(err)
		}
	}
	if held > mostHeldAll {
		return nil, words.New("intake-file-unfolds", "file", name)
	}
	if err := w.Close(); err != nil {
		return nil, fmt.Errorf("pack %s again: %w", name, err)
	}
	return out.Bytes(), nil
}

var errUnfolds = errors.New("it unfolds to too much")

// sizeOf unpacks a part to see how large it is, and keeps nothing of it.
func sizeOf(part *zip.File, most int64) (int64, error) {
	if int64(part.UncompressedSize64) > most || part.UncompressedSize64 > mostUnpacked {
		return 0, errUnfolds
	}
	r, err := part.Open()
	if err != nil {
		return 0, err
	}
	size, err := io.Copy(io.Discard, io.LimitReader(r, most+1))
	if err = errors.Join(err, r.Close()); size > most {
		err = errUnfolds
	}
	return size, err
}
