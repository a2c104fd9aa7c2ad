package store

import (
	"database/sql/driver"
	"encoding/json"
	"fmt"
	"time"

	"compactparcel/core/item"
)

// Forever is the to_rev of a row that is valid now.
const Forever int64 = 1<<63 - 1

// CollectionKind says what a collection is.
type CollectionKind string

// The kinds of collections.
const (
	Library CollectionKind = "library"
	Site    CollectionKind = "site"
	Kit     CollectionKind = "kit"
	// Loose is what was read from a file that is no kit, for a kit in the making.
	Loose CollectionKind = "loose"
)

// KitState says whether a version of a kit can still change.
type KitState string

// The states of a kit version.
const (
	Making KitState = "making"
	Sealed KitState = "sealed"
)

// DeliveryState says how far a delivery is.
type DeliveryState string

// The states of a delivery, in the order in which it goes through them.
const (
	Opened  DeliveryState = "opened"
	Planned DeliveryState = "planned"
	Staged  DeliveryState = "staged"
	Live    DeliveryState = "live"
	Undone  DeliveryState = "undone"
)

// DraftState says what became of a draft.
type DraftState string

// The states of a draft.
const (
	DraftOpen      DraftState = "open"
	DraftLive      DraftState = "live"
	DraftDiscarded DraftState = "discarded"
)

// Op says what a draft does with an item.
type Op string

// What a draft does with an item.
const (
	Put    Op = "put"
	Delete Op = "delete"
)

// TrustPolicy says what is done about kits that no trusted key signed.
type TrustPolicy string

// The trust policies.
const (
	TrustIgnore  TrustPolicy = "ignore"
	TrustWarn    TrustPolicy = "warn"
	TrustRequire TrustPolicy = "require"
)

// Collection is a library, a site, a sealed kit or what was read from a file.
type Collection struct {
	ID       int64
	Kind     CollectionKind
	Name     string
	Title    string
	Revision int64
	Digest   item.Digest
	// Sum is the item.CollectionSum that the digest is of.
	Sum       []byte
	CreatedAt time.Time
}

// Revision is one state of a collection and what made it.
type Revision struct {
	CollectionID int64 `gorm:"primaryKey"`
	Rev          int64 `gorm:"primaryKey;autoIncrement:false"`
	At           time.Time
	ByUser       string
	Act          string
	Message      string
	Digest       item.Digest
	Changed      int
	DeliveryID   *int64
}

// Item is a temporal row.
type Item struct {
	ID           int64
	CollectionID int64
	ItemID       string
	Kind         item.Kind
	Key          string `gorm:"column:item_key"`
	// Slug is the address of a site's page, so that no two are at one.
	Slug             *string
	Doc              item.Digest
	NormalizedDigest item.Digest
	Bytes            int64
	Meta             Metadata
	State            item.Digest
	FromRev          int64
	ToRev            int64
}

// Address is the row's kind and key.
func (i Item) Address() item.Address { return item.Address{Kind: i.Kind, Key: i.Key} }

// Head gives the row as the core knows it.
func (i Item) Head() item.Head {
	return headOf(i.ItemID, i.Kind, i.Key, i.Doc, i.NormalizedDigest, i.Bytes, i.Meta)
}

func headOf(
	id string, kind item.Kind, key string, doc, normalized item.Digest, bytes int64, meta Metadata,
) item.Head {
	h := item.Head{
		ID:               id,
		Address:          item.Address{Kind: kind, Key: key},
		Doc:              doc,
		NormalizedDigest: normalized,
		Bytes:            bytes,
		Meta:             item.Meta(meta),
	}
	return h
}

// Metadata is an item's metadata as a column. What cannot be decoded fails where it is read: it is never an item
// without an address.
type Metadata item.Meta

// Scan reads a column.
func (m *Metadata) Scan(v any) error {
	var b []byte
	switch v := v.(type) {
	case []byte:
		b = v
	case string:
		b = []byte(v)
	}
	*m = Metadata{}
	if err := json.Unmarshal(b, (*item.Meta)(m)); err != nil {
		return fmt.Errorf("%w: an item's metadata (%w)", ErrDamaged, err)
	}
	return nil
}

// Value writes a column.
func (m Metadata) Value() (driver.Value, error) { return metaText(item.Meta(m)), nil }

func metaText(m item.Meta) string {
	b, err := json.Marshal(m)
	if err != nil {
		panic(err) // Meta holds only plain values
	}
	return string(b)
}

// Draft is a named set of changes over a site's live state.
type Draft struct {
	ID           int64
	CollectionID int64
	Name         string
	Token        string
	State        DraftState
	BaseRev      int64
	LiveRev      *int64
	Version      int
	ByUser       string
	CreatedAt    time.Time
	// LiveAt is when it goes live by itself, for LiveFor; LiveSays is why it did not.
	LiveAt   *time.Time
	LiveFor  string
	LiveSays string
}

// DraftItem is one change of a draft.
type DraftItem struct {
	DraftID          int64  `gorm:"primaryKey;autoIncrement:false"`
	ItemID           string `gorm:"primaryKey"`
	Op               Op
	Kind             item.Kind
	Key              string `gorm:"column:item_key"`
	Doc              item.Digest
	NormalizedDigest item.Digest
	Bytes            int64
	Meta             Metadata
	BaseState        item.Digest
}

// Head gives the changed item.
func (d DraftItem) Head() item.Head {
	return headOf(d.ItemID, d.Kind, d.Key, d.Doc, d.NormalizedDigest, d.Bytes, d.Meta)
}

// DraftPrecondition is what a draft relies on.
type DraftPrecondition struct {
	DraftID int64     `gorm:"primaryKey;autoIncrement:false"`
	Kind    item.Kind `gorm:"primaryKey"`
	Key     string    `gorm:"column:item_key;primaryKey"`
	State   item.Digest
}

// Origin says where an item came from; it outlives the item.
type Origin struct {
	ID               int64
	CollectionID     int64
	Kit              string
	KitKind          item.Kind
	KitKey           string
	Copy             int
	Version          string
	ItemID           string
	NormalizedDigest item.Digest
	// Doc and Meta are the item as it was delivered, which need not be as it is; empty
	// when only its normalized digest is known.
	Doc        item.Digest
	Bytes      int64
	Meta       string
	DeliveryID int64
}

// Doc is a text by its digest.
type Doc struct {
	Digest    item.Digest `gorm:"primaryKey"`
	Bytes     int64
	Coding    string
	Body      []byte
	CreatedAt time.Time
}

// Blob records that a file is in the blob store.
type Blob struct {
	Digest    item.Digest `gorm:"primaryKey"`
	Bytes     int64
	CreatedAt time.Time
}

// BlobLease keeps the sweep off a blob that is about to be referred to.
type BlobLease struct {
	ID     int64
	Digest item.Digest
	Until  time.Time
}

// KitName is a kit under all its versions.
type KitName struct {
	ID        int64
	Name      string
	CreatedAt time.Time
}

// TableName is the table of KitName.
func (KitName) TableName() string { return "kits" }

// KitVersion is a kit in the making or sealed.
type KitVersion struct {
	ID           int64
	KitID        int64
	Version      string
	State        KitState
	Making       string
	CollectionID *int64
	List         string
	Seal         string // its seal.json, or empty
	Digest       item.Digest
	File         item.Digest
	FileBytes    int64
	Etag         int
	ByUser       string
	CreatedAt    time.Time
	SealedAt     *time.Time
}

// Delivery is one kit going into one site.
type Delivery struct {
	ID           int64
	CollectionID int64
	KitVersionID int64
	State        DeliveryState
	Ask          string
	Plan         string
	PlanDigest   item.Digest
	DraftID      *int64
	Receipt      string
	Staged       string
	BaseRev      int64
	LiveRev      *int64
	UndoRev      *int64
	Etag         int
	ByUser       string
	CreatedAt    time.Time
	UpdatedAt    time.Time
}

// User is somebody who signs in.
type User struct {
	ID        int64
	Name      string
	Role      string
	Password  string
	Disabled  bool
	CreatedAt time.Time
}

// Session is a sign-in of the console.
type Session struct {
	Hash   string `gorm:"primaryKey"`
	UserID int64
	// Family is the sign-in that this secret and those before it belong to.
	Family    string
	Agent     string
	Place     string
	StartedAt time.Time
	CreatedAt time.Time
	RenewedAt time.Time
	ExpiresAt time.Time
}

// AccessToken lets a client in.
type AccessToken struct {
	ID        int64
	UserID    int64
	Name      string
	Hash      string
	Scope     string // the most that it may do; empty means everything its owner may do
	ExpiresAt *time.Time
	CreatedAt time.Time
	UsedAt    *time.Time
}

// SetupLink is the one-time link that makes the first admin.
type SetupLink struct {
	Hash      string `gorm:"primaryKey"`
	ExpiresAt time.Time
}

// TrustKey is a public key that a team trusts.
type TrustKey struct {
	ID        int64
	Team      string
	Name      string
	PublicKey string // Ed25519, 32 bytes in base64
	CreatedAt time.Time
}

// SiteTrust says whether kits for a site must be signed, and by whose keys.
type SiteTrust struct {
	CollectionID int64 `gorm:"primaryKey;autoIncrement:false"`
	Policy       TrustPolicy
	Team         string
}

// TableName is the table of SiteTrust.
func (SiteTrust) TableName() string { return "site_trust" }

// AuditEvent says who did what.
type AuditEvent struct {
	ID        int64
	At        time.Time
	ByUser    string
	Act       string
	Subject   string
	Message   string
	RequestID string
}
