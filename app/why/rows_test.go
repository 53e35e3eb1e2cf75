package why

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"pinegate/core/blueprint"
)

// TestEveryKindSaysWhy goes over the kinds of block: one that names tables, fields
// or pages of the app has to tell why somebody gets it.
func TestEveryKindSaysWhy(t *testing.T) {
	known := map[string]bool{}
	for _, k := range blueprint.BlockKinds() {
		if k.Forms == blueprint.OnlyInForms {
			continue // of which its form tells
		}
		known[k.Name] = true
		names := false
		for _, x := range blueprint.NewBlock(k.Name, "x").Props(blueprint.Context{}) {
			names = names || x.Control().To.What != ""
		}
		assert.Equal(t, names, rows[k.Name] != nil, "%s names something, or has no row: not both", k.Name)
	}
	for name := range rows {
		assert.True(t, known[name], "there is no kind %s", name)
	}
}
