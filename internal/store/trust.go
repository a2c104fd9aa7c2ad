package store

import "gorm.io/gorm/clause"

// Keys is the repository of keys that teams trust.
type Keys struct{ t *Tx }

// Keys gives the trusted keys.
func (t *Tx) Keys() Keys { return Keys{t} }

// List gives all keys by team and name.
func (r Keys) List() ([]TrustKey, error) {
	return all[TrustKey](r.t.db.Order("team, name, id"))
}

// InOrder gives all keys in the order in which they were trusted.
func (r Keys) InOrder() ([]TrustKey, error) { return all[TrustKey](r.t.db.Order("id")) }

// Create keeps a key. Its error is a duplicate where the team trusts it already.
func (r Keys) Create(k *TrustKey) error { return r.t.db.Create(k).Error }

// ByID gives a key.
func (r Keys) ByID(id int64) (*TrustKey, error) {
	return one[TrustKey](r.t.db.Where("id = ?", id))
}

// Delete forgets a key.
func (r Keys) Delete(k *TrustKey) error { return r.t.db.Delete(k).Error }

// CountOf counts the keys of a team.
func (r Keys) CountOf(team string) (int64, error) {
	var n int64
	err := r.t.db.Model(&TrustKey{}).Where("team = ?", team).Count(&n).Error
	return n, err
}

// TrustOf gives a site's policy about signed kits: to ignore signatures where none was set.
func (t *Tx) TrustOf(collection int64) (*SiteTrust, error) {
	var rows []SiteTrust
	if err := t.db.Where("collection_id = ?", collection).Limit(1).Find(&rows).Error; err != nil {
		return nil, err
	}
	if len(rows) == 0 {
		return &SiteTrust{CollectionID: collection, Policy: TrustIgnore}, nil
	}
	return &rows[0], nil
}

// SetTrust sets a site's policy.
func (t *Tx) SetTrust(row *SiteTrust) error {
	return t.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(row).Error
}
