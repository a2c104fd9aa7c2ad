-- +goose Up
-- What an item was as its kit delivered it: the base that later deliveries are held against.
ALTER TABLE origins
  ADD COLUMN doc CHAR(64) NOT NULL DEFAULT '' AFTER sense,
  ADD COLUMN bytes BIGINT NOT NULL DEFAULT 0 AFTER doc,
  ADD COLUMN meta MEDIUMTEXT NOT NULL DEFAULT '' AFTER bytes,
  ADD KEY origin_doc (doc);

-- What a staged delivery writes beside its draft when it goes live: origins and receipt.
ALTER TABLE deliveries ADD COLUMN staged LONGTEXT NOT NULL DEFAULT '' AFTER receipt;

-- +goose Down
ALTER TABLE deliveries DROP COLUMN staged;
ALTER TABLE origins DROP KEY origin_doc, DROP COLUMN doc, DROP COLUMN bytes, DROP COLUMN meta;
