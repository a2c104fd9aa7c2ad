-- +goose Up
-- So that the sweep finds at once whether a draft names a text.
ALTER TABLE draft_items ADD KEY IF NOT EXISTS draft_item_doc (doc);

-- +goose Down
ALTER TABLE draft_items DROP KEY IF EXISTS draft_item_doc;
