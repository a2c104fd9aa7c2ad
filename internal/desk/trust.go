package desk

import (
	"context"
	"encoding/json"
	"strings"

	"compactparcel/core/kit"
	"compactparcel/internal/store"
)

// The trust policies of a site.
const (
	TrustIgnore  = store.TrustIgnore
	TrustWarn    = store.TrustWarn
	TrustRequire = store.TrustRequire
)

// SiteTrust says whether kits for a site must be signed, and by whose keys.
type SiteTrust struct {
	Policy store.TrustPolicy
	Team   string // empty: the keys of all teams count
}

// Signer is who signed a kit.
type Signer struct {
	KeyID   string
	Name    string // under which a team trusts the key
	Team    string
	Trusted bool
}

// TrustKeys lists the keys that teams trust.
func (d *Desk) TrustKeys(ctx context.Context, p Person) ([]store.TrustKey, error) {
	if err := p.may(Viewer, "trusted keys"); err != nil {
		return nil, err
	}
	rows, err := d.Store.Read(ctx).Keys().List()
	return rows, explain("trusted keys", err)
}

// TrustAdd trusts a key: a public key in PEM, or its 32 bytes in base64.
func (d *Desk) TrustAdd(ctx context.Context, p Person, team, name, key string) (*store.TrustKey, error) {
	if err := p.may(Keeper, "trusted keys"); err != nil {
		return nil, err
	}
	team, name, key = strings.TrimSpace(team), strings.TrimSpace(name), strings.TrimSpace(key)
	if team == "" || len(team) > 80 || len(name) > 80 {
		return nil, problem(BadInput, "the trusted key", To(Shorten),
			"names of teams and keys need 1 to 80 characters")
	}
	if strings.Contains(key, "PRIVATE KEY") {
		return nil, problem(BadInput, "the trusted key", To(ReplaceKeyPair), "this is a private key")
	}
	if !strings.HasPrefix(key, "-----") {
		text, _ := json.Marshal(kit.TrustList{Keys: []kit.TrustedKey{{Name: name, Key: key}}})
		key = string(text)
	} else {
		key = key[strings.Index(key, "-----"):]
	}
	list, err := kit.ParseTrust([]byte(key))
	if err != nil || len(list.Keys) != 1 {
		return nil, &Problem{
			Type:    BadInput,
			What:    "the trusted key",
			Message: "it is not a single Ed25519 public key",
			Remedy:  To(GivePublicKey),
			Err:     err,
		}
	}
	if name == "" {
		name = list.Keys[0].ID()
	}
	row := store.TrustKey{Team: team, Name: name, PublicKey: list.Keys[0].Key, CreatedAt: d.Now()}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		if err := tx.Keys().Create(&row); err != nil {
			return err
		}
		return d.audit(tx, p, "trust-key", team, name+" "+list.Keys[0].ID())
	})
	if store.IsDuplicate(err) {
		return nil, problem(Exists, "the trusted key", To(CheckName), "%s already trusts this key", team)
	}
	return &row, explain("the trusted key", err)
}

// TrustDrop trusts a key no more.
func (d *Desk) TrustDrop(ctx context.Context, p Person, id int64) error {
	if err := p.may(Keeper, "trusted keys"); err != nil {
		return err
	}
	return explain("the trusted key", d.Store.Tx(ctx, func(tx *store.Tx) error {
		row, err := tx.Keys().ByID(id)
		if err != nil {
			return err
		}
		if err := tx.Keys().Delete(row); err != nil {
			return err
		}
		return d.audit(tx, p, "distrust-key", row.Team, row.Name)
	}))
}

// Trust gives a site's policy; one that nobody set is to warn of nothing.
func (d *Desk) Trust(ctx context.Context, p Person, site string) (*SiteTrust, error) {
	if err := p.may(Viewer, "site "+site); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	return d.trustOf(ctx, c.ID)
}

func (d *Desk) trustOf(ctx context.Context, collection int64) (*SiteTrust, error) {
	row, err := d.Store.Read(ctx).TrustOf(collection)
	if err != nil {
		return nil, explain("the trust policy", err)
	}
	return &SiteTrust{row.Policy, row.Team}, nil
}

// SetTrust sets a site's policy.
func (d *Desk) SetTrust(ctx context.Context, p Person, site string, t SiteTrust) (*SiteTrust, error) {
	if err := p.may(Keeper, "site "+site); err != nil {
		return nil, err
	}
	if t.Policy != TrustIgnore && t.Policy != TrustWarn && t.Policy != TrustRequire {
		return nil, problem(BadInput, "the trust policy", OneOf("ignore", "warn", "require"), "%q is not a policy",
			t.Policy)
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	if t.Team != "" {
		n, err := d.Store.Read(ctx).Keys().CountOf(t.Team)
		if err != nil {
			return nil, explain("the trust policy", err)
		}
		if n == 0 {
			return nil, problem(NotFound, "team "+t.Team, To(TrustKeyFirst, "team", t.Team), "it trusts no key")
		}
	}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		if err := tx.SetTrust(&store.SiteTrust{CollectionID: c.ID, Policy: t.Policy, Team: t.Team}); err != nil {
			return err
		}
		return d.audit(tx, p, "trust-policy", site, string(t.Policy)+" "+t.Team)
	})
	return &t, explain("the trust policy", err)
}

// signers says who signed a sealed version. Only the keys of team count as trusted; those
// of all teams when it is empty.
func (d *Desk) signers(ctx context.Context, v *store.KitVersion, team string) ([]Signer, error) {
	out := []Signer{}
	if v.Seal == "" {
		return out, nil
	}
	k := kit.Kit{Seal: &kit.Seal{}}
	if err := json.Unmarshal([]byte(v.Seal), k.Seal); err != nil {
		return nil, err
	}
	if err := json.Unmarshal([]byte(v.List), &k.List); err != nil {
		return nil, err
	}
	rows, err := d.Store.Read(ctx).Keys().InOrder()
	if err != nil {
		return nil, err
	}
	for _, s := range k.Seal.Signatures {
		one := Signer{KeyID: s.KeyID}
		for _, r := range rows {
			key := kit.TrustedKey{Name: r.Name, Key: r.PublicKey}
			if key.ID() != s.KeyID || one.Trusted {
				continue
			}
			if _, err := k.Signers(&kit.TrustList{Keys: []kit.TrustedKey{key}}); err == nil {
				one.Name, one.Team, one.Trusted = r.Name, r.Team, team == "" || r.Team == team
			}
		}
		out = append(out, one)
	}
	return out, nil
}

// checkTrust holds a kit against a site's policy: a note to show, or a refusal.
func (d *Desk) checkTrust(
	ctx context.Context,
	c *store.Collection,
	v *store.KitVersion,
	what string,
) (note string, err error) {
	t, err := d.trustOf(ctx, c.ID)
	if err != nil || t.Policy == TrustIgnore {
		return "", err
	}
	signers, err := d.signers(ctx, v, t.Team)
	if err != nil {
		return "", explain(what, err)
	}
	whose := "anybody's"
	if t.Team != "" {
		whose = t.Team + "’s"
	}
	for _, s := range signers {
		if s.Trusted {
			return "signed by " + s.Name + " of " + s.Team, nil
		}
	}
	says := "the kit is not signed"
	if len(signers) > 0 {
		says = "the kit is signed by " + signers[0].KeyID + ", which is none of " + whose + " trusted keys"
	}
	if t.Policy == TrustRequire {
		return "", problem(Refused, what, To(SignOrTrust, "team", t.Team),
			"%s accepts only kits signed by a trusted key, and %s", c.Name, says)
	}
	return "Be careful: " + says + ".", nil
}
