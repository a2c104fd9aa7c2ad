package store

// Audit writes who did what, in the transaction of what was done.
func (t *Tx) Audit(e *AuditEvent) error { return t.db.Create(e).Error }
