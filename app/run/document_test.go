package run_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/words"
	"pinegate/store/files"
	"pinegate/store/runs"
)

// TestADocumentOnAFullDisk makes a document where there is no room for it: the run fails with words and takes all back, and
// can be tried again once there is room.
func TestADocumentOnAFullDisk(t *testing.T) {
	dir, err := os.MkdirTemp("", "pinegate-paper-")
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, os.RemoveAll(dir)) })
	if err := unix.Mount("tmpfs", dir, "tmpfs", 0, "size=256k,mode=755"); err != nil {
		t.Skipf("only who may mount disks can try a full one: %v", err)
	}
	t.Cleanup(func() { assert.NoError(t, unix.Unmount(dir, 0)) })
	b := newBusy(t,
		`{"kind":"add","what":"workflow","id":"write","values":{"kind":"press","name":"Write","roles":["r"],"record":"sail"}}`,
		`{"kind":"set","of":"write","values":{"rights":"app"}}`,
		`{"kind":"add","what":"step","into":"write","id":"t1","values":{"kind":"change","record":"this","values":[{"field":"price","value":"price + 1"}]}}`,
		`{"kind":"add","what":"step","into":"write","id":"t2","values":{"kind":"document","title":"Sail {{name}}","template":"papers","record":"this","field":"papers"}}`)
	b.runs.Files, err = files.Open(t.Context(), files.Folder(dir))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, b.runs.Files.Close()) })

	var word bytes.Buffer
	z := zip.NewWriter(&word)
	p, err := z.Create("word/document.xml")
	require.NoError(t, err)
	_, err = p.Write([]byte(`<w:document xmlns:w="w"><w:body><w:p><w:r><w:t>{{name}}</w:t></w:r></w:p></w:body></w:document>`))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	seat := b.Founder()
	sails := b.Blueprint().Table("sail")
	kept, err := b.runs.Files.Put(t.Context(), seat.FilesFolder(), files.Wanted{Name: "a.docx", Largest: 1 << 20},
		bytes.NewReader(word.Bytes()))
	require.NoError(t, err)
	require.NoError(t, b.Acts.Do(t.Context(), func(u *act.Unit) error {
		require.NoError(t, u.Road.Receive(t.Context(), seat, sails, sails.Field("papers"), kept))
		_, err := u.Road.Change(t.Context(), seat, sails, b.Sails["Jib"], 1,
			acttest.Values(t, map[string]any{"papers": []string{kept.ID}}), nil)
		return err
	}))
	price := func() string {
		return b.value("SELECT trim_scale(price)::text FROM @sails WHERE id = ?", b.Sails["Jib"])
	}
	was := price()

	ballast := dir + "/ballast"
	require.ErrorIs(t, os.WriteFile(ballast, make([]byte, 300<<10), 0o600), unix.ENOSPC)
	_, err = b.press(b.Member("Ines"), "write", b.Sails["Jib"])
	var told *words.Problem
	require.True(t, errors.As(err, &told), err)
	failed, _ := b.last()
	assert.Equal(t, runs.Failed, failed.Status)
	assert.Contains(t, *failed.Error, "The server has no room left for the document.")
	assert.Equal(t, was, price(), "all of it is taken back")

	require.NoError(t, os.Remove(ballast))
	_, err = b.runs.Again(t.Context(), b.App, failed)
	require.NoError(t, err)
	again, trace := b.last()
	assert.Equal(t, runs.Done, again.Status)
	assert.NotEqual(t, was, price())
	raw, err := json.Marshal(trace)
	require.NoError(t, err)
	assert.Contains(t, string(raw), "The document Sail Jib is made.")
	assert.NotEqual(t, kept.ID, b.value("SELECT papers[1] FROM @sails WHERE id = ?", b.Sails["Jib"]))
}
