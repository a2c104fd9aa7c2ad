-- +goose Up
-- What an item was as its kit delivered it: the base that later deliveries are held against.
ALTER TABLE origins
  ADD COLUMN IF NOT EXISTS doc CHAR(64) NOT NULL DEFAULT '' AFTER sense,
  ADD COLUMN IF NOT EXISTS bytes BIGINT NOT NULL DEFAULT 0 AFTER doc,
  ADD COLUMN IF NOT EXISTS meta MEDIUMTEXT NOT NULL DEFAULT '' AFTER bytes,
  ADD KEY IF NOT EXISTS origin_doc (doc);

-- What a staged delivery writes beside its draft when it goes live: origins and receipt.
ALTER TABLE deliveries ADD COLUMN IF NOT EXISTS staged LONGTEXT NOT NULL DEFAULT '' AFTER receipt;

-- +goose Down
ALTER TABLE deliveries DROP COLUMN IF EXISTS staged;
ALTER TABLE origins DROP KEY IF EXISTS origin_doc, DROP COLUMN IF EXISTS doc, DROP COLUMN IF EXISTS bytes, DROP COLUMN IF EXISTS meta;
