package store

import (
	"encoding/json"
	"time"

	"gorm.io/gorm"

	"pinegate/core/sentence"
)

// Builder is somebody who builds apps.
type Builder struct {
	ID       string
	Email    string
	Name     string
	Password string // argon2id, in PHC string format
	// ConfirmedAt is when the address was confirmed, nil before.
	ConfirmedAt *time.Time
	TotpSecret  *string // of the authenticator app, if there is one
}

// MemberRole says what somebody is in a workspace.
type MemberRole string

// The roles of members, each of which may what the next ones may.
const (
	Owner  MemberRole = "owner"
	Editor MemberRole = "editor"
	Viewer MemberRole = "viewer"
)

// MemberRoles lists the roles of members, the one that may most first.
func MemberRoles() []MemberRole { return []MemberRole{Owner, Editor, Viewer} }

// May tells whether a member with the role may what needs the other one.
func (r MemberRole) May(needs MemberRole) bool {
	at := map[MemberRole]int{Owner: 3, Editor: 2, Viewer: 1}
	return at[r] > 0 && at[r] >= at[needs]
}

// App is an app with the numbers of its newest draft revision and its live
// version; 0 means that it was never published.
type App struct {
	ID          string
	WorkspaceID string
	Slug        string
	Name        string
	Revision    int
	LiveVersion int
	CreatedAt   time.Time
	Database    string // in which its records lie
	DraftLevel  int    // of the tables that the system keeps in the environments
	LiveLevel   int
	Summary     *Summary `gorm:"serializer:json"` // nil until it is counted
	// Member is what whoever asked for the app is in its workspace.
	Member MemberRole `gorm:"->;-:migration"`
}

// Summary is what is told of an app without reading it: counted for a revision of
// its draft and the version that was live then.
type Summary struct {
	Revision, LiveVersion int
	Tables, Pages         int
	Theme                 string
	Unpublished           int // differences between the draft and what is live
}

// Version is a published state of an app.
type Version struct {
	AppID       string
	Number      int
	Blueprint   json.RawMessage       `gorm:"type:jsonb"`
	Differences []sentence.Difference `gorm:"type:jsonb;serializer:json"`
	MadeBy      string
	MadeByID    *string
	MadeAt      time.Time `gorm:"autoCreateTime"`
}

// BeforeCreate keeps the id of whoever publishes.
func (v *Version) BeforeCreate(tx *gorm.DB) error {
	v.MadeByID = WorkOf(tx.Statement.Context).Doer()
	return nil
}

// Status says whether an activity holds.
type Status string

// The states of an activity. What was undone is dropped when something else is
// done, and can then no longer be redone.
const (
	Done    Status = "done"
	Undone  Status = "undone"
	Dropped Status = "dropped"
)

// Activity is something that was done to a draft: changes to the blueprint, or
// writes to records.
type Activity struct {
	ID             int64
	AppID          string
	MadeAt         time.Time `gorm:"autoCreateTime"`
	MadeBy         string
	MadeByID       *string
	Sentences      []string `gorm:"type:jsonb;serializer:json"`
	BeforeRevision *int
	AfterRevision  *int
	Writes         json.RawMessage `gorm:"type:jsonb"`
	ImportID       *string
	Status         Status
}

// BeforeCreate keeps the id of whoever does it.
func (a *Activity) BeforeCreate(tx *gorm.DB) error {
	a.MadeByID = WorkOf(tx.Statement.Context).Doer()
	return nil
}

// Mail is a message that the mailbox caught.
type Mail struct {
	ID         int64
	AppID      *string
	ReceivedAt time.Time `gorm:"autoCreateTime"`
	Sender     string
	Recipients string
	ReplyTo    string // where answers go, or "" for the sender
	Subject    string
	Body       string
	Secret     bool   // it holds a code or a link for its recipient alone
	Files      string // names and sizes of what is attached
}

// Picture is a picture of a choice.
type Picture struct {
	ID    string
	AppID string
	Name  string
	Type  string // media type
	Size  int64  // bytes
}

// View is how the grid of a table is looked at: a builder's own, or for all who
// build the app where it has no builder.
type View struct {
	ID        string
	AppID     string
	TableID   string
	BuilderID *string
	Name      string
	Settings  ViewSettings `gorm:"type:jsonb;serializer:json"`
	ChangedAt time.Time
}

// ViewSettings are the columns of a view by the ids of fields, and which records
// it shows in which order.
type ViewSettings struct {
	Order  []string       `json:"order"`
	Hidden []string       `json:"hidden"`
	Widths map[string]int `json:"widths"` // pixels
	Frozen int            `json:"frozen"` // how many of the first columns stay in place
	Sort   string         `json:"sort" maxLength:"300"`
	Group  string         `json:"group" maxLength:"100"` // id of the field by which records are grouped, or ""
	Filter string         `json:"filter" maxLength:"10000"`
}
