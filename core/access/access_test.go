package access_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/demo"
)

var (
	ines   = access.Viewer{Memberships: []access.Membership{{Role: "r_own", Record: "i"}}}
	crew   = access.Viewer{Memberships: []access.Membership{{Role: "r_crew", Record: "c"}}}
	both   = access.Viewer{Memberships: append(ines.Memberships, crew.Memberships...)}
	role   = access.Viewer{Memberships: []access.Membership{{Role: "r_own"}}}
	nobody = access.Visitor()
)

func TestGrantsAddUpAndNothingIsAllowedWithoutOne(t *testing.T) {
	b := demo.Blueprint()
	for _, x := range []struct {
		name   string
		viewer access.Viewer
		table  string
		action blueprint.Action
		want   int
	}{
		{"an owner's boats", ines, "boat", blueprint.See, 1},
		{"an owner who is crew", both, "boat", blueprint.See, 2},
		{"an owner, nobody in particular", role, "boat", blueprint.See, 0},
		{"a rule that is not about the person", role, "ber", blueprint.See, 1},
		{"an owner's orders", ines, "ord", blueprint.See, 0},
		{"an owner deleting", ines, "boat", blueprint.Delete, 0},
		{"a visitor's boats", nobody, "boat", blueprint.See, 0},
		{"a visitor's notices", nobody, "news", blueprint.See, 1},
		{"no role at all", access.Viewer{}, "news", blueprint.See, 0},
		{"a role that is gone", access.Viewer{Memberships: []access.Membership{{Role: "x", Record: "y"}}}, "news", blueprint.See, 0},
		{"a table that is not there", ines, "x", blueprint.See, 0},
	} {
		grants, err := access.Grants(b, b.Catalog(), x.viewer, x.table, x.action)
		require.NoError(t, err, x.name)
		assert.Len(t, grants, x.want, x.name)
	}
}

func TestFields(t *testing.T) {
	b := demo.Blueprint()
	for _, x := range []struct {
		name   string
		viewer access.Viewer
		table  string
		field  string
		sees   bool
		sets   bool // when changing
	}{
		{"a field like any other", ines, "boat", "boat_name", true, true},
		{"a hidden one", ines, "boat", "boat_note", false, false},
		{"a fixed one", ines, "boat", "boat_owner", true, false},
		{"hidden by one role, shown by the other", both, "boat", "boat_note", true, true},
		{"hidden by both", both, "ber", "ber_fee", false, false},
		{"the address of people", crew, "own", "own_email", true, false},
		{"a founder", access.Viewer{Founder: true}, "ber", "ber_fee", true, true},
		{"a visitor", nobody, "boat", "boat_name", false, false},
	} {
		sees, err := access.Sees(b, b.Catalog(), x.viewer, x.table, x.field)
		require.NoError(t, err)
		assert.Equal(t, x.sees, sees, x.name)
		sets, err := access.MaySet(b, b.Catalog(), x.viewer, x.table, x.field, blueprint.Modify)
		require.NoError(t, err)
		assert.Equal(t, x.sets, sets, x.name)
	}
}

func TestPages(t *testing.T) {
	b := demo.Blueprint()
	for id, want := range map[string][]bool{ // ines, crew, both, visitor, no role, founder
		"p_home":   {true, true, true, true, true, true},
		"p_boats":  {true, false, true, false, false, true},
		"p_boat":   {true, true, true, false, false, true},
		"p_log":    {false, true, true, false, false, true},
		"p_owners": {false, false, false, false, false, true},
	} {
		for i, v := range []access.Viewer{ines, crew, both, nobody, {}, {Founder: true}} {
			assert.Equal(t, want[i], v.MayOpen(b.Page(id)), "%s, %d", id, i)
		}
	}
	signedIn := &blueprint.Page{Audience: blueprint.SignedIn}
	assert.True(t, ines.MayOpen(signedIn))
	assert.False(t, nobody.MayOpen(signedIn))
	assert.False(t, ines.MayOpen(&blueprint.Page{}), "a page without an audience is open to nobody")
}

func TestMe(t *testing.T) {
	b := demo.Blueprint()
	assert.Equal(t, "i", both.Me(b, "own"))
	assert.Equal(t, "c", both.Me(b, "crew"))
	assert.Empty(t, ines.Me(b, "crew"))
	assert.Empty(t, nobody.Me(b, ""))
	assert.True(t, ines.SignedIn())
	assert.False(t, nobody.SignedIn())
}
